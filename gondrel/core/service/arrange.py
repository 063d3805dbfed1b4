"""Arrange: the structure proposed for a model, steps run on it, and what changed by them."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from pathlib import Path
from typing import Any

from gondrel.core.arrange.cutdown import Left, Traits, figures_of
from gondrel.core.arrange.outside import seen_in
from gondrel.core.arrange.proposal import Proposal, Stood
from gondrel.core.arrange.recovery import propose
from gondrel.core.arrange.steps.base import Context
from gondrel.core.arrange.steps.cutting import standard_ids
from gondrel.core.arrange.steps.file import read_steps, step_from
from gondrel.core.arrange.steps.outcome import StepOutcome
from gondrel.core.arrange.steps.runner import run_step, run_steps
from gondrel.core.arrange.taking import take_proposal
from gondrel.core.kernel.base.shape import moved_blob
from gondrel.core.kernel.derive import deviation_of
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all
from gondrel.core.work import SILENT, Progress

__all__ = [
    "Stood",
    "do_step",
    "how_much",
    "propose_structure",
    "run_steps_file",
    "stood_where",
    "take_structure",
    "traits_of",
]

_MOST_MEASURED = 300


def propose_structure(model: Model, store_folder: str, *, progress: Progress = SILENT) -> Proposal:
    """What structure the bodies of a model speak for."""
    return propose(model, BlobStore(Path(store_folder)), progress=progress)


def take_structure(
    model: Model, proposal: Proposal, without: Collection[str], names: Mapping[str, str], *,
    progress: Progress = SILENT,
) -> tuple[str, Model]:  # fmt: skip
    """The proposed structure taken, as far as it is ticked. Raises UsageError when nothing would change."""
    return take_proposal(model, proposal, without=without, names=names)


def stood_where(
    model: Model, proposal: Proposal, store_folder: str, *, progress: Progress = SILENT
) -> Stood:
    """Measure by the kernel how far each body lies off the part that would stand in its place; of more than
    300 evenly chosen ones."""
    store = BlobStore(Path(store_folder))
    blobs = {body.id: body.blob for _, body in model.bodies()}
    moved = [
        (blobs[part.body], use.placement, blobs[use.body])
        for part in proposal.parts
        for use in part.uses
        if use.source != part.product and blobs[use.body] != blobs[part.body]
    ]
    chosen = moved[:: max(1, len(moved) // _MOST_MEASURED)]
    worst = 0.0
    for first, placement, there in progress.each(chosen, "Measuring what stands where"):
        placed = store.put(moved_blob(store.get(first), placement))
        worst = max(worst, deviation_of(store, placed, there).value)
    return Stood(worst, len(chosen), len(moved))


def run_steps_file(
    model: Model, path: str, store_folder: str, *, progress: Progress = SILENT
) -> tuple[Model, tuple[StepOutcome, ...]]:
    """Run the steps of a file on a model. Raises MalformedFile."""
    return run_steps(model, read_steps(path), BlobStore(Path(store_folder)), progress=progress)


def do_step(
    model: Model, plain: dict[str, Any], store_folder: str, *, progress: Progress = SILENT
) -> tuple[Model, StepOutcome, tuple[Left, ...]]:
    """Do one step, given as it stands in a steps file; the model stays as it is where it can't be done.

    Returns: the model, what came of the step, and how much the model is before and after it.

    Raises:
        MalformedFile: when it makes no sense.
    """
    step = step_from(plain)
    changed, outcome = run_step(
        model, step, BlobStore(Path(store_folder)), progress=progress.part(0.0, 0.9)
    )
    figures = how_much((model, changed), store_folder, progress=progress.part(0.9, 1.0))
    return changed, outcome, figures


def traits_of(
    model: Model, store_folder: str, standard: bool, seen: bool, *, progress: Progress = SILENT
) -> Traits:
    """What a filter asks for that only the kernel can tell: standard parts, what is seen from outside."""
    store = BlobStore(Path(store_folder))
    return Traits(
        standard_ids(Context(model, store, progress)) if standard else None,
        seen_in(model, store, progress=progress) if seen else None,
    )


def how_much(
    models: Sequence[Model], store_folder: str, *, progress: Progress = SILENT
) -> tuple[Left, ...]:
    """The figures of models: parts, places, bodies, faces, volume, bytes."""
    store = BlobStore(Path(store_folder))
    made = []
    for model in models:
        facts = measure_all(model.blobs(), store_folder, progress=progress.part(0.0, 1.0 / len(models)))
        made.append(figures_of(model, facts, {key: len(store.get(key)) for key in model.blobs()}))
    return tuple(made)
