"""Structure recovered from what was sent flat, through each exact format; the proposal taken as ticked."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from gondrel.core.arrange.proposal import Proposal
from gondrel.core.arrange.recovery import propose
from gondrel.core.arrange.taking import take_proposal
from gondrel.core.errors import UsageError
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling import build
from gondrel.core.model import Body, BodyKind, Model, Product, Rgba
from gondrel.core.model.mass import totals_of
from gondrel.core.model.store import BlobStore
from gondrel.core.service.arrange import stood_where
from gondrel.core.service.intake import receive_by
from gondrel.core.service.receive import measure_all
from gondrel.core.service.send import send
from gondrel.core.service.settings import receive_options_from, settings_from

FLAT = receive_options_from({"structure": "flat"})


def uses_of(proposal: Proposal) -> dict[str, int]:
    return {part.name: len(part.uses) for part in proposal.parts}


def sent_flat(path: str, kind: str, folder: str) -> Model:
    """A file received flat, sent as one part and received again."""
    out = str(Path(folder).parent / f"flat-{kind}")
    send(receive_by(path, folder, FLAT), out, kind, settings_from({}), folder)
    return receive_by(out, folder, receive_options_from({}))


@pytest.mark.parametrize("kind", ["step-ap214", "xt-text", "iges-solid"])
def test_an_assembly_sent_flat_is_found_again(kind: str, as1: str, store_folder: str) -> None:
    flat = sent_flat(as1, kind, store_folder)
    store = BlobStore(Path(store_folder))
    proposal = propose(flat, store)
    assert sorted(len(part.uses) for part in proposal.parts) == [1, 1, 2, 6, 8]
    assert not proposal.unassigned
    assert max(use.accuracy for part in proposal.parts for use in part.uses) < 1e-6
    assert len({body for part in proposal.parts for body in part.bodies}) == 18
    what, taken = take_proposal(flat, proposal)
    taken.check_structure()
    assert "5 parts" in what
    counts = taken.quantities
    assert sum(counts[p.id] for p in taken.products if p.bodies) == 18
    assert [g for g in proposal.groups if len(g.uses) == 6 and len(g.uses[0][1]) == 2], "bolt with nut"
    totals = [totals_of(m, measure_all(m.blobs(), store_folder)) for m in (flat, taken)]
    before, after = totals[0][flat.roots[0]], totals[1][taken.roots[0]]
    assert after.volume == pytest.approx(before.volume, rel=1e-9)
    assert after.centroid == pytest.approx(before.centroid, abs=1e-6)
    assert stood_where(flat, proposal, store_folder).deviation < 1e-6  # by the kernel's distances


def test_taken_structure_sent_and_received_is_what_was_flat(as1: str, store_folder: str) -> None:
    """The proof holds the file against the arranged model; read flat it holds what was flat."""
    flat = receive_by(as1, store_folder, FLAT)
    _, taken = take_proposal(flat, propose(flat, BlobStore(Path(store_folder))))
    out = str(Path(store_folder).parent / "again.stp")
    sent = send(taken, out, "step-ap242", settings_from({}), store_folder)
    assert not sent.proof.unannounced
    again = receive_by(out, store_folder, FLAT)

    def spots(model: Model) -> np.ndarray:
        facts = measure_all(model.blobs(), store_folder)
        rows = [(*facts[b.blob].centroid, facts[b.blob].volume) for _, b in model.bodies()]
        return np.array(sorted(tuple(round(v, 5) for v in row) for row in rows))

    assert np.allclose(spots(flat), spots(again), atol=2e-5)


def test_the_demo_sent_flat_is_found_again(demo_file: str, store_folder: str) -> None:
    whole = receive_by(demo_file, store_folder, receive_options_from({}))
    placed = Counter(
        {p.name: n for p in whole.products if p.bodies and (n := whole.quantities[p.id])}
    )  # fmt: skip
    flat = receive_by(demo_file, store_folder, FLAT)
    proposal = propose(flat, BlobStore(Path(store_folder)))
    assert uses_of(proposal) == placed
    standard = {part.name: part.standard.standard for part in proposal.parts if part.standard}
    assert standard == {
        "Hexagon nut M16": "ISO 4032", "Hexagon nut M12": "ISO 4032",
        "Hexagon screw M12 \u00d7 45": "ISO 4014 / ISO 4017", "Washer 12": "ISO 7089",
        "Feather key 10 \u00d7 8 \u00d7 24": "DIN 6885", "Feather key 8 \u00d7 7 \u00d7 28": "DIN 6885",
        "Feather key 6 \u00d7 6 \u00d7 14": "DIN 6885",
    }  # fmt: skip
    bolts = next(g for g in proposal.groups if len(g.uses) == 8)
    assert len(bolts.uses[0][1]) == 4, "screw, two washers, nut"


# --- small models ----------------------------------------------------------------------------------


@pytest.fixture
def store(tmp_path: Path) -> BlobStore:
    return BlobStore(tmp_path / "bodies")


def body(store: BlobStore, name: str, at: float, length: float = 20, **more: object) -> Body:
    shape = build.moved(build.cylinder(5, length), by=(at, 0, 0))
    return Body(name, BodyKind.SOLID, name, store.put(shape_to_blob(shape)), **more)  # type: ignore[arg-type]


def flat_of(*bodies: Body) -> Model:
    return Model((Product("p", "", "Flat", bodies=bodies),), ("p",))


def test_near_misses_are_not_merged(store: BlobStore) -> None:
    flat = flat_of(body(store, "a 1", 0), body(store, "a 2", 20), body(store, "b", 40, 20.02))
    assert uses_of(propose(flat, store)) == {"a": 2, "b": 1}


def test_what_could_not_be_said_of_one_part_stays_apart(store: BlobStore) -> None:
    red = Rgba(1, 0, 0)
    flat = flat_of(
        body(store, "x 1", 0), body(store, "x 2", 20, face_colours=((0, red),)),
        body(store, "x 3", 40, colour=red), body(store, "x 4", 60, colour=Rgba(0, 1, 0)),
    )  # fmt: skip
    parts = propose(flat, store, groups=False).parts
    assert sorted(len(p.uses) for p in parts) == [1, 1, 2]
    _, taken = take_proposal(flat, propose(flat, store, groups=False))
    colours = [use.colour for _, use in taken.occurrences()]
    assert colours.count(Rgba(0, 1, 0)) == 1, "a colour in one place is kept there"


def test_parts_of_other_numbers_are_not_merged_and_bare_twins_are(store: BlobStore) -> None:
    one, two = body(store, "a", 0), body(store, "b", 30)
    numbered = Model(
        (Product("p", "N-1", "Pin", bodies=(one,)), Product("q", "N-2", "Pin", bodies=(two,))), ("p", "q")
    )
    assert not propose(numbered, store).changes
    bare = replace(numbered, products=tuple(replace(p, number="") for p in numbered.products))
    proposal = propose(bare, store)
    assert uses_of(proposal) == {"Pin": 2}
    _, taken = take_proposal(bare, proposal, whole="Both")
    assert [p.name for p in taken.products if p.occurrences] == ["Both"]
    assert sum(taken.quantities[p.id] for p in taken.products if p.bodies) == 2


def test_only_what_is_ticked_is_taken(store: BlobStore) -> None:
    flat = flat_of(*(body(store, f"a {n}", 20.0 * n) for n in range(3)), body(store, "long", 90, 30))
    proposal = propose(flat, store)
    first, second = proposal.parts
    assert first.pattern is not None and first.pattern.kind == "line"
    _, taken = take_proposal(flat, proposal, without=[second.key], names={first.key: "Pin"})
    assert [p.name for p in taken.products] == ["Flat", "Pin"]
    assert [b.name for b in taken.product("p").bodies] == ["long"]
    with pytest.raises(UsageError, match="nothing of the proposal"):
        take_proposal(flat, proposal, without=[first.key, second.key])
