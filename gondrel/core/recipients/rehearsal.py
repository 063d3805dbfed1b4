"""A rehearsal: what a stand-in makes of a file, judged like a proof."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from gondrel.core.arrange.placed import place_bodies
from gondrel.core.carriage.forecast import Forecast
from gondrel.core.carriage.placed import fold_proof
from gondrel.core.carriage.proof import prove_models
from gondrel.core.carriage.sides import Measure
from gondrel.core.kernel.derive import edge_spots_of, facts_of, landmarks_of, spots_of
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.recipients.results import Rehearsal
from gondrel.core.recipients.stand_ins.base import StandIn
from gondrel.core.work import SILENT, Progress

__all__ = ["rehearse"]


def rehearse(
    stand_in: StandIn, path: str, meant: Model, facts: Mapping[str, BodyFacts], store: BlobStore,
    measure: Measure, forecast: Forecast | None = None, *, progress: Progress = SILENT,
) -> Rehearsal:  # fmt: skip
    """Let a stand-in take a file.

    Args:
        meant: what the file was written from; facts: measures of its bodies.
        forecast: of what the stand-in will keep; what of the ledger it did not announce is a finding about
            it.

    Raises:
        InputError: when it can't be read. KernelRefused: when the kernel fails over it.
    """
    taken = stand_in.take(path, store, progress.part(0.0, 0.5))
    back = {blob: facts_of(store, blob) for blob in taken.model.blobs()}
    looking = {
        "measure": measure, "spots": partial(spots_of, store), "edge_spots": partial(edge_spots_of, store),
        "landmarks": partial(landmarks_of, store),
    }  # fmt: skip
    if not stand_in.flattens:
        known = {**facts, **back}
        proof = prove_models(meant, taken.model, known, forecast=forecast, **looking)  # type: ignore[arg-type]
        return Rehearsal(stand_in.key, taken, proof, back)
    placed = place_bodies(meant, store)
    known = {**facts, **back, **{blob: facts_of(store, blob) for blob in placed.model.blobs()}}
    flat = prove_models(placed.model, taken.model, known, **looking)  # type: ignore[arg-type]
    return Rehearsal(stand_in.key, taken, fold_proof(meant, flat, placed.origin, forecast), back)
