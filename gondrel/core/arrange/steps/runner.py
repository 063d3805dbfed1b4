"""Running steps one after another: those that find nothing are told, the others are done."""

from __future__ import annotations

from collections.abc import Sequence

from gondrel.core.arrange.steps.base import Context, NotApplicable, StepRecord
from gondrel.core.arrange.steps.file import ALL_KINDS, script_of
from gondrel.core.arrange.steps.outcome import StepOutcome
from gondrel.core.errors import GondrelError
from gondrel.core.model.figures import without_stale_figures
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["run_step", "run_steps"]


def run_step(
    model: Model, step: StepRecord, store: BlobStore, *, progress: Progress = SILENT
) -> tuple[Model, StepOutcome]:
    """Do one step; the model stays as it is where it can't be done."""
    context = Context(model, store, progress)
    items = str(step.items)
    try:
        words, changed = step.values.run(context, step.items)
    except NotApplicable as error:
        return model, StepOutcome(ALL_KINDS[step.do].title, items, "not applicable", error.message)
    except GondrelError as error:
        return model, StepOutcome(ALL_KINDS[step.do].title, items, "refused", error.message)
    changed.check_structure()
    changed = without_stale_figures(model, changed)
    return changed, StepOutcome(words, items, "done", told=tuple(context.told), script=script_of(step))


def run_steps(
    model: Model, steps: Sequence[StepRecord], store: BlobStore, *, progress: Progress = SILENT
) -> tuple[Model, tuple[StepOutcome, ...]]:
    """Do steps in their order; returns the model and what came of each."""
    outcomes = []
    for number, step in enumerate(steps):
        share = progress.part(number / len(steps), (number + 1) / len(steps))
        model, outcome = run_step(model, step, store, progress=share)
        outcomes.append(outcome)
    return model, tuple(outcomes)
