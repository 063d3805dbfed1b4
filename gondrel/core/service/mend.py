"""Mend: every mend that cures something, tried, measured, recorded."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from gondrel.core.errors import UsageError
from gondrel.core.mends.catalogue import all_mends
from gondrel.core.mends.planner import mend_model
from gondrel.core.model.findings import CheckLimits, CheckReport, Mended, MendWish
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.service.mend_mesh import mend_meshes
from gondrel.core.service.messages import MendHelp
from gondrel.core.work import SILENT, Progress

__all__ = ["mend", "mend_helps", "named_faces", "wish_for"]

_MESHES = frozenset(("F701", "R201"))


def mend(
    model: Model,
    wish: MendWish,
    limits: CheckLimits,
    store_folder: str,
    *,
    progress: Progress = SILENT,
) -> tuple[Model, tuple[Mended, ...]]:
    """The model mended, and what came of every mend that was tried; meshes too where they are asked for.

    Args:
        limits: of the checks by which it is judged.

    Raises:
        KernelRefused: when a body can't be measured. UsageError: for an unknown code.
    """
    known = _MESHES.union(*({m.code, *m.cures} for m in all_mends()))
    if unknown := sorted(set(wish.only) - known):
        raise UsageError(
            f"no mend has or cures the code {unknown[0]}", hint=f"one of {', '.join(sorted(known))}"
        )
    outcomes: tuple[Mended, ...] = ()
    if not wish.only or _MESHES & set(wish.only):
        model, texts = mend_meshes(model, store_folder, progress=progress.part(0.0, 0.2))
        outcomes = tuple(
            Mended(
                "R201", "Mend mesh", text.partition(":")[0], "", "mended", text.partition(": ")[2], (), ()
            )
            for text in texts
        )
    mended, more = mend_model(
        model, BlobStore(Path(store_folder)), wish, limits=limits,
        progress=progress.part(0.2, 1.0),
    )  # fmt: skip
    return mended, (*outcomes, *more)


def named_faces(model: Model, text: str) -> tuple[tuple[str, tuple[int, ...]], ...]:
    """Faces told as ``NAME:NUMBER,NUMBER``: of the body, or the part with one body, of that name; from 1.

    Raises:
        UsageError: when it is told otherwise, or nothing or more than one thing has the name.
    """
    name, mark, numbers = text.rpartition(":")
    listed = numbers.split(",")
    if not mark or not all(n.strip().isdigit() and int(n) > 0 for n in listed):
        raise UsageError(f"faces are told as NAME:NUMBER,NUMBER, not {text!r}")
    ids = [b.id for _, b in model.bodies() if b.name == name]
    ids = ids or [p.bodies[0].id for p in model.products if p.label == name and len(p.bodies) == 1]
    if len(ids) != 1:
        raise UsageError(f"{len(ids)} bodies are called {name!r}; the faces of one can be told")
    return ((ids[0], tuple(int(n) - 1 for n in listed)),)


def wish_for(report: CheckReport, number: int, wish: MendWish) -> MendWish:
    """A wish narrowed to one finding, by its number in a report from 1, and a mend that can be done for it.

    Raises:
        UsageError: when there is no such finding, or no mend for it alone.
    """
    if not 0 < number <= len(report.findings):
        raise UsageError(f"there is no finding {number}", hint=f"there are {len(report.findings)}")
    finding = report.findings[number - 1]
    single = report.single_mend(finding)
    if single is None:
        raise UsageError(
            f"no mend can be done for finding {number} ({finding.code}) alone",
            hint=f"mend all of its kind with --only {finding.code}",
        )
    return replace(wish, only=wish.only or (single.code,), finding=finding)


def mend_helps(*, progress: Progress = SILENT) -> tuple[MendHelp, ...]:
    """What each mend does and for what it is."""
    helps = [
        MendHelp(m.code, m.title, m.what, m.cures, m.is_safe, m.is_asked, m.is_single) for m in all_mends()
    ]  # fmt: skip
    mesh = MendHelp(
        "R201", "Mend mesh", "Facets said twice go, all are turned alike, holes are closed with facets.",
        ("F701",), False, False,
    )  # fmt: skip
    return (*helps, mesh)
