"""Bodies of the picture, without a window: pieces, picking, gathering, marks."""

from __future__ import annotations

import numpy as np
import pytest
from vtkmodules.vtkRenderingCore import vtkCamera

from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.kernel.examples.broken import solid_of
from gondrel.core.kernel.mesh.triangulation import make_mesh
from gondrel.core.kernel.modelling.build import block, cut, cylinder
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product, Rgba
from gondrel.core.model.findings import Finding, Severity
from gondrel.ui.presenters.scale import scale_for
from gondrel.ui.scene import body_mesh
from gondrel.ui.scene.batch import Batch, can_batch
from gondrel.ui.scene.bodies import Look, Scene
from gondrel.ui.scene.body_mesh import BodyMesh
from gondrel.ui.scene.crowd import Crowd
from gondrel.ui.scene.marks import (
    edge_mark,
    face_mark,
    face_outline,
    finding_marks,
    nearest_edge,
    outline_mark,
)

RED, CLEAR = Rgba(1.0, 0.0, 0.0), Rgba(0.0, 0.5, 1.0, 0.4)


def mesh_of(shape) -> BodyMesh:
    return BodyMesh.from_bytes(make_mesh(shape, chord=0.2).to_bytes())


@pytest.fixture
def scene() -> Scene:
    """Two blocks side by side, one mirrored to x from -80 to -60, and a see-through one far off."""
    solid = Body("b", BodyKind.SOLID, "Block", "blob", RED, ((0, Rgba(0.0, 1.0, 0.0)),))
    clear = Body("c", BodyKind.SOLID, "Cover", "blob", CLEAR)
    mirrored = (-1, 0, 0, -60, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)
    far = (1, 0, 0, 500, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)
    top = Product("top", "", "Top", occurrences=(
        Occurrence("o1", "block", "one"), Occurrence("o2", "block", "two", mirrored),
        Occurrence("o3", "cover", "three", far)))  # fmt: skip
    model = Model((top, Product("block", "", "Block", bodies=(solid,)),
                   Product("cover", "", "Cover", bodies=(clear,))), ("top",))  # fmt: skip
    made = Scene()
    made.set_model(model)
    assert made.wanted == ("blob",)
    assert made.count == 3
    made.add_mesh("blob", mesh_of(cut(block(20, 20, 20), cylinder(5, 30, at=(10, 10, -5)))))
    return made


def test_a_ray_meets_the_nearest_face_of_the_nearest_body(scene: Scene) -> None:
    hit = scene.pick(np.array([2.0, -100.0, 3.0]), np.array([2.0, 100.0, 3.0]))
    assert hit is not None
    assert hit.point == pytest.approx([2, 0, 3])
    assert hit.placed.path == ("o1",)
    mirrored = scene.pick(np.array([-62.0, -100.0, 3.0]), np.array([-62.0, 100.0, 3.0]))
    assert mirrored.placed.path == ("o2",)
    assert scene.pick(np.array([2.0, -100, 300]), np.array([2.0, 100, 300])) is None
    assert scene.pick(np.array([10.0, 10.0, 100]), np.array([10.0, 10.0, -100])) is None, "through the hole"
    hit.placed.show(False)
    assert scene.pick(np.array([2.0, -100.0, 3.0]), np.array([2.0, 100.0, 3.0])) is None


def test_boxes_follow_the_placement(scene: Scene) -> None:
    boxes = {p.path: p.box for p in scene.placed}
    assert boxes[("o2",)] == pytest.approx(np.array([[-80, 0, 0], [-60, 20, 20]]))
    assert scene.bounds() == pytest.approx(np.array([[-80, 0, 0], [520, 20, 20]]))


def test_large_meshes_are_cut_into_pieces_of_whole_faces(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(body_mesh, "_PIECE", 20)
    mesh = mesh_of(cut(block(20, 20, 20), cylinder(5, 30, at=(10, 10, -5))))
    assert len(mesh.pieces) > 2
    assert sum(p.GetNumberOfPolys() for p in mesh.pieces) == len(mesh.triangles)
    inside = set(mesh.piece_starts) - set(mesh.face_starts.tolist())
    sizes = np.diff(mesh.face_starts)
    for start in inside:  # only a face that is too large by itself is cut
        assert sizes[np.searchsorted(mesh.face_starts, start, side="right") - 1] > 2 * 20
    assert len(mesh.lines) > 1
    whole = mesh_of(block(20, 20, 20))
    assert sum(line.GetNumberOfLines() for line in whole.lines) == 12


def test_opaque_solids_are_drawn_as_one_and_others_by_themselves(scene: Scene) -> None:
    for placed in scene.placed:
        scene.embody(placed)
    batch = Batch()
    batch.show(scene)
    assert [p.is_gathered for p in scene.placed] == [True, True, False]
    data = batch.surface.GetMapper().GetInput()
    triangles = len(scene.meshes["blob"].triangles)
    assert data.GetNumberOfPolys() == 2 * triangles
    assert [a.GetVisibility() for a in scene.placed[0].surfaces] == [0]
    assert [a.GetVisibility() for a in scene.placed[2].surfaces] == [1]
    assert data.GetBounds() == pytest.approx((-80, 20, 0, 20, 0, 20))
    scene.placed[0].show(False)
    batch.show(scene)
    assert not any(p.is_gathered for p in scene.placed), "a batch of one is none"


def test_a_batch_takes_face_colours_tints_and_fields(scene: Scene) -> None:
    first = scene.placed[0]
    own = {tuple(c) for c in scene.point_colours(first).tolist()}
    assert own == {(255, 0, 0), (0, 255, 0)}
    scene.dress(first, Look((0.0, 0.0, 1.0)))
    assert {tuple(c) for c in scene.point_colours(first).tolist()} == {(0, 0, 255)}
    field = np.linspace(0, 0.05, len(first.mesh.points)).astype(np.float32)
    scene.set_fields({"blob": field}, scale_for(0.05))
    scene.dress(first, Look(field="blob"))
    assert len({tuple(c) for c in scene.point_colours(first).tolist()}) == 5


def test_a_look_is_given_once(scene: Scene) -> None:
    assert scene.dress(scene.placed[0], Look(None, 0.3))
    assert not scene.dress(scene.placed[0], Look(None, 0.3))
    assert scene.placed[0].drawn_colour == (1.0, 0.0, 0.0, 0.3)


def test_a_crowd_draws_boxes_where_the_bodies_are(scene: Scene) -> None:
    crowd, camera = Crowd(), vtkCamera()
    everyone = np.ones(3, bool)
    crowd.show(scene, everyone)
    crowd.face(camera, both=True)
    data = crowd.mapper.GetInput()
    assert data.GetNumberOfPolys() == 18
    assert data.GetBounds() == pytest.approx((-80, 520, 0, 20, 0, 20))
    colours = data.GetPointData().GetScalars()
    assert colours.GetTuple(0)[:3] == (255, 0, 0)
    scene.dress(scene.placed[0], Look((0.0, 0.0, 1.0)))
    assert not crowd.show(scene, everyone)
    assert crowd.mapper.GetInput().GetPointData().GetScalars().GetTuple(0)[:3] == (0, 0, 255)
    assert crowd.show(scene, np.array([False, True, False]))
    crowd.face(camera, both=True)
    assert crowd.mapper.GetInput().GetNumberOfPolys() == 6
    crowd.show(scene, ~everyone)
    assert not crowd.actor.GetVisibility()


@pytest.mark.parametrize("is_parallel", [False, True])
def test_a_crowd_draws_the_sides_that_face_the_camera(scene: Scene, is_parallel: bool) -> None:
    crowd, camera = Crowd(), vtkCamera()
    camera.SetPosition(1000.0, -300.0, 10.0)
    camera.SetFocalPoint(1000.0, 0.0, 10.0)
    camera.SetParallelProjection(is_parallel)
    crowd.show(scene, np.array([False, True, True]))  # at x 500 to 520, and mirrored at -80 to -60
    crowd.face(camera, both=False)
    data = crowd.mapper.GetInput()
    sides = [np.array(data.GetCell(n).GetBounds()).reshape(3, 2) for n in range(data.GetNumberOfPolys())]
    front = [side for side in sides if side[1] == pytest.approx([0, 0])]
    right = [side for side in sides if side[0, 0] == pytest.approx(side[0, 1])]
    assert len(front) == 2
    assert sorted(side[0, 0] for side in right) == ([] if is_parallel else pytest.approx([-60.0, 520.0]))
    assert len(sides) == len(front) + len(right)


def test_the_edge_near_a_hit_is_found_and_marked(scene: Scene) -> None:
    hit = scene.pick(np.array([0.5, -100.0, 10.0]), np.array([0.5, 100.0, 10.0]))
    edge = nearest_edge(hit, 1.0)
    assert edge is not None
    points = hit.placed.mesh.edge_points[
        hit.placed.mesh.edge_starts[edge] : hit.placed.mesh.edge_starts[edge + 1]
    ]
    assert points[:, :2] == pytest.approx(0)
    assert nearest_edge(hit, 0.1) is None
    assert edge_mark(hit.placed, edge, (1, 0, 0)).GetBounds()[4:] == pytest.approx((0, 20))
    face = face_mark(hit.placed, hit.face, (1, 0, 0)).GetBounds()
    assert face[2:4] == pytest.approx((0, 0))


def test_the_inner_side_is_drawn_only_where_the_skin_has_a_hole() -> None:
    """A block without its top is not closed; its inner side shows darker, and it is drawn by itself."""
    whole = block(20, 20, 20)
    shapes = {"full": whole, "open": solid_of(faces_of(whole)[:5])}
    products = tuple(
        Product(key, "", key, bodies=(Body(key, BodyKind.SOLID, key, key, RED),)) for key in shapes
    )
    scene = Scene()
    scene.set_model(Model(products, tuple(shapes)))
    for key, shape in shapes.items():
        scene.add_mesh(key, mesh_of(shape))
    full, opened = sorted(scene.placed, key=lambda p: p.body.id)
    assert full.mesh.is_closed and not opened.mesh.is_closed
    assert can_batch(full) and not can_batch(opened)
    for placed in scene.placed:
        scene.embody(placed)
    assert full.surfaces[0].GetProperty().GetBackfaceCulling()
    assert not opened.surfaces[0].GetProperty().GetBackfaceCulling()
    assert full.surfaces[0].GetBackfaceProperty() is None
    assert opened.surfaces[0].GetBackfaceProperty().GetColor()[0] < RED.red


def test_what_a_finding_is_of_is_marked(scene: Scene) -> None:
    """All its edges with the box of them, else its edge, else its face with the rim."""
    placed, red = scene.placed[0], (1.0, 0.0, 0.0)
    found = Finding("T101", "", Severity.FAULT, "", edge=0, edges=(0, 1, 2))
    marks, around = finding_marks(placed, found, red)
    assert len(marks) == 3 and around.shape == (2, 3) and (around[1] > around[0]).any()
    marks, around = finding_marks(placed, Finding("G301", "", Severity.DOUBT, "", edge=1, face=0), red)
    assert len(marks) == 1 and around is None
    marks, around = finding_marks(placed, Finding("G302", "", Severity.DOUBT, "", face=0), red)
    assert len(marks) == 2 and around is None
    assert marks[0].GetBounds() == pytest.approx(marks[1].GetBounds())
    none, around = finding_marks(placed, Finding("A501", "", Severity.NOTE, ""), red)
    assert not none and around is None
    rim = outline_mark(placed, 0, red).GetMapper().GetInput()
    assert rim.GetNumberOfLines() == len(face_outline(placed.mesh, 0)) >= 4


def test_the_rim_of_a_face_is_as_long_as_its_edges() -> None:
    """Each side of a block of 10 x 20 x 30, and the top of one with a hole: outline and hole."""
    mesh = mesh_of(block(10, 20, 30))
    lengths = [np.linalg.norm(np.diff(face_outline(mesh, n), axis=1), axis=2).sum() for n in range(6)]
    assert sorted(lengths) == pytest.approx([60, 60, 80, 80, 100, 100])
    holed = mesh_of(cut(block(40, 30, 10), cylinder(6, 30, at=(20, 15, -5))))
    rims = [np.linalg.norm(np.diff(face_outline(holed, n), axis=1), axis=2).sum() for n in range(7)]
    assert max(rims) == pytest.approx(2 * (40 + 30) + 2 * np.pi * 6, rel=0.01)
