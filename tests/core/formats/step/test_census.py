"""Every record of a STEP file is accounted for."""

from __future__ import annotations

import gzip
import re
from pathlib import Path

import pytest

from gondrel.core.formats.step.links import links_of
from gondrel.core.formats.step.read import read
from gondrel.core.formats.step.records import open_records
from gondrel.core.formats.step.tokens import InstanceReference, Parameter, Typed
from gondrel.core.model.census import Census
from gondrel.core.model.store import BlobStore
from tests.builders import written
from tests.conftest import outside
from tests.core.formats.step.content import CONTENTS

pytestmark = pytest.mark.slow


@pytest.fixture(scope="module")
def plain(tmp_path_factory) -> str:
    """An assembly without anything that is not read, as AP242."""
    return written("step-ap242", tmp_path_factory.mktemp("store")).decode("ascii")


def _census(text: str, path: Path) -> Census:
    path.write_text(text, "ascii")
    model = read(str(path), BlobStore(path.parent / "store"))
    assert model.provenance is not None and model.provenance.census is not None
    census = model.provenance.census
    assert census.carried + census.serving + census.remainder == census.all
    with open_records(str(path)) as records:
        assert census.all == len(records) == len(re.findall(r"^#\d+=", path.read_text(), re.MULTILINE))
    return census


def _places(path: Path) -> dict[str, str]:
    """Numbers that content hangs on, of the part called Plate."""
    with open_records(str(path)) as records:
        product = next(r for r in records.of("PRODUCT") if r.text(1) == "Plate")
        formation = next(
            r for r in records.of("PRODUCT_DEFINITION_FORMATION") if r.ref(2) == product.number
        )
        definition = next(r for r in records.of("PRODUCT_DEFINITION") if r.ref(2) == formation.number)
        shape = next(r for r in records.of("PRODUCT_DEFINITION_SHAPE") if r.ref(2) == definition.number)
        solid = next(r for r in records.of("MANIFOLD_SOLID_BREP") if r.text(0) == "Platte")
        rep = next(r for r in records.of("ADVANCED_BREP_SHAPE_REPRESENTATION") if solid.number in r.refs(1))
        styled = next(r for r in records.of("STYLED_ITEM") if r.ref(2) == solid.number)
        shell = records.get(solid.ref(1))
        assert shell is not None
        found = {
            "product": product.number, "formation": formation.number, "pd": definition.number,
            "pds": shape.number, "solid": solid.number, "rep": rep.number, "context": rep.ref(2),
            "styled": styled.number, "face": shell.refs(1)[2],
            "edge": next(records.of("EDGE_CURVE")).number, "mm": next(records.of("LENGTH_UNIT")).number,
            "usage": next(records.of("NEXT_ASSEMBLY_USAGE_OCCURRENCE")).number,
        }  # fmt: skip
    return {name: f"#{number}" for name, number in found.items()}


def test_a_file_of_ours_leaves_nothing(plain, tmp_path) -> None:
    census = _census(plain, tmp_path / "plain.stp")
    assert census.remainder == 0 and not census.besides


def test_every_kind_of_content_is_read_or_remains(plain, tmp_path, capsys) -> None:
    """The table is printed: what was put in, and what was said of it."""
    clean = _census(plain, tmp_path / "clean.stp")
    places = _places(tmp_path / "clean.stp")
    table, missed = [], []
    for place, content in enumerate(CONTENTS):
        text = content.text.format(**places)
        text = re.sub(r"\bN(\d)\b", lambda m: f"#{900000 + int(m[1])}", text).replace(";", ";\n")
        added = text.count(";")
        census = _census(
            plain.replace("ENDSEC;\nEND-ISO", f"{text}ENDSEC;\nEND-ISO"), tmp_path / f"{place}.stp"
        )
        found = {each.type: each for each in (*census.rest, *census.besides)}
        if any(name not in found for name in content.remains):
            missed.append((content.name, sorted(found)))
        if not content.remains and (census.carried == clean.carried or census.remainder):
            missed.append((content.name, sorted(found)))
        told = ", ".join(f"{each.count} {name} ({each.kind})" for name, each in found.items())
        assert census.all == clean.all + added
        # What is taken from what serves is no gain: what was read stays read.
        assert census.carried >= clean.carried, content.name
        table.append(f"{content.name:<42} {told or 'read'}")
    with capsys.disabled():
        print("\n" + "\n".join(table))
    assert not missed
    assert len(CONTENTS) >= 65


@pytest.mark.parametrize("name", ["screw.step", "linkrods.step"])
def test_outside_files_add_up(name, tmp_path) -> None:
    """Debian's occt-misc."""
    path = outside(Path("/usr/share/opencascade/data/step")) / name
    text = re.sub(r"\r\n?", "\n", path.read_text("latin-1"))
    model = read(str(path), BlobStore(tmp_path / "store"))
    assert model.provenance is not None and model.provenance.census is not None
    census = model.provenance.census
    assert census.carried + census.serving + census.remainder == census.all
    assert census.all == len(re.findall(r"#\d+\s*=\s*[A-Z(]", re.sub(r"'[^']*'", "''", text)))
    assert census.remainder <= 1


def _named(value: Parameter) -> list[int]:
    if isinstance(value, InstanceReference):
        return [value.number]
    inner = value.parameters if isinstance(value, Typed) else value
    return [n for part in inner for n in _named(part)] if isinstance(inner, tuple) else []


def test_links_are_those_of_the_parsed_records(as1, tmp_path) -> None:
    """Against the parser of single records, which takes another way; with strings and comments."""
    data = gzip.decompress(Path(as1).read_bytes()) if as1.endswith(".gz") else Path(as1).read_bytes()
    tail = (
        b"#90001=LABEL('#1 it''s #2',#1);\n#90002=/* #1 */A(#2);\n#90003=B('''',#3,'#4');\nENDSEC;\nEND-ISO"
    )
    path = tmp_path / "linked.stp"
    path.write_bytes(re.sub(rb"ENDSEC;\s*END-ISO", tail, data))
    with open_records(str(path)) as records:
        links = links_of(records)
        for place in range(len(records)):
            record = records.at(place + 1)
            wanted = [n for part in record.parts.values() for n in _named(part)]
            assert [records.at(row + 1).number for row in links.of(place)] == wanted, record.number
