"""What a mesh file holds is accounted for, and its proof tells what its triangles measure."""

from __future__ import annotations

import struct
from pathlib import Path

import numpy as np
import pytest

from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling.build import cut, cylinder, sphere
from gondrel.core.model import Body, BodyKind, Model, Product
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all, receive
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from tests.conftest import outside
from tests.shapes import disc, turned

pytestmark = pytest.mark.slow

SHAPES = {
    "sphere": lambda: sphere(20.0),
    "ring": lambda: turned(disc(30.0, 0.0, 8.0)),
    "bush": lambda: cut(cylinder(15, 40), cylinder(9, 60, at=(0, 0, -10))),
}


def triangles_of(path: Path) -> np.ndarray:
    """The corners of the triangles of a binary STL file, (n, 3, 3), by this test's own reading."""
    data = path.read_bytes()
    count = struct.unpack_from("<I", data, 80)[0]
    rows = [struct.unpack_from("<12f", data, 84 + 50 * i)[3:] for i in range(count)]
    return np.array(rows, np.float64).reshape(-1, 3, 3)


@pytest.mark.parametrize("chord", ["0.5", "0.05", "0.01"])
@pytest.mark.parametrize("name", [*SHAPES, "screw.step"])
def test_volume_error_is_that_of_the_files_own_triangles(name, chord, tmp_path, store_folder) -> None:
    if name in SHAPES:
        store = BlobStore(Path(store_folder))
        blob = store.put(shape_to_blob(SHAPES[name]()))
        model = Model((Product("p", "1", name, bodies=(Body("b", BodyKind.SOLID, name, blob),)),), ("p",))
    else:
        model = receive(str(outside(Path("/usr/share/opencascade/data/step")) / name), store_folder)
    facts = measure_all(model.blobs(), store_folder)
    true = sum(facts[body.blob].volume for _, body in model.bodies())
    out = tmp_path / "out.stl"
    proof = send(model, str(out), "stl", settings_from({"chord": chord}), store_folder).proof
    corners = triangles_of(out)
    volume = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
    assert proof.max_volume_error == pytest.approx(abs(volume - true) / true, abs=1e-9)
    assert proof.max_volume_error > 1e-7
    assert proof.max_shift is not None and proof.max_shift < 1e-4


def test_a_mesh_has_no_surfaces_to_measure_from(tmp_path, store_folder) -> None:
    path = outside(Path("/usr/share/opencascade/data/stl")) / "shape.stl"
    model = receive(str(path), store_folder)
    proof = send(model, str(tmp_path / "out.stl"), "stl", settings_from({}), store_folder).proof
    assert proof.max_deviation is None and proof.max_volume_error is None


def _census(path: Path, store: str):
    model = receive(str(path), store)
    assert model.provenance is not None and model.provenance.census is not None
    census = model.provenance.census
    assert census.carried + census.serving + census.remainder == census.all
    return census, {each.type: each.count for each in census.rest}


def test_stl_header_and_attribute_words_remain(tmp_path, store_folder) -> None:
    corner = [(0, 0, 0), (1, 0, 0), (0, 1, 0), (0, 0, 1)]
    faces = [(0, 2, 1), (0, 1, 3), (1, 2, 3), (0, 3, 2)]
    path = tmp_path / "in.stl"

    def write(head: bytes, words: tuple[int, ...]) -> None:
        rows = (
            struct.pack("<12fH", 0, 0, 0, *(v for c in face for v in corner[c]), word)
            for face, word in zip(faces, words, strict=True)
        )
        path.write_bytes(head.ljust(80, b"\0") + struct.pack("<I", 4) + b"".join(rows))

    write(b"", (0, 0, 0, 0))
    census, told = _census(path, store_folder)
    assert (census.all, census.carried, told) == (5, 4, {})
    write(b"COLOR=\1\2\3", (0, 31, 0, 992))
    census, told = _census(path, store_folder)
    assert census.all == 7 and told == {"header": 1, "attribute byte count": 2}


def test_obj_statements_remain_by_keyword(tmp_path, store_folder) -> None:
    path = tmp_path / "in.obj"
    path.write_text(
        "# a remark\nmtllib gone.mtl\no Lid\nv 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nvn 0 0 1\nvt 0 0\n"
        "usemtl grey\ns 1\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 1 4 3\nl 1 2\np 1\ncurv 0 1 1 2\n"
    )
    census, told = _census(path, store_folder)
    assert (census.all, census.carried, census.serving) == (17, 5, 4)
    assert told == {"mtllib": 1, "vn": 1, "vt": 1, "usemtl": 1, "s": 1, "l": 1, "p": 1, "curv": 1}
