# ruff: noqa: E501
"""Changes planted in the text of a file: each is told in its cell, and the unchanged file has none."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import pytest

from gondrel.core.service.prove import prove_files
from tests.builders import written

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
    ("revision", match(r"(PRODUCT_DEFINITION_FORMATION\(')A'", r"\1B'"), "revisions", "altered"),
    ("revision lost", match(r"(PRODUCT_DEFINITION_FORMATION\(')A'", r"\1'"), "revisions", "lost"),
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


@pytest.fixture(scope="module")
def sent(tmp_path_factory) -> str:
    return written("step-ap242", tmp_path_factory.mktemp("store")).decode("ascii")


def _proof(before: str, after: str, folder: Path):
    one, other = folder / "one.stp", folder / "other.stp"
    one.write_text(before, "ascii")
    other.write_text(after, "ascii")
    return prove_files(str(one), str(other), str(folder / "store"))[0]


def test_the_unchanged_file_has_nothing(sent, tmp_path) -> None:
    proof = _proof(sent, sent, tmp_path)
    assert proof.verdict == "carried"
    assert not [c for e in proof.ledger.entries for c in e.items if c.verdict != "carried"]


@pytest.mark.parametrize(("name", "edit", "thing", "verdict"), CHANGES, ids=[c[0] for c in CHANGES])
def test_a_change_is_told_in_its_cell(name, edit, thing, verdict, sent, tmp_path) -> None:
    changed = edit(sent)
    assert changed != sent
    proof = _proof(sent, changed, tmp_path)
    told = {c.verdict for c in proof.ledger.of(thing).items}
    assert verdict in told, [(c.item.aspect, c.verdict) for e in proof.ledger.entries for c in e.items]
    if thing not in ("validation", "remainder"):
        assert proof.verdict != "carried"
