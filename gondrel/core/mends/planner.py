"""Mending a model: which mends are planned for what was found, and trying them one after another."""

from __future__ import annotations

from collections.abc import Iterable

from gondrel.core.checks.runner import check_model
from gondrel.core.errors import GondrelError
from gondrel.core.mends.base import BodyMend, ModelMend, ModelWork
from gondrel.core.mends.catalogue import all_mends
from gondrel.core.mends.faces import dropped
from gondrel.core.mends.trial import Figures, Trial, faults_of, figures_of
from gondrel.core.model.body import Body, BodyKind
from gondrel.core.model.findings import CheckLimits, Finding, Mended, MendWish, PlannedMend
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["mend_model", "plan_mends"]

_SHELLS = (BodyKind.SOLID, BodyKind.SHEET)
_FIRST = 10
"""Mends of structure of a lower order go before those of bodies."""


def plan_mends(findings: Iterable[Finding]) -> tuple[PlannedMend, ...]:
    """The mends there are for some findings, in the order in which they are tried."""
    selected = list(findings)
    planned = []
    for mend in all_mends():
        cured = [f for f in selected if f.code in mend.cures]
        if cured:
            planned.append(
                PlannedMend(
                    mend.code, mend.title, mend.what, mend.is_safe, mend.is_asked,
                    tuple(dict.fromkeys(f.code for f in cured)), len(cured),
                    tuple(dict.fromkeys(f.product for f in cured if f.product)), mend.is_single,
                )
            )  # fmt: skip
    return tuple(planned)


def mend_model(
    model: Model,
    store: BlobStore,
    wish: MendWish | None = None,
    *,
    limits: CheckLimits | None = None,
    progress: Progress = SILENT,
) -> tuple[Model, tuple[Mended, ...]]:
    """The model mended, and what came of every mend that was tried."""
    wish, limits = wish or MendWish(), limits or CheckLimits()
    outcomes: list[Mended] = []
    wanted = [mend for mend in all_mends() if _wants(wish, mend)]
    of_model = [mend for mend in wanted if isinstance(mend, ModelMend)]
    model = _structure(model, store, wish, [m for m in of_model if m.order < _FIRST], limits, outcomes)
    trial = Trial(store, limits, wish)
    for product in progress.each(list(model.products), "Mending"):
        if not _covers(wish, product.id):
            continue
        for mend in wanted:
            if not isinstance(mend, BodyMend):
                continue
            now = model.product(product.id)
            for group in _groups(now, mend):
                mended = trial.tried(now, mend, group)
                if mended is not None:
                    outcome, now = mended
                    outcomes.append(outcome)
                    model = model.with_product(now)
    model = _structure(model, store, wish, [m for m in of_model if m.order >= _FIRST], limits, outcomes)
    return model, tuple(outcomes)


def _wants(wish: MendWish, mend: BodyMend | ModelMend) -> bool:
    if (wish.safe and not mend.is_safe) or (wish.finding is not None and not mend.is_single):
        return False
    if wish.only:
        return bool({mend.code, *mend.cures} & set(wish.only))
    return not mend.is_asked


def _covers(wish: MendWish, product: str) -> bool:
    return not wish.products or product in wish.products


def _groups(product: Product, mend: BodyMend) -> list[tuple[Body, ...]]:
    """The bodies that a mend works on together."""
    skins = _skins(product)
    if mend.takes_all:
        return [skins] if skins else []
    return [(body,) for body in (*skins, *(b for b in product.bodies if b.kind is BodyKind.WIRE))]


def _skins(product: Product) -> tuple[Body, ...]:
    return tuple(b for b in product.bodies if b.kind in _SHELLS)


def _structure(
    model: Model,
    store: BlobStore,
    wish: MendWish,
    mends: list[ModelMend],
    limits: CheckLimits,
    mended: list[Mended],
) -> Model:
    """The model after mends of structure; what came of them is added to what is told."""
    for mend in mends:
        overlaps = bool(set(mend.cures) & _OVERLAPS)
        findings = check_model(model, store, limits, overlaps=overlaps).findings
        cured = [f for f in findings if f.code in mend.cures and wish.means(f)]
        for key in dict.fromkeys(f.product for f in cured):
            if key and not _covers(wish, key):
                continue
            work = ModelWork(model, store, key, tuple(f for f in cured if f.product == key), limits)
            model, findings, outcome = _changed(mend, work, findings, overlaps, wish)
            mended.append(outcome)
    return model


_OVERLAPS = frozenset(("A508", "A509", "A510"))


def _changed(
    mend: ModelMend, work: ModelWork, findings: tuple[Finding, ...], overlaps: bool, wish: MendWish
) -> tuple[Model, tuple[Finding, ...], Mended]:
    """What came of a mend: the model, what is found on the whole of it now, and the record.

    Args:
        findings: on the whole model before; overlaps: whether overlaps are looked for.
    """
    product = work.model.by_id.get(work.product)
    label = product.label if product is not None else ""
    before = figures_of(work.store, _bodies(work.model, work.product), work.findings)

    def outcome_of(outcome: str, why: str, after: Figures) -> Mended:
        return Mended(mend.code, mend.title, label, label, outcome, why, before, after, 0.0, work.product)

    try:
        changed = mend.run(work)
        now = check_model(changed.model, work.store, work.limits, overlaps=overlaps).findings
    except GondrelError as error:
        return work.model, findings, outcome_of("refused", error.message, before)
    left = [f for f in now if f.code in mend.cures and f.product == work.product]
    if wish.finding is not None and len(left) < sum(
        f.code in mend.cures and f.product == work.product for f in findings
    ):
        left = []  # one of them is gone
    after = figures_of(work.store, _bodies(changed.model, work.product), left)
    if faults_of(now) > faults_of(findings):
        return work.model, findings, outcome_of("refused", "it would make things worse", after)
    gone = dropped((b for _, b in work.model.bodies()), (b for _, b in changed.model.bodies()))
    what = f"{changed.what}; {gone}" if gone else changed.what
    return changed.model, now, outcome_of("improved" if left else "mended", what, after)


def _bodies(model: Model, product: str) -> tuple[Body, ...]:
    """The bodies of a product, or of all when it stands for the whole."""
    if product in model.by_id:
        return model.product(product).bodies
    return tuple(body for _, body in model.bodies())
