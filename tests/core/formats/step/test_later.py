"""Shapes that are loaded later: what a file gives in parts is what it gives when read whole."""

from __future__ import annotations

import gzip
import io
from collections import Counter
from pathlib import Path

import numpy as np
import pytest

from gondrel.core.errors import UsageError
from gondrel.core.formats.settings import ReceiveSettings, SendSettings
from gondrel.core.model import Model
from gondrel.core.model.later import standing_in, waiting, with_shapes
from gondrel.core.model.origins import origins_of
from gondrel.core.model.sought import Sought
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import load_shapes, receive
from gondrel.core.service.send import send
from gondrel.core.service.source import record_behind
from tests.conftest import outside

pytestmark = pytest.mark.slow

ASKED = ReceiveSettings(shapes="asked")
GMSH, OCCT = "usr/share/doc/gmsh-doc/doc/gmsh/demos", "usr/share/opencascade/data/step"
PUBLIC = (
    f"{GMSH}/api/step_boundary_colors.stp.gz", f"{GMSH}/boolean/component8.step.gz", f"{OCCT}/screw.step",
)  # fmt: skip
"""Files of Debian's gmsh-doc and occt-misc that no one here wrote."""


def load(model: Model, store_folder: str, count: int = 10_000) -> Model:
    first = waiting(model)[:count]
    records = tuple(p.unread.record for p in first if p.unread is not None)
    return with_shapes(model, load_shapes(model, first[0].unread.path, records, store_folder))  # type: ignore[union-attr]


def said(model: Model) -> Counter:
    """Everything that is said of products, bodies and components, whatever they are called inside."""
    products = (
        (p.number, p.name, p.revision, p.description, p.material, p.metadata, p.validation, p.references,
         p.particulars, len(p.occurrences))
        for p in model.products
    )  # fmt: skip
    bodies = (
        (b.kind, b.name, b.blob, b.colour, b.face_colours, b.layers, b.face_layers, b.appearance,
         b.face_names, b.face_metadata, b.face_appearance, b.edge_colours, b.metadata, b.hidden)
        for _, b in model.bodies()
    )  # fmt: skip
    uses = (
        (model.product(o.product).name, o.name, tuple(round(v, 9) + 0.0 for v in o.placement), o.colour,
         o.hidden, o.metadata, o.layers, o.particulars, o.centroid)
        for _, o in model.occurrences()
    )  # fmt: skip
    return Counter((*products, *bodies, *uses))


@pytest.fixture(params=["as1", "demo", *PUBLIC])
def path(request, as1: str, demo_file: str, tmp_path: Path) -> str:
    own = {"as1": as1, "demo": demo_file}
    if request.param in own:
        return own[request.param]
    file = outside(request.param)
    plain = tmp_path / file.name.removesuffix(".gz")
    plain.write_bytes(gzip.decompress(file.read_bytes()) if file.suffix == ".gz" else file.read_bytes())
    return str(plain)


def test_in_parts_it_is_what_it_is_as_a_whole(path: str, tmp_path: Path, store_folder: str) -> None:
    model = receive(path, store_folder, ASKED)
    assert waiting(model) and not any(True for _ in model.bodies())
    while waiting(model):
        model = load(model, store_folder, 3)
    whole = receive(path, str(tmp_path / "whole"))
    assert said(model) == said(whole)
    assert model.units == whole.units and model.particulars == whole.particulars
    assert [model.product(r).label for r in model.roots] == [whole.product(r).label for r in whole.roots]
    ours, theirs = (m.provenance.census for m in (model, whole))  # type: ignore[union-attr]
    assert (ours.all, ours.carried, ours.serving) == (theirs.all, theirs.carried, theirs.serving)
    assert {r.aspect: r.count for r in ours.rest} == {r.aspect: r.count for r in theirs.rest}
    assert not ours.waiting


def test_records_add_up_while_shapes_wait(demo_file: str, store_folder: str) -> None:
    model = receive(demo_file, store_folder, ASKED)
    for count in (0, 2):
        model = load(model, store_folder, count) if count else model
        census = model.provenance.census  # type: ignore[union-attr]
        assert census.carried + census.serving + census.remainder == census.all
        assert "shapes that are not loaded" in census.kinds()


@pytest.mark.parametrize("kind", ["step-ap242", "xt-text", "iges-solid"])
def test_what_is_not_loaded_is_never_carried_and_never_lost_unannounced(
    kind: str, demo_file: str, tmp_path: Path, store_folder: str
) -> None:
    model = load(receive(demo_file, store_folder, ASKED), store_folder, 4)
    sent = send(model, str(tmp_path / "out.stp"), kind, SendSettings(), store_folder)
    assert not sent.proof.unannounced
    unread = [e for e in sent.forecast.of("bodies") if e.item.aspect == "shape not loaded"]
    assert len(unread) == 22 and all(entry.fate == "lost" for entry in unread)
    entries = [i for e in sent.proof.ledger.entries for i in e.items if i.item.aspect == "shape not loaded"]
    assert len(entries) == 22 and all(entry.verdict == "lost" for entry in entries)


def test_boxes_stand_for_shapes_and_no_box_is_part_of_the_model(as1: str, store_folder: str) -> None:
    model = receive(as1, store_folder, ASKED)
    shown = standing_in(model)
    store = BlobStore(Path(store_folder))
    boxes = [body for _, body in shown.bodies()]
    assert len(boxes) == 5 and all(store.has(body.blob, "mesh") for body in boxes)
    assert not list(model.bodies()) and model.unloaded == {p.id for p in model.products}
    part = load(model, store_folder, 1)
    assert len(part.unloaded) < len(model.products) and len(list(standing_in(part).bodies())) == 5


def test_the_record_behind_a_face_that_was_loaded(as1: str, store_folder: str) -> None:
    model = load(receive(as1, store_folder, ASKED), store_folder)
    whole_store = store_folder + "-whole"
    whole = receive(as1, whole_store)
    origins = origins_of(BlobStore(Path(store_folder)), as1)
    assert origins is not None and len(origins.bodies) == 5
    for product, body in model.bodies():
        same = next(b for p, b in whole.bodies() if p.name == product.name)
        for face in (0, 3):
            ours = record_behind(as1, Sought("face", body.id, face), store_folder)
            theirs = record_behind(as1, Sought("face", same.id, face), whole_store)
            assert (ours.number, ours.text) == (theirs.number, theirs.text)
            assert ours.type == "ADVANCED_FACE"


def test_a_file_that_is_another_now_is_told(
    as1: str, demo_file: str, tmp_path: Path, store_folder: str
) -> None:
    copy = tmp_path / "copy.stp"
    copy.write_bytes(Path(demo_file).read_bytes())
    model = receive(str(copy), store_folder, ASKED)
    copy.write_bytes(Path(as1).read_bytes())
    with pytest.raises(UsageError, match="not the file that was received"):
        load(model, store_folder, 1)


@pytest.mark.parametrize("settings", [ReceiveSettings(shapes="asked", scale=2.0)])
def test_what_is_taken_otherwise_is_read_whole_and_told(settings, as1: str, store_folder: str) -> None:
    model = receive(as1, store_folder, settings)
    assert not waiting(model) and len(list(model.bodies())) == 5
    assert [n.code for n in model.notes].count("shapes-loaded") == 1


def test_boxes_are_turned_outwards(as1: str, store_folder: str) -> None:
    model = standing_in(receive(as1, store_folder, ASKED))
    store = BlobStore(Path(store_folder))
    for product, body in model.bodies():
        mesh = np.load(io.BytesIO(store.get_as(body.blob, "mesh")))
        corners = mesh["points"].astype(float)[mesh["triangles"]]
        one, two, three = corners[:, 0], corners[:, 1], corners[:, 2]
        volume = (one * np.cross(two, three)).sum() / 6
        assert product.unread is not None
        box = np.array(product.unread.box).reshape(2, 3)
        assert volume == pytest.approx(float(np.prod(box[1] - box[0])), rel=1e-5)
