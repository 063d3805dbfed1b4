"""OBJ and 3MF: names, colours, groups, polygons, components, and sending as triangles."""

from __future__ import annotations

import ctypes
from pathlib import Path

import pytest

from gondrel.core.errors import MalformedFile
from gondrel.core.model.body import BodyKind
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all, receive
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from tests.builders import small_assembly

OBJ = """mtllib in.mtl
o Lid
g Covers
v 0 0 0
v 2 0 0
v 2 3 0
v 0 3 0
v 0 0 4
v 2 0 4
v 2 3 4
v 0 3 4
usemtl grey
f 4 3 2 1
f 5 6 7 8
f 1 2 6 5
f 2 3 7 6
usemtl red
f 3 4 8 7
f -5 -8 -4 -1
"""
MTL = "newmtl grey\nKd 0.5 0.5 0.5\nnewmtl red\nKd 1 0 0\nd 0.25\n"


def _read(tmp_path: Path, store: str, text: str = OBJ, mtl: str | None = MTL):
    path = tmp_path / "in.obj"
    path.write_text(text)
    if mtl is not None:
        (tmp_path / "in.mtl").write_text(mtl)
    model = receive(str(path), store)
    return model, measure_all(model.blobs(), store)


def test_names_groups_colours_and_polygons(tmp_path, store_folder) -> None:
    model, facts = _read(tmp_path, store_folder)
    ((_, body),) = model.bodies()
    assert (body.name, body.layers, body.kind) == ("Lid", ("Covers",), BodyKind.MESH)
    assert facts[body.blob].volume == pytest.approx(24.0)
    assert body.colour is not None and body.colour.hex == "#808080"
    assert [c.label for _, c in body.face_colours] == ["#ff0000 75 % transparent"]


def test_a_polygon_that_is_not_convex(tmp_path, store_folder) -> None:
    text = "v 0 0 0\nv 4 0 0\nv 4 4 0\nv 2 1 0\nv 0 4 0\nf 1 2 3 4 5\n"
    model, facts = _read(tmp_path, store_folder, text, None)
    ((_, body),) = model.bodies()
    assert facts[body.blob].area == pytest.approx(10.0)


def test_a_missing_material_file_is_listed(tmp_path, store_folder) -> None:
    model, _ = _read(tmp_path, store_folder, OBJ, None)
    assert model.provenance is not None and model.provenance.file.missing_files == ("in.mtl",)


@pytest.mark.parametrize("line", ["f 1 2 99", "v 0 0 x", "f 1 2", "v 1 2"])
def test_senseless_lines_are_refused_with_their_number(line, tmp_path, store_folder) -> None:
    with pytest.raises(MalformedFile) as caught:
        _read(tmp_path, store_folder, f"v 0 0 0\nv 1 0 0\nv 0 1 0\n{line}\nf 1 2 3\n", None)
    assert caught.value.where == "line 4"


@pytest.mark.parametrize("files", ["one", "each"])
@pytest.mark.parametrize("kind", ["stl", "obj"])
@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_what_triangles_keep_is_foretold_exactly(kind, files, unit, tmp_path, store_folder) -> None:
    model = small_assembly(BlobStore(Path(store_folder)))
    settings = settings_from({"files": files, "unit": unit, "chord": "0.02"})
    sent = send(model, str(tmp_path / f"out.{kind}"), kind, settings, store_folder)
    assert not sent.proof.unannounced, sent.proof.unannounced
    assert not sent.proof.false_alarms, sent.proof.false_alarms
    assert sent.proof.max_deviation <= 0.0201
    written = [p for p in tmp_path.iterdir() if p.suffix == f".{kind}"]
    assert len(written) == (3 if files == "each" else 1)
    assert not list(tmp_path.glob(".sending*"))


def test_3mf_components_units_and_colours(tmp_path, store_folder) -> None:
    import lib3mf

    wrapper = lib3mf.get_wrapper()
    source = wrapper.CreateModel()
    source.SetUnit(lib3mf.ModelUnit.Inch)
    mesh = source.AddMeshObject()
    mesh.SetName("Block")
    for point in ((0, 0, 0), (1, 0, 0), (1, 2, 0), (0, 2, 0), (0, 0, 3), (1, 0, 3), (1, 2, 3), (0, 2, 3)):
        mesh.AddVertex(lib3mf.Position((ctypes.c_float * 3)(*point)))
    for corners in ((0, 2, 1), (0, 3, 2), (4, 5, 6), (4, 6, 7), (0, 1, 5), (0, 5, 4), (1, 2, 6), (1, 6, 5),
                    (2, 3, 7), (2, 7, 6), (3, 0, 4), (3, 4, 7)):  # fmt: skip
        mesh.AddTriangle(lib3mf.Triangle((ctypes.c_uint * 3)(*corners)))
    group = source.AddBaseMaterialGroup()
    red = group.AddMaterial("red", lib3mf.Color(255, 0, 0, 255))
    mesh.SetObjectLevelProperty(group.GetUniqueResourceID(), red)
    pair = source.AddComponentsObject()
    pair.SetName("Pair")
    for x in (0, 5):
        pair.AddComponent(mesh, wrapper.GetTranslationTransform(x, 0, 0))
    source.AddBuildItem(pair, wrapper.GetIdentityTransform())
    path = str(tmp_path / "in.3mf")
    source.QueryWriter("3mf").WriteToFile(path)

    model = receive(path, store_folder)
    facts = measure_all(model.blobs(), store_folder)
    assert [p.name for p in model.products] == ["Pair", "Block"] and model.units.key == "inch"
    assert [o.placement[3] for o in model.products[0].occurrences] == pytest.approx([0.0, 127.0])
    (body,) = model.products[1].bodies
    assert facts[body.blob].volume == pytest.approx(6 * 25.4**3, rel=1e-6)
    assert body.colour is not None and body.colour.hex == "#ff0000"
    (tmp_path / "broken.3mf").write_bytes((tmp_path / "in.3mf").read_bytes()[:900])
    with pytest.raises(MalformedFile):
        receive(str(tmp_path / "broken.3mf"), store_folder)
