from __future__ import annotations

from pathlib import Path

import pytest

from gondrel.core.errors import InputError, MalformedFile
from gondrel.core.formats.step.card import read_card, schema_name
from gondrel.core.formats.step.graph import read_graph
from gondrel.core.formats.step.records import open_records

HEAD = (
    "ISO-10303-21;HEADER;FILE_DESCRIPTION((''),'2;1');FILE_NAME('n','2020-01-02',('Me'),('Us'),'t','s','');"
)
UNITS = (
    "#90=(LENGTH_UNIT()NAMED_UNIT(#93)CONVERSION_BASED_UNIT('INCH',#91));"
    "#91=LENGTH_MEASURE_WITH_UNIT(LENGTH_MEASURE(25.4),#92);"
    "#92=(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT(.MILLI.,.METRE.));#93=DIMENSIONAL_EXPONENTS(1.,0.,0.,0.,0.,0.,0.);"
    "#94=(GEOMETRIC_REPRESENTATION_CONTEXT(3)GLOBAL_UNIT_ASSIGNED_CONTEXT((#90))REPRESENTATION_CONTEXT('',''));"
)


def step_file(folder: Path, data: str, end: str = "ENDSEC;END-ISO-10303-21;", schema: str = "X") -> str:
    path = folder / "file.stp"
    path.write_text(f"{HEAD}FILE_SCHEMA(('{schema}'));ENDSEC;\nDATA;\n{data}{end}", encoding="latin-1")
    return str(path)


def test_card_of_a_real_file(as1: str) -> None:
    card = read_card(as1)
    assert (card.schema, card.length_unit, card.mm_per_unit) == ("AP203ed2", "mm", 1.0)
    assert (card.count("products"), card.count("occurrences"), card.count("solids")) == (9, 13, 5)
    assert card.written_by.date.startswith("2008-07-23")
    assert card.uncertainty == pytest.approx(5.405e-13)


def test_inches_are_found_through_their_conversion(tmp_path: Path) -> None:
    card = read_card(step_file(tmp_path, UNITS))
    assert (card.length_unit, card.mm_per_unit) == ("inch", 25.4)


def test_no_unit_is_told(tmp_path: Path) -> None:
    assert "no-unit" in [n.code for n in read_card(step_file(tmp_path, "#1=A();")).notes]


@pytest.mark.parametrize(
    ("text", "name"),
    [
        ("CONFIG_CONTROL_DESIGN", "AP203"),
        ("AUTOMOTIVE_DESIGN { 1 0 10303 214 1 1 1 1 }", "AP214"),
        ("AP203_CONFIGURATION_CONTROLLED_3D_DESIGN_OF_MECHANICAL_PARTS_AND_ASSEMBLIES_MIM_LF", "AP203ed2"),
        ("AP242_MANAGED_MODEL_BASED_3D_ENGINEERING_MIM_LF", "AP242"),
    ],
)
def test_schema_names(text: str, name: str) -> None:
    assert schema_name(text) == name


def test_missing_endsec_is_let_pass(tmp_path: Path) -> None:
    with open_records(step_file(tmp_path, "#1=A('x');", end="\nEND-ISO-10303-21;")) as records:
        assert records.is_complete
        assert len(records) == 1


def test_dangling_references_are_found_but_not_those_in_strings(tmp_path: Path) -> None:
    with open_records(step_file(tmp_path, "#1=A('#77',#2);#2=B(#99);")) as records:
        assert records.dangling() == [(2, 99)]


def test_records_out_of_order_are_found_by_number(tmp_path: Path) -> None:
    with open_records(step_file(tmp_path, "#30=A('x');#7=B('y');#12=C('z');")) as records:
        found = records.get(7)
        assert found is not None
        assert (found.keyword, found.text(0)) == ("B", "y")
        assert records.get(8) is None


def test_an_unended_record_is_named(tmp_path: Path) -> None:
    with open_records(step_file(tmp_path, "#1=A('x')\n#2=B('y');#3=C();")) as records:
        assert records.swallowed() == 1


def test_cut_off_file_says_where(tmp_path: Path) -> None:
    path = step_file(tmp_path, "#1=A('x');#2=B(", end="")
    with pytest.raises(MalformedFile, match=r"cut off after record #1") as caught:
        read_card(path)
    assert caught.value.file == path


def test_empty_and_missing_files(tmp_path: Path) -> None:
    (tmp_path / "empty.stp").write_bytes(b"")
    with pytest.raises(MalformedFile, match="empty"):
        open_records(str(tmp_path / "empty.stp"))
    with pytest.raises(InputError, match="No such file"):
        open_records(str(tmp_path / "none.stp"))


def test_properties_materials_and_validation(tmp_path: Path) -> None:
    data = (
        "#1=PRODUCT('N-1','Name','said',());#2=PRODUCT_DEFINITION_FORMATION('C','',#1);"
        "#3=PRODUCT_DEFINITION('','',#2,$);#4=PRODUCT_DEFINITION_SHAPE('','',#3);"
        "#10=PROPERTY_DEFINITION('Finish','',#3);#11=DESCRIPTIVE_REPRESENTATION_ITEM('Finish','Gr\\X\\FCn');"
        "#12=REPRESENTATION('',(#11),#94);#13=PROPERTY_DEFINITION_REPRESENTATION(#10,#12);"
        "#20=PROPERTY_DEFINITION('geometric validation property','',#4);"
        "#21=MEASURE_REPRESENTATION_ITEM('volume measure',VOLUME_MEASURE(2.),#25);"
        "#22=REPRESENTATION('volume',(#21),#94);#23=PROPERTY_DEFINITION_REPRESENTATION(#20,#22);"
        "#24=DERIVED_UNIT_ELEMENT(#90,3.);#25=DERIVED_UNIT((#24));"
        "#30=PROPERTY_DEFINITION('material property','density',#3);#32=REPRESENTATION('density',(#31),#94);"
        "#31=MEASURE_REPRESENTATION_ITEM('density',POSITIVE_RATIO_MEASURE(7850.),#36);"
        "#33=PROPERTY_DEFINITION_REPRESENTATION(#30,#32);"
        "#34=DERIVED_UNIT_ELEMENT(#37,1.);#35=DERIVED_UNIT_ELEMENT(#38,-3.);#36=DERIVED_UNIT((#34,#35));"
        "#37=(MASS_UNIT()NAMED_UNIT(*)SI_UNIT(.KILO.,.GRAM.));"
        "#38=(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT($,.METRE.));"
        "#40=PROPERTY_DEFINITION('','user defined',#3);#41=REPRESENTATION('',(#42,#43,#44),#94);"
        "#42=INTEGER_REPRESENTATION_ITEM('n',3);#43=REAL_REPRESENTATION_ITEM('x',2.5);"
        "#44=BOOLEAN_REPRESENTATION_ITEM('ok',.F.);#45=PROPERTY_DEFINITION_REPRESENTATION(#40,#41);"
    )
    with open_records(step_file(tmp_path, data + UNITS)) as records:
        product = read_graph(records).products[3]
    assert (product.number, product.name, product.revision, product.description) == (
        "N-1",
        "Name",
        "C",
        "said",
    )
    assert [(m.key, m.value, m.kind) for m in product.metadata] == [
        ("Finish", "Gr\u00fcn", "text"),
        ("n", 3, "integer"),
        ("x", 2.5, "real"),
        ("ok", False, "boolean"),
    ]
    assert product.volume == pytest.approx(2 * 25.4**3)
    assert product.density == pytest.approx(7850.0)
