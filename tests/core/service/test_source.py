"""The record behind a face, a colour, a component and a product, in all three formats.

That it is the right face is told by what it stands on: the kernel knows the kind of each face's surface,
and the record leads to one of the same kind.
"""

from __future__ import annotations

import gzip
from collections import Counter
from pathlib import Path

import pytest
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepGProp import BRepGProp
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.gp import gp_Pnt, gp_Trsf
from OCP.GProp import GProp_GProps
from OCP.TopoDS import TopoDS_Face

from gondrel.core.errors import GondrelError, UsageError
from gondrel.core.kernel.base.shape import edges_of, faces_of, shape_from_blob, shape_to_blob
from gondrel.core.kernel.derive import detail_of
from gondrel.core.kernel.measure.mass import box_of
from gondrel.core.kernel.modelling.build import block, cut
from gondrel.core.kernel.topology.bounding import faces_beside
from gondrel.core.kernel.topology.sew import sew_faces
from gondrel.core.model.sought import Sought
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import receive
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from gondrel.core.service.source import find_records, record_at, record_behind
from tests.builders import small_assembly
from tests.records import says

pytestmark = pytest.mark.slow

KINDS = {
    "plane": ("PLANE", "190 plane surface", "108 plane"),
    "cylinder": ("CYLINDRICAL_SURFACE", "192 cylindrical surface", "CYLINDER"),
}
CURVES = {
    GeomAbs_CurveType.GeomAbs_Line: ("LINE",),
    GeomAbs_CurveType.GeomAbs_Circle: ("CIRCLE",),
}
TARGETS = {"step-ap242": ".stp", "iges-solid": ".igs", "xt-text": ".x_t"}


@pytest.fixture(params=TARGETS)
def sent(request, tmp_path: Path, store_folder: str):
    """A small assembly as a file of each format, received."""
    store = BlobStore(Path(store_folder))
    path = str(tmp_path / f"small{TARGETS[request.param]}")
    send(small_assembly(store), path, request.param, settings_from({}), store_folder)
    return path, receive(path, store_folder), store_folder


def behind(sent, *arguments, **more):
    path, _, store = sent
    return record_behind(path, Sought(*arguments, **more), store)


def test_every_face_leads_to_a_surface_of_its_kind(sent) -> None:
    _, model, store = sent
    seen = 0
    for _, body in model.bodies():
        detail = detail_of(BlobStore(Path(store)), body.blob)
        for place, kind in enumerate(detail.face_kinds):
            record = behind(sent, "face", body.id, face=place)
            on = [found.type for found in record.refers]
            assert any(t in KINDS[kind] for t in on), (kind, record.text, on)
            seen += 1
    assert seen == 7 + 3 + 6


def test_every_property_leads_to_what_says_it(sent) -> None:
    path, model, _ = sent
    seen = 0
    items = [("product", p) for p in model.products] + [("component", u) for _, u in model.occurrences()]
    for kind, item in items:
        for datum in item.metadata:
            record = behind(sent, kind, item.id, key=datum.key)
            assert says(path, record, datum.key), record
            seen += 1
        with pytest.raises(UsageError):
            behind(sent, kind, item.id, key="not there")
    assert seen == 5


def test_every_edge_leads_to_a_curve_of_its_kind(sent) -> None:
    """The kernel knows the kind of each edge's curve; a seam is no edge in XT, and IGES lists them all."""
    path, model, store = sent
    for _, body in model.bodies():
        shape = shape_from_blob(BlobStore(Path(store)).get(body.blob))
        numbers = []
        for place, edge in enumerate(edges_of(shape)):
            kind = BRepAdaptor_Curve(edge).GetType()
            beside = faces_beside(shape, place)[0]
            try:
                record = behind(sent, "edge", body.id, edge=place, blob=body.blob)
            except UsageError as error:
                assert path.endswith(".x_t") and len(beside) == 1, error
                continue
            numbers.append(record.number)
            on = [found.type for found in record.refers]
            if path.endswith(".igs"):
                assert record.type == "504 edge list"
            else:
                assert any(word in CURVES[kind] for word in on), (record.text, on)
        assert len(set(numbers)) == (1 if path.endswith(".igs") else len(numbers))
        assert len(numbers) >= len(edges_of(shape)) - 1


def test_edges_between_the_same_faces_are_told_apart(as1: str, store_folder: str) -> None:
    """Holes of as1 are cylinders in two halves, which share both their lines."""
    model = receive(as1, store_folder)
    product = next(p for p in model.products if p.name == "plate")
    body = product.bodies[0]
    shape = shape_from_blob(BlobStore(Path(store_folder)).get(body.blob))
    pairs = Counter(tuple(faces_beside(shape, place)[0]) for place in range(len(edges_of(shape))))
    assert max(pairs.values()) > 1
    found = set()
    for place in range(len(edges_of(shape))):
        view = record_behind(as1, Sought("edge", body.id, edge=place, blob=body.blob), store_folder)
        assert view.type == "EDGE_CURVE"
        found.add(view.number)
    assert len(found) == len(edges_of(shape))


def test_faces_of_a_body_that_was_changed_lead_to_what_they_were(sent) -> None:
    """Faces are told by area and centre here, each of its own; a new one has no record."""
    _, model, store_folder = sent
    store = BlobStore(Path(store_folder))
    body = next(p for p in model.products if p.name == "Plate").bodies[0]
    shape = shape_from_blob(store.get(body.blob))
    records = {
        figures(face): behind(sent, "face", body.id, face=place).number
        for place, face in enumerate(faces_of(shape))
    }
    assert len(records) == len(faces_of(shape)) == 7
    turned = sew_faces(faces_of(shape)[::-1], 1e-6).bodies[0].shape
    moved = BRepBuilderAPI_Transform(shape, scaling(25.4), True).Shape()
    box = box_of(shape)
    notched = cut(shape, block(3, 3, 100, at=(box[0] - 1, box[1] - 1, -50)))
    for changed, expected, new in ((turned, 7, 0), (moved, 7, 0), (notched, 3, 2)):
        key = store.put(shape_to_blob(changed))
        known, refused = 0, 0
        for place, face in enumerate(faces_of(changed)):
            try:
                view = behind(sent, "face", body.id, face=place, blob=key, received=body.blob)
            except UsageError:
                refused += 1
                continue
            as_it_was = figures(face, 1 / 25.4) if changed is moved else figures(face)
            if as_it_was in records:
                known += 1
                assert view.number == records[as_it_was]
            assert view.number in records.values()
        assert (known, refused) == (expected, new)


def figures(face: TopoDS_Face, scale: float = 1.0) -> tuple[float, ...]:
    """Area and centre of a face, to what rounding leaves."""
    found = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, found)
    centre = (round(x * scale, 4) + 0.0 for x in found.CentreOfMass().Coord())
    return (round(found.Mass() * scale**2, 3), *centre)


def scaling(factor: float) -> gp_Trsf:
    change = gp_Trsf()
    change.SetScale(gp_Pnt(0, 0, 0), factor)
    return change


def test_components_bodies_products_and_colours(sent) -> None:
    _, model, _ = sent
    plate = next(p for p in model.products if p.name == "Plate")
    body = behind(sent, "body", plate.bodies[0].id)
    assert body.type in ("MANIFOLD_SOLID_BREP", "186 manifold solid B-rep", "BODY") and body.text
    use = next(use for _, use in model.occurrences() if use.name == "pin left")
    component = behind(sent, "component", use.id)
    assert component.type in (
        "NEXT_ASSEMBLY_USAGE_OCCURRENCE",
        "408 singular subfigure instance",
        "INSTANCE",
    )
    assert behind(sent, "product", plate.id).number > 0
    colour = behind(sent, "body", plate.bodies[0].id, of_colour=True)
    by_number = colour.number == body.number  # IGES names red and blue in the directory entry itself
    assert any(word in colour.type for word in ("COLOUR", "ATTRIBUTE")) or by_number
    blue = behind(sent, "face", plate.bodies[0].id, face=0, of_colour=True)
    assert blue.number != colour.number and (by_number or blue.type == colour.type)


def test_references_lead_there_and_back(sent) -> None:
    path, model, _ = sent
    _, body = next(model.bodies())
    face = behind(sent, "face", body.id, face=0)
    assert face.refers and face.referred
    for found in face.refers[:5]:
        there = record_at(path, found.number)
        assert there.type == found.type
        assert face.number in [each.number for each in there.referred]
    found = find_records(path, str(face.number))
    assert found[0].number == face.number
    same = find_records(path, face.type.split(" ")[-1])
    assert face.number in [each.number for each in same]


def test_a_text_leads_to_the_record_that_says_it(sent) -> None:
    path = sent[0]
    found = find_records(path, "plate")
    assert any("Plate" in record_at(path, each.number).text for each in found)
    other = find_records(path, "pin left")
    assert other and not set(other) & set(found)
    assert find_records(path, "pin left, plate") == other + found
    assert find_records(path, "nobody says this") == []


def test_a_number_is_not_looked_for_in_texts(sent) -> None:
    """Typing a number leads straight to its record, though names and figures hold it too."""
    path, model, _ = sent
    _, body = next(model.bodies())
    number = behind(sent, "face", body.id, face=0).number
    assert [found.number for found in find_records(path, f"#{number}")] == [number]


def test_the_line_is_that_of_the_text(sent) -> None:
    path, model, _ = sent
    _, body = next(model.bodies())
    record = behind(sent, "body", body.id)
    if record.line:
        line = Path(path).read_bytes().decode("latin-1").splitlines()[record.line - 1]
        assert line.strip()[:12] == record.text.strip()[:12]
    else:
        assert path.endswith(".x_t") and f"index {record.number}" in record.text


def test_what_is_not_known_is_said(sent, tmp_path: Path) -> None:
    path, model, _ = sent
    with pytest.raises(UsageError, match="no record of this face"):
        behind(sent, "face", "nobody", face=3)
    with pytest.raises(UsageError, match="holds no record"):
        record_at(path, 99_999_999)
    Path(path).write_bytes(Path(path).read_bytes() + b"\n")
    with pytest.raises(GondrelError, match="not known"):
        behind(sent, "body", next(model.bodies())[1].id)


def test_packed_files_too(as1: str, tmp_path: Path, store_folder: str) -> None:
    packed = tmp_path / "as1.stp.gz"
    packed.write_bytes(gzip.compress(Path(as1).read_bytes()))
    model = receive(str(packed), store_folder)
    _, body = next(model.bodies())
    assert record_behind(str(packed), Sought("body", body.id), store_folder).type == "MANIFOLD_SOLID_BREP"
