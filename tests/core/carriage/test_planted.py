# ruff: noqa: E501
"""Changes planted in the text of a file: each is told in its cell, and the unchanged file has none."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest

from tests.core.carriage.planted import Original, original

pytestmark = pytest.mark.slow

Edit = Callable[[str], str]


def swap(old: str, new: str, count: int = 1) -> Edit:
    """Put one text in the place of another that must be there."""

    def edit(text: str) -> str:
        assert old in text, old
        return text.replace(old, new, count)

    return edit


def match(pattern: str, new: str | Callable[[re.Match[str]], str]) -> Edit:
    """Change the first place where a pattern fits; it must fit somewhere."""

    def edit(text: str) -> str:
        changed, count = re.subn(pattern, new, text, count=1)
        assert count, pattern
        return changed

    return edit


def add(*records: str) -> Edit:
    """Add records; {NAME} is the number of the first record that fits a pattern of _NUMBERS."""

    def edit(text: str) -> str:
        found = {}
        for name, pattern in _NUMBERS.items():
            known = re.search(pattern, text)
            assert known, pattern
            found[name] = f"#{known[1]}"
        lines = "\n".join(record.format(**found) for record in records)
        return text.replace("ENDSEC;\nEND-ISO", f"{lines}\nENDSEC;\nEND-ISO")

    return edit


def drop(pattern: str) -> Edit:
    """Take records away."""
    return match(rf"#\d+={pattern}[^;]*;\n", "")


_NUMBERS = {
    "plate": r"#(\d+)=MANIFOLD_SOLID_BREP\('Platte'",
    "pin": r"#(\d+)=MANIFOLD_SOLID_BREP\('Stift",
    "definition": r"#(\d+)=PRODUCT_DEFINITION\(",
    "red": r"#(\d+)=COLOUR_RGB\('',1\.,0\.,0\.\)",
    "style": r"#(\d+)=PRESENTATION_STYLE_ASSIGNMENT\(",
    "product": r"#(\d+)=PRODUCT\('P-2'",
    "style_of_own": r"#(\d+)=STYLED_ITEM\('color'",
    "context": r"ADVANCED_BREP_SHAPE_REPRESENTATION\([^;]*,#(\d+)\);",
}
_DATUM = (
    "#90001=PROPERTY_DEFINITION('user defined attribute','',{definition});",
    "#90002=DESCRIPTIVE_REPRESENTATION_ITEM('%s','%s');",
    "#90003=REPRESENTATION('',(#90002),{context});",
    "#90004=PROPERTY_DEFINITION_REPRESENTATION(#90001,#90003);",
)


def datum(key: str, value: str) -> Edit:
    """One more property of the first product."""
    return add(_DATUM[0], _DATUM[1] % (key, value), *_DATUM[2:])


def swapped_faces(text: str) -> str:
    """Two faces of the plate change their colours."""
    styled = re.findall(r"#\d+=OVER_RIDING_STYLED_ITEM\('[^']*',\((#\d+)\),(#\d+),", text)
    (one, _), (other, _) = styled[0], styled[1]
    assert one != other

    def turned(found: re.Match[str]) -> str:
        style = other if found[2] == one else one
        return f"{found[1]}{style}{found[3]}"

    pattern = r"(=OVER_RIDING_STYLED_ITEM\('[^']*',\()(#\d+)(\),)"
    return re.sub(pattern, turned, text, count=2)


CHANGES: tuple[tuple[str, Edit, str, str], ...] = (
    ("product name", swap("'Plate'", "'Plates'"), "names", "altered"),
    ("product name lost", swap("'P-2','Plate'", "'P-2',''"), "names", "lost"),
    ("number", swap("'P-2'", "'P-22'"), "numbers", "altered"),
    ("revision", match(r"(PRODUCT_DEFINITION_FORMATION\w*\(')A'", r"\1B'"), "revisions", "altered"),
    ("revision lost", match(r"(PRODUCT_DEFINITION_FORMATION\w*\(')A'", r"\1'"), "revisions", "lost"),
    ("description", swap("'turned'", "'milled'"), "metadata", "altered"),
    ("description gained", swap("'P-2','Plate',''", "'P-2','Plate','flat'"), "metadata", "added"),
    ("body name", swap("MANIFOLD_SOLID_BREP('Platte'", "MANIFOLD_SOLID_BREP('Blech'"), "names", "altered"),
    ("occurrence name", swap("'pin left'", "'pin far left'"), "names", "altered"),
    ("metadata value", match(r"(INTEGER_REPRESENTATION_ITEM\('Count',)7", r"\g<1>8"), "metadata", "altered"),
    ("real a little", match(r"0\.125\b", "0.125000001"), "metadata", "altered"),
    ("metadata key", swap("'Count'", "'Number'", 9), "metadata", "lost"),
    ("metadata gained", datum("Grade", "fine"), "metadata", "added"),
    ("second value of a key", datum("Text", "again"), "metadata", "added"),
    ("metadata of a component", swap("'Position','12'", "'Position','13'"), "metadata", "altered"),
    ("material", swap("'Bronze'", "'Brass'"), "materials", "altered"),
    ("density a little", match(r"7850\.", "7850.01"), "materials", "altered"),
    ("face colours change places", swapped_faces, "colours", "altered"),
    ("one colour", match(r"(COLOUR_RGB\('',)1\.,0\.,0\.", r"\g<1>1.,0.1,0."), "colours", "altered"),
    ("transparency a little", match(r"(SURFACE_STYLE_TRANSPARENT\()0\.5", r"\g<1>0.503"), "colours", "altered"),
    ("layer name", swap("LAYER_ASSIGNMENT('A'", "LAYER_ASSIGNMENT('AA'"), "layers", "altered"),
    ("layer lost", drop(r"PRESENTATION_LAYER_ASSIGNMENT\('A'"), "layers", "lost"),
    ("layer gained", add("#90001=PRESENTATION_LAYER_ASSIGNMENT('NEW','',({pin}));"), "layers", "added"),
    ("volume figure", match(r"(VOLUME_MEASURE\()(\d)", r"\g<1>9\2"), "validation", "altered"),
    ("number of children", match(r"('number of children',[A-Z_]+\()(\d)", r"\g<1>1\2"), "validation", "altered"),
    ("unit", match(r"SI_UNIT\(\.MILLI\.,\.METRE\.\)", "SI_UNIT(.CENTI.,.METRE.)"), "units", "altered"),
    ("radius", match(r"(CYLINDRICAL_SURFACE\('[^']*',#\d+,)6\.", r"\g<1>5.9"), "geometry", "altered"),
    ("component lost", drop("NEXT_ASSEMBLY_USAGE_OCCURRENCE"), "structure", "lost"),
    ("component turned over to another", swap("pin right", "pin wrong"), "names", "altered"),
    ("tolerance added", add("#90001=SHAPE_ASPECT('a','',{definition},.T.);"), "remainder", "added"),
)  # fmt: skip


SAID: tuple[tuple[str, Edit, str, str], ...] = (
    ("alias", swap("'OLD-1'", "'OLD-3'"), "numbers", "altered"),
    ("alias lost", drop(r"APPLIED_IDENTIFICATION_ASSIGNMENT\('OLD-1'"), "numbers", "lost"),
    ("role of an alias", swap("'an older one'", "'a newer one'"), "numbers", "altered"),
    ("number at a source", swap("'S-9'", "'S-8'"), "numbers", "altered"),
    ("source", swap("IDENTIFIER('supplier')", "IDENTIFIER('maker')"), "numbers", "altered"),
    ("further name", swap("NAME_ATTRIBUTE('Platte 2'", "NAME_ATTRIBUTE('Platte 3'"), "names", "altered"),
    ("category", swap("_CATEGORY('raw'", "_CATEGORY('bought'"), "metadata", "altered"),
    ("category lost", drop(r"PRODUCT_RELATED_PRODUCT_CATEGORY\('raw'"), "metadata", "lost"),
    ("class", swap("CLASS('bearing'", "CLASS('bush'"), "metadata", "altered"),
    ("group", swap("GROUP('cast'", "GROUP('forged'"), "metadata", "altered"),
    ("document", swap("DOCUMENT('D-1'", "DOCUMENT('D-2'"), "metadata", "altered"),
    ("document lost", drop("APPLIED_DOCUMENT_REFERENCE"), "metadata", "lost"),
    ("kind of a document", swap("DOCUMENT_TYPE('drawing'", "DOCUMENT_TYPE('text'"), "metadata", "altered"),
    ("person", swap("PERSON('7','Doe'", "PERSON('7','Roe'"), "metadata", "altered"),
    ("role of a person", swap("_ROLE('creator'", "_ROLE('checker'"), "metadata", "altered"),
    ("organisation", swap("ORGANIZATION('o','Works'", "ORGANIZATION('o','Yard'"), "metadata", "altered"),
    ("date", swap("CALENDAR_DATE(2020,1,2)", "CALENDAR_DATE(2020,2,2)"), "metadata", "altered"),
    ("date lost", drop("APPLIED_DATE_ASSIGNMENT"), "metadata", "lost"),
    ("moment", match(r"LOCAL_TIME\(3,4,5\.", "LOCAL_TIME(3,4,6."), "metadata", "altered"),
    ("approval", swap("APPROVAL_STATUS('approved'", "APPROVAL_STATUS('rejected'"), "metadata", "altered"),
    ("approval lost", drop("APPLIED_APPROVAL_ASSIGNMENT"), "metadata", "lost"),
    ("approver lost", drop("APPROVAL_PERSON_ORGANIZATION"), "metadata", "altered"),
    ("date of an approval lost", drop("APPROVAL_DATE_TIME"), "metadata", "altered"),
    ("security class", swap("_CLASSIFICATION('secret'", "_CLASSIFICATION('open'"), "metadata", "altered"),
    ("certification", swap("CERTIFICATION('3.1'", "CERTIFICATION('3.2'"), "metadata", "altered"),
    ("contract", swap("CONTRACT('c','p'", "CONTRACT('c','q'"), "metadata", "altered"),
    ("effectivity", swap("EFFECTIVITY('e','100'", "EFFECTIVITY('e','101'"), "metadata", "altered"),
    ("definition id", swap("PRODUCT_DEFINITION('D7'", "PRODUCT_DEFINITION('D8'"), "numbers", "altered"),
    ("definition description", swap("'as cast'", "'as forged'"), "metadata", "altered"),
    ("revision description", swap("'wider'", "'narrower'"), "metadata", "altered"),
    ("make or buy", swap(".BOUGHT.", ".MADE."), "metadata", "altered"),
    ("make or buy lost", swap(".BOUGHT.", ".NOT_KNOWN."), "metadata", "lost"),
    ("reference designator", swap("'R1'", "'R2'"), "names", "altered"),
    ("component description", swap("'the left one'", "'the right one'"), "metadata", "altered"),
    ("component id", swap("'N-7'", "'N-8'"), "numbers", "altered"),
    ("alias gained", add(
        "#90001=IDENTIFICATION_ROLE('alias','');",
        "#90002=APPLIED_IDENTIFICATION_ASSIGNMENT('NEW',#90001,({product}));"), "numbers", "added"),
    ("unit of a value", swap("SI_UNIT(.KILO.,.NEWTON.)", "SI_UNIT(.MEGA.,.NEWTON.)"), "metadata", "altered"),
    ("measure of a value", swap("LENGTH_MEASURE(2.5)", "POSITIVE_LENGTH_MEASURE(2.5)"), "metadata", "altered"),
    ("value with a unit", swap("FORCE_MEASURE(3.)", "FORCE_MEASURE(3.000001)"), "metadata", "altered"),
    ("property of a material", swap("PRESSURE_MEASURE(210.)", "PRESSURE_MEASURE(200.)"), "materials", "altered"),
    ("hidden body shown", drop("INVISIBILITY"), "layers", "lost"),
    ("body hidden", add("#90001=INVISIBILITY(({style_of_own}));"), "layers", "added"),
    ("layer description", swap("_ASSIGNMENT('A','first'", "_ASSIGNMENT('A','second'"), "layers", "altered"),
    ("property of a body", swap("LENGTH_MEASURE(1.5)", "LENGTH_MEASURE(1.6)"), "metadata", "altered"),
    ("property of a face", swap("RATIO_MEASURE(58.)", "RATIO_MEASURE(59.)"), "metadata", "altered"),
    ("name of a face", swap("ADVANCED_FACE('bore'", "ADVANCED_FACE('hole'"), "names", "altered"),
    ("name of a face lost", match(r"ADVANCED_FACE\('bore'", "ADVANCED_FACE(''"), "names", "altered"),
    ("layer of a face", swap("LAYER_ASSIGNMENT('F'", "LAYER_ASSIGNMENT('G'"), "layers", "altered"),
    ("coordinate system moved", match(r"(CARTESIAN_POINT\('',\()5\.,6\.,7\.", r"\g<1>5.,6.,7.5"),
     "geometry", "altered"),
    ("colour of an edge", match(r"(CURVE_STYLE\('',#\d+,POSITIVE_LENGTH_MEASURE\(0\.1\),)#\d+", r"\g<1>#90001"),
     "colours", "altered"),
    ("colour of an edge lost", drop(r"CURVE_STYLE\("), "colours", "altered"),
    ("colour of a back", match(r"\.NEGATIVE\.", ".POSITIVE."), "colours", "lost"),
    ("reflectance", swap("DIFFUSE_SPECULAR(0.1,", "DIFFUSE_SPECULAR(0.3,"), "colours", "altered"),
    ("colour of a face in one place", match(r"(PRESENTATION_STYLE_BY_CONTEXT\(\()#\d+", r"\g<1>#90001"),
     "colours", "altered"),
    ("date of an effectivity", swap("CALENDAR_DATE(2021,3,4)", "CALENDAR_DATE(2021,3,5)"), "metadata", "altered"),
    ("date as a value", match(r"CALENDAR_DATE\(2,\s*1\)", "CALENDAR_DATE(3,1)"), "metadata", "altered"),
    ("who classified", swap("'classification_officer'", "'classifier'"), "metadata", "altered"),
    ("plane renamed", match(r"PLANE\('PL'", "PLANE('PM'"), "geometry", "lost"),
    ("axis lost", swap("AXIS1_PLACEMENT('A'", "AXIS1_PLACEMENT('B'"), "geometry", "lost"),
    ("reference point moved", match(r"CARTESIAN_POINT\('PT',\(9\.", "CARTESIAN_POINT('PT',(9.1"),
     "geometry", "altered"),
)  # fmt: skip


@pytest.fixture(scope="module")
def sent(tmp_path_factory) -> Original:
    return original("step-ap242", ".stp", tmp_path_factory.mktemp("planted"))


def test_the_unchanged_file_has_nothing(sent) -> None:
    proof = sent.proof(sent.data)
    assert proof.verdict == "carried"
    assert not [c for e in proof.ledger.entries for c in e.items if c.verdict != "carried"]


def test_there_are_enough_of_them() -> None:
    assert len({name for name, *_ in (*CHANGES, *SAID)}) >= 80


@pytest.mark.parametrize(
    ("name", "edit", "thing", "verdict"), (*CHANGES, *SAID), ids=[c[0] for c in (*CHANGES, *SAID)]
)
def test_a_change_is_told_in_its_cell(name, edit, thing, verdict, sent) -> None:
    text = sent.data.decode("ascii")
    sent.tells(edit(text).encode("ascii"), thing, verdict)
