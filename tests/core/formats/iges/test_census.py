"""Every entity of an IGES file is accounted for."""

from __future__ import annotations

from pathlib import Path

import pytest

from gondrel.core.formats.iges.compose import EntityComposer
from gondrel.core.formats.iges.records import open_iges
from gondrel.core.service.receive import receive
from tests.conftest import outside
from tests.core.formats.iges.texts import add_block, add_lid, text_of

pytestmark = pytest.mark.slow


def _census(data: bytes, tmp_path: Path, store: str):
    path = tmp_path / "in.igs"
    path.write_bytes(data)
    model = receive(str(path), store)
    assert model.provenance is not None and model.provenance.census is not None
    census = model.provenance.census
    assert census.carried + census.serving + census.remainder == census.all
    assert census.all == len(open_iges(str(path)).entities)
    return census, {(each.kind, each.type): each.count for each in census.rest}


def test_looks_names_and_places_leave_nothing(tmp_path, store_folder) -> None:
    def fill(make: EntityComposer) -> None:
        body = add_lid(make)
        pin = make.add(308, [0, b"Pin", 1, body])
        make.add(408, [pin, 10.0, 0.0, 0.0, 1.0])

    census, told = _census(text_of(fill), tmp_path, store_folder)
    assert told == {} and census.carried >= 5


def test_what_is_not_read_remains_by_type(tmp_path, store_folder) -> None:
    def fill(make: EntityComposer) -> None:
        body = add_block(make, 2, 3, 4)
        make.add(212, [1, 4, 1.0, 1.0, 1, 0.0, 0.0, 0, 0, 0.0, 0.0, 0.0, b"note"])
        make.add(410, [1, 1.0])
        make.add(314, [1.0, 2.0, 3.0, b"spare"])
        make.add(406, [2, 0, b"Spare level"], form=3, level=9)
        make.add(150, [1.0, 2.0, 3.0])
        make.add(999, [1])
        heat = make.add(406, [1, b"heat 17"], form=27)
        make.link(body, [heat])

    _, told = _census(text_of(fill), tmp_path, store_folder)
    assert told == {
        ("annotations, dimensions and tolerances", "212 (general note)"): 1,
        ("drawings and views", "410 (view)"): 1,
        ("colours and styles", "314 (colour definition)"): 1,
        ("properties", "406 form 3 (property)"): 1,
        ("properties", "406 form 27 (property)"): 1,
        ("solids given by their construction", "150 (block)"): 1,
        ("entities of other kinds", "999 (entity of an unknown type)"): 1,
    }


@pytest.mark.parametrize("name", ["bearing.iges", "hammer.iges"])
def test_outside_files_add_up(name, tmp_path, store_folder) -> None:
    """Debian's occt-misc: two lines of the directory section for each entity."""
    path = outside(Path("/usr/share/opencascade/data/iges")) / name
    lines = path.read_text("latin-1").splitlines()
    directory = sum(line[72:73] == "D" for line in lines)
    census, told = _census(path.read_bytes(), tmp_path, store_folder)
    assert census.all == directory // 2 and told == {}
