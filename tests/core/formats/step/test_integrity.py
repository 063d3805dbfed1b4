# ruff: noqa: E501
"""Damage to the records that bodies rest on: never another shape without a word, never an endless read."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import pytest

from gondrel.core.errors import InputError, LimitExceeded, MalformedFile
from gondrel.core.formats.step import integrity
from gondrel.core.formats.step.integrity import integrity_of
from gondrel.core.formats.step.links import links_of
from gondrel.core.formats.step.outline import Topology
from gondrel.core.formats.step.placed import Geometry
from gondrel.core.formats.step.records import open_records
from gondrel.core.model import Model, Product
from gondrel.core.model.notes import GRAVE
from gondrel.core.service.receive import receive
from tests.builders import written
from tests.conftest import outside

pytestmark = pytest.mark.slow

Edit = Callable[[str], str]


@pytest.fixture(scope="module")
def plain(tmp_path_factory) -> str:
    return written("step-ap242", tmp_path_factory.mktemp("store")).decode("ascii")


def _read(text: str, folder: Path) -> Model:
    path = folder / "damaged.stp"
    path.write_text(text, "latin-1")
    return receive(str(path), str(folder / "store"))


def first(pattern: str, text: str) -> re.Match[str]:
    found = re.search(pattern, text)
    assert found, pattern
    return found


def numbers(keyword: str, text: str) -> list[str]:
    return re.findall(rf"#(\d+)={keyword}\(", text)


def pointed(keyword: str, group: str, other: str) -> Edit:
    """The first record of a keyword refers to the last one of another instead.

    Args:
        group: pattern of the record with the reference as its group.
    """

    def edit(text: str) -> str:
        found = first(rf"#\d+={keyword}{group}", text)
        target = next(n for n in reversed(numbers(other, text)) if n != found[1])
        at = found.start(1)
        return text[:at] + target + text[found.end(1) :]

    return edit


def gone(keyword: str) -> Edit:
    """The first record of a keyword is not there."""
    return lambda text: re.sub(rf"#\d+={keyword}\([^;]*;\n", "", text, count=1)


def swap(pattern: str, new: str) -> Edit:
    def edit(text: str) -> str:
        first(pattern, text)
        return re.sub(pattern, new, text, count=1)

    return edit


def doubled(keyword: str) -> Edit:
    """The second record of a keyword has the number of the first."""

    def edit(text: str) -> str:
        one, other = numbers(keyword, text)[:2]
        return text.replace(f"#{other}={keyword}(", f"#{one}={keyword}(", 1)

    return edit


def twice(text: str) -> str:
    data = text[text.index("DATA;") : text.index("END-ISO-10303-21")]
    return text.replace("END-ISO-10303-21", data + "END-ISO-10303-21")


_FIRST = r"\('[^']*',#(\d+)"
_EDGE = r"\('[^']*',\*,\*,#(\d+)"
_LISTED = r"\('[^']*',\(#(\d+)"
TOLD: tuple[tuple[str, Edit, str], ...] = (
    ("face defined twice", doubled("ADVANCED_FACE"), "record-twice"),
    ("edge defined twice", doubled("EDGE_CURVE"), "record-twice"),
    ("point defined twice", doubled("CARTESIAN_POINT"), "record-twice"),
    ("oriented edge defined twice", doubled("ORIENTED_EDGE"), "record-twice"),
    ("all defined twice", twice, "record-twice"),
    ("oriented edge to another edge", pointed("ORIENTED_EDGE", _EDGE, "EDGE_CURVE"), "loop-torn"),
    ("oriented edge to a face", pointed("ORIENTED_EDGE", _EDGE, "ADVANCED_FACE"), "reference-wrong"),
    ("loop to a vertex", pointed("EDGE_LOOP", _LISTED, "VERTEX_POINT"), "reference-wrong"),
    ("edge to a point", pointed("EDGE_CURVE", _FIRST, "CARTESIAN_POINT"), "reference-wrong"),
    ("edge to another vertex", pointed("EDGE_CURVE", _FIRST, "VERTEX_POINT"), "loop-torn"),
    ("vertex to a direction", pointed("VERTEX_POINT", _FIRST, "DIRECTION"), "reference-wrong"),
    ("bound to a shell", pointed("FACE_BOUND", _FIRST, "CLOSED_SHELL"), "reference-wrong"),
    ("shell to an edge", pointed("CLOSED_SHELL", _LISTED, "EDGE_CURVE"), "reference-wrong"),
    ("solid to a face", pointed("MANIFOLD_SOLID_BREP", _FIRST, "ADVANCED_FACE"), "reference-wrong"),
    ("plane to a point", pointed("PLANE", _FIRST, "CARTESIAN_POINT"), "reference-wrong"),
    ("axis to an edge", pointed("AXIS2_PLACEMENT_3D", _FIRST, "EDGE_CURVE"), "reference-wrong"),
    ("line to a direction", pointed("LINE", _FIRST, "DIRECTION"), "reference-wrong"),
    ("edge without geometry", swap(r"(=EDGE_CURVE\('[^']*',#\d+,#\d+),#\d+", r"\1,$"), "reference-wrong"),
    ("edge without a vertex", swap(r"(=EDGE_CURVE\('[^']*',)#\d+", r"\1$"), "reference-wrong"),
    ("face without a surface", swap(r"(=ADVANCED_FACE\('[^']*',\([^)]*\)),#\d+", r"\1,$"), "reference-wrong"),
    ("face of five", swap(r"(=CLOSED_SHELL\('[^']*',\()#\d+,", r"\1"), "shell-open"),
    ("loop with an edge less", swap(r"(=EDGE_LOOP\('[^']*',\()#\d+,", r"\1"), "loop-torn"),
    ("loop with edges in another order", swap(r"(=EDGE_LOOP\('[^']*',\()(#\d+),(#\d+),", r"\1\3,\2,"), "loop-torn"),
    ("loop that contains itself", swap(r"#(\d+)(=EDGE_LOOP\('[^']*',\()#\d+", r"#\1\2#\1"), "reference-circular"),
    ("face is missing", gone("ADVANCED_FACE"), "dangling-reference"),
    ("surface is missing", gone("PLANE"), "dangling-reference"),
    ("vertex is missing", gone("VERTEX_POINT"), "dangling-reference"),
    ("axis is missing", gone("AXIS2_PLACEMENT_3D"), "dangling-reference"),
    ("representation is missing", gone("ADVANCED_BREP_SHAPE_REPRESENTATION"), "dangling-reference"),
    ("shape is missing", gone("SHAPE_REPRESENTATION"), "dangling-reference"),
    ("reference beyond 64 bits", swap(r"(=CLOSED_SHELL\('[^']*',\()#\d+", r"\1#99999999999999999999999"),
     "dangling-reference"),
    ("place beyond all numbers", swap(r"(CARTESIAN_POINT\('',\()0\.,0\.,0\.", r"\g<1>1.E999,0.,0."),
     "placement-senseless"),
    ("point beyond all numbers", swap(r"(CARTESIAN_POINT\('',\()60\.", r"\g<1>6.E999"), "coordinate-senseless"),
    ("flat point of an axis", swap(r"(CARTESIAN_POINT\('',\()0\.,0\.,0\.", r"\g<1>0.,0."), "record-senseless"),
    ("vector of four", swap(r"(=VECTOR\('')", r"\1,''"), "record-senseless"),
    ("plane of one", swap(r"(=PLANE\(''),#\d+", r"\1"), "reference-wrong"),
    ("plane moved away from its edges", swap(r"(=CARTESIAN_POINT\('',\()70\.(,0\.,0\.\)\);\n#\d+=DIRECTION)", r"\g<1>21.\2"), "edges-elsewhere"),
    ("prefix of a unit that is none", swap(r"SI_UNIT\(\.MILLI\.,\.METRE", "SI_UNIT(9813007,.METRE"), "unit-senseless"),
    ("prefix of a unit that is another word", swap(r"SI_UNIT\(\.MILLI\.,\.METRE", "SI_UNIT(.F.,.METRE"), "unit-senseless"),
    ("name of a unit that is another word", swap(r"SI_UNIT\(\.MILLI\.,\.METRE", "SI_UNIT(.MILLI.,.METRES"), "unit-senseless"),
    ("placement of what is no shape", lambda t: swap(r"(REPRESENTATION_RELATIONSHIP\('','',#\d+,)\s*#\d+(?=\)\s*REPRESENTATION_RELATIONSHIP_WITH)", r"\g<1>#" + re.search(r"#(\d+)=PROPERTY_DEFINITION_REPRESENTATION", t)[1])(t), "reference-wrong"),
    ("record behind the end", lambda t: swap(r"(#\d+=DIRECTION\('',\(-?0\.,1\.,0\.\)\);\n)((?:.|\n)*)", r"\2\1")(t), "dangling-reference"),
    ("word in an axis", swap(r"(=AXIS2_PLACEMENT_3D\(''),", r"\1l"), "record-senseless"),
    ("point out of reach", swap(r"(CARTESIAN_POINT\('',\()60\.", r"\g<1>6.E15"), "coordinate-senseless"),
)  # fmt: skip


def test_what_is_sound_is_not_doubted(plain, tmp_path) -> None:
    assert not [n for n in _read(plain, tmp_path).notes if n.code in GRAVE]


@pytest.mark.parametrize("name", ["screw.step", "linkrods.step"])
def test_sound_files_of_others_are_not_doubted(name) -> None:
    """Debian's occt-misc."""
    path = outside(Path("/usr/share/opencascade/data/step")) / name
    with open_records(str(path)) as records:
        found = integrity_of(records, links_of(records), Topology(records), Geometry(records))
    assert found.notes == () and found.senseless == () and found.circle == ()


@pytest.mark.parametrize(("name", "edit", "code"), TOLD, ids=[t[0] for t in TOLD])
def test_damage_is_a_grave_note_with_its_record(name, edit, code, plain, tmp_path) -> None:
    damaged = edit(plain)
    assert damaged != plain
    model = _read(damaged, tmp_path)
    told = {n.code: n.where for n in model.notes if n.code in GRAVE}
    assert code in told
    if code != "placement-senseless":
        assert re.fullmatch(r"#\d+", told[code])


@pytest.mark.parametrize("word", ["l#10", "NONE,#10", "#10,NONE"])
def test_a_word_without_brackets_is_found_in_a_large_file(word, plain, tmp_path, monkeypatch) -> None:
    monkeypatch.setattr(integrity, "_FEW", 0)
    path = tmp_path / "damaged.stp"
    path.write_text(re.sub(r"(=AXIS2_PLACEMENT_3D\('',)#\d+", rf"\g<1>{word}", plain, count=1), "latin-1")
    with open_records(str(path)) as records:
        found = integrity_of(records, links_of(records), Topology(records), Geometry(records))
        assert "AXIS2_PLACEMENT_3D" in {records.at(row + 1).keyword for row in found.senseless}


ASIDE: tuple[tuple[str, Edit], ...] = (
    ("side of a style is none", swap(r"(=SURFACE_STYLE_USAGE\(\.BOTH\.,)#\d+", r"\1CARTESIAN_POINT")),
    ("style without its kind", swap(r"=SURFACE_SIDE_STYLE\(", "=SURFACE_SIDE_STYlE(")),
    ("figure that is a unit", swap(r"=REPRESENTATION\('volume'", "=NAMED_UNIT('volume'")),
    ("reading of a property that is none", swap(r"(=REPRESENTATION\('volume',\()#\d+", r"\g<1>8556")),
    ("unit of a unit", swap(r"(=DERIVED_UNIT\(\(#\d+,)#\d+", r"\g<1>#20")),
)


@pytest.mark.parametrize(("name", "edit"), ASIDE, ids=[t[0] for t in ASIDE])
def test_damage_beside_the_shapes_leaves_them_and_is_told(name, edit, plain, tmp_path) -> None:
    damaged = edit(plain)
    assert damaged != plain
    model = _read(damaged, tmp_path)
    sound = _read(plain, tmp_path)
    assert [(b.name, b.blob) for _, b in model.bodies()] == [(b.name, b.blob) for _, b in sound.bodies()]
    assert model.provenance is not None and model.provenance.census is not None
    fresh = {n.code for n in model.notes} - {n.code for n in sound.notes}
    is_told = model.provenance.census.remainder or fresh
    is_all_there = [_said(p) for p in sound.products] == [_said(p) for p in model.products]
    assert is_told or is_all_there


def _said(product: Product) -> tuple[object, ...]:
    looks = tuple((b.colour, b.face_colours) for b in product.bodies)
    return product.name, product.validation, product.metadata, product.material, looks


REFUSED: tuple[tuple[str, Edit, type[Exception], str], ...] = (
    ("record number beyond 64 bits", swap(r"#\d+=ADVANCED_FACE", "#99999999999999999999999=ADVANCED_FACE"),
     MalformedFile, "23 digits"),
    ("brackets without end", lambda t: t.replace("DATA;", "DATA;\n#9=A" + "(" * 100_000, 1), MalformedFile, "nested"),
    ("brackets with types", lambda t: t.replace("DATA;", "DATA;\n#900001=A" + "(B" * 100_000 + ")" * 100_000 + ";", 1),
     MalformedFile, "nested"),
    ("blanks without end", lambda t: t[: t.index("DATA;")] + "DATA;\n#1=" + " " * 1_000_000, MalformedFile, "cut off"),
    ("component of itself", swap(r"(NEXT_ASSEMBLY_USAGE_OCCURRENCE\('1','plate','',)(#\d+),#\d+", r"\1\2,\2"),
     MalformedFile, "contains itself: Top > Top"),
    ("nothing in it", lambda t: t[: t.index("DATA;")] + "DATA;\nENDSEC;\nEND-ISO-10303-21;\n", MalformedFile, "no product"),
)  # fmt: skip


@pytest.mark.parametrize(("name", "edit", "kind", "said"), REFUSED, ids=[r[0] for r in REFUSED])
def test_what_can_not_be_read_is_one_clear_error(name, edit, kind, said, plain, tmp_path) -> None:
    with pytest.raises(kind, match=re.escape(said)) as caught:
        _read(edit(plain), tmp_path)
    assert isinstance(caught.value, InputError)
    assert caught.value.file.endswith("damaged.stp")


def _ring(text: str) -> str:
    """The part that is used contains the whole, by way of another."""
    uses = re.findall(r"NEXT_ASSEMBLY_USAGE_OCCURRENCE\('\d+','[^']*','',(#\d+),(#\d+)", text)
    (top, plate), (_, pin) = uses[0], uses[1]
    more = (
        f"#900001=NEXT_ASSEMBLY_USAGE_OCCURRENCE('9','a','',{plate},{pin},$);\n"
        f"#900002=NEXT_ASSEMBLY_USAGE_OCCURRENCE('9','b','',{pin},{top},$);\n"
    )
    return text.replace("ENDSEC;\nEND-ISO", more + "ENDSEC;\nEND-ISO")


def test_a_ring_of_assemblies_is_named(plain, tmp_path) -> None:
    with pytest.raises(MalformedFile, match="contains itself: Top > Plate > Pin > Top"):
        _read(_ring(plain), tmp_path)


def test_an_assembly_that_multiplies_is_refused_at_once(plain, tmp_path) -> None:
    """Four uses on each of 40 levels."""
    formation, context = first(
        r"=PRODUCT_DEFINITION\('design','',(#\d+),(#\d+)\)", plain
    ).groups()  # fmt: skip
    number, lines, above = 910_000, [], ""
    for level in range(40):
        own, number = f"#{number}", number + 10
        lines.append(f"{own}=PRODUCT_DEFINITION('l{level}','',{formation},{context});")
        if above:
            lines += [
                f"#{number - 9 + n}=NEXT_ASSEMBLY_USAGE_OCCURRENCE('{n}','u','',{above},{own},$);"
                for n in range(4)
            ]
        above = own
    text = plain.replace("ENDSEC;\nEND-ISO", "\n".join(lines) + "\nENDSEC;\nEND-ISO")
    with pytest.raises(LimitExceeded, match="components in all"):
        _read(text, tmp_path)
