"""Broken bodies sent as they are: whatever the proof finds was announced, and no wrong scale is told."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from gondrel.core.carriage.proof import finish_proof
from gondrel.core.errors import GondrelError
from gondrel.core.kernel.base.shape import faces_of, shape_to_blob
from gondrel.core.kernel.examples.broken import (
    finned,
    inside_out,
    moved_vertex,
    shifted_plane,
    solid_of,
    straight_wire,
    unsound_face,
)
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.store import BlobStore
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from

BROKEN = {
    "inside out": lambda: inside_out(block(10, 20, 30)),
    "fin": lambda: finned(block(10, 20, 30)),
    "open": lambda: solid_of(faces_of(block(10, 20, 30))[:5]),
    "loop open": unsound_face,
    "plane moved": lambda: shifted_plane(0.05),
    "vertex moved": lambda: moved_vertex(0.07),
    "face twice": lambda: solid_of([*faces_of(block(10, 20, 30)), faces_of(block(10, 20, 30))[0]]),
}


@pytest.mark.slow
@pytest.mark.parametrize("target", ["step-ap242", "step-ap203", "xt-text", "iges-solid", "iges-surface"])
@pytest.mark.parametrize("name", BROKEN)
def test_what_becomes_of_a_broken_body_was_announced(name, target, tmp_path) -> None:
    store = BlobStore(tmp_path / "store")
    body = Body("b", BodyKind.SOLID, "Body", store.put(shape_to_blob(BROKEN[name]())))
    model = Model((Product("p", "N-1", "Part", bodies=(body,)),), ("p",))
    path = str(tmp_path / "out.file")
    try:
        sent = send(model, path, target, settings_from({}), str(tmp_path / "store"))
    except GondrelError as error:
        assert "mend it" in f"{error.message} {error.hint}" and not Path(path).exists()
        return
    found = sent.proof.unannounced
    assert not found, [(u.item.key, u.verdict, u.detail) for u in found]


@pytest.mark.slow
@pytest.mark.parametrize("beside", [True, False])
@pytest.mark.parametrize("form", ["structure", "placed"])
def test_mirrored_places_in_xt_were_announced(form, beside, tmp_path) -> None:
    store = BlobStore(tmp_path / "store")
    body = Body("b", BodyKind.SOLID, "Body", store.put(shape_to_blob(block(10, 20, 30))))
    mirror = (-1, 0, 0, 50, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)
    uses = (Occurrence("o1", "p", "left"),) if beside else ()
    top = Product("top", "T", "Top", occurrences=(*uses, Occurrence("o2", "p", "right", mirror)))
    model = Model((top, Product("p", "N-1", "Part", bodies=(body,))), ("top",))
    path = str(tmp_path / "out.x_t")
    sent = send(model, path, "xt-text", settings_from({"form": form}), str(tmp_path / "store"))
    found = sent.proof.unannounced
    assert not found, [(u.item.key, u.verdict, u.detail) for u in found]


@pytest.mark.slow
def test_copies_of_a_mirrored_assembly_are_announced_and_others_are_not(tmp_path) -> None:
    """A group stands once as it is and once mirrored; then one more part than was said."""
    store = BlobStore(tmp_path / "store")
    body = Body("b", BodyKind.SOLID, "Body", store.put(shape_to_blob(block(10, 20, 30))))
    mirror = (-1, 0, 0, 50, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)
    group = Product("g", "G", "Group", occurrences=(Occurrence("o3", "p", "one"),))
    uses = (Occurrence("o1", "g", "left"), Occurrence("o2", "g", "right", mirror))
    top = Product("top", "T", "Top", occurrences=uses)
    model = Model((top, group, Product("p", "N-1", "Part", bodies=(body,))), ("top",))
    path = str(tmp_path / "out.x_t")
    sent = send(model, path, "xt-text", settings_from({}), str(tmp_path / "store"))
    added = [c for e in sent.proof.ledger.entries for c in e.items if c.verdict == "added"]
    assert sorted(c.after for c in added) == ["Group", "Part"] and not sent.proof.unannounced
    assert sum(e.more for e in sent.forecast.entries) == 2
    fewer = replace(sent.forecast, entries=tuple(replace(e, more=0) for e in sent.forecast.entries))
    again = finish_proof(
        [c for e in sent.proof.ledger.entries for c in e.items], fewer, sent.proof, units=("mm", "mm")
    )
    assert {c.after for c in again.unannounced} == {"Group", "Part"}


@pytest.mark.parametrize("target", ["step-ap242", "xt-text", "iges-solid"])
def test_curves_keep_their_name(target, tmp_path) -> None:
    store = BlobStore(tmp_path / "store")
    wire = straight_wire((0, 0, 0), (3, 4, 0))
    body = Body("b", BodyKind.WIRE, "Centre line", store.put(shape_to_blob(wire)))
    model = Model((Product("p", "N-1", "Part", bodies=(body,)),), ("p",))
    sent = send(model, str(tmp_path / "o"), target, settings_from({}), str(tmp_path / "store"))
    assert not sent.proof.unannounced
