"""One mend of bodies tried on what it cures: measured, and refused when it makes things worse."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from gondrel.core.checks.runner import check_model
from gondrel.core.errors import GondrelError, KernelRefused
from gondrel.core.kernel.base.shape import Shape, shape_from_blob, shape_to_blob
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.inspect.inspection import inspect_shape
from gondrel.core.kernel.measure.deviation import one_way_deviation
from gondrel.core.mends.base import BodyMend, BodyWork
from gondrel.core.mends.faces import carried_over, dropped
from gondrel.core.model.body import Body, BodyKind
from gondrel.core.model.findings import CheckLimits, Finding, Mended, MendWish, Severity
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore

__all__ = ["Figures", "Trial", "faults_of", "figures_of"]

_SAME_VOLUME = 1e-4
"""Share of the volume of a closed solid that a mend said to keep the shape may change."""

_NOWHERE = 1e-6
"""How far what was there may lie off what is now and still lie on it, mm."""

_OF_SHELLS = frozenset(("A506",))

Figures = tuple[tuple[str, float], ...]


@dataclass(frozen=True, slots=True)
class _Attempt:
    """A mend that was done, and what was measured of what it made.

    Args:
        found, still: findings before and after; product: with the bodies made; off: how far what was there
            lies off what is now, and the most it may, mm; by_hand: whether faces were named for it.
    """

    mend: BodyMend
    group: tuple[Body, ...]
    before: list[Finding]
    bodies: tuple[Body, ...]
    still: list[Finding]
    product: Product
    figures: Figures
    off: float
    bound: float
    by_hand: bool


@dataclass(frozen=True, slots=True)
class _Outcome:
    word: str
    why: str

    @property
    def is_kept(self) -> bool:
        return self.word in ("mended", "improved")


@dataclass(slots=True)
class Trial:
    """Tries mends on bodies of a product.

    Faults and doubts are judged by some limits; how far mends may go is in the wish.
    """

    store: BlobStore
    limits: CheckLimits
    wish: MendWish

    def tried(
        self, product: Product, mend: BodyMend, group: tuple[Body, ...]
    ) -> tuple[Mended, Product] | None:
        """What came of a mend on some bodies of a product; None when there is nothing it cures."""
        result = self._found(product, group, mend)
        by_hand = bool({body for body, _ in self.wish.faces} & {b.id for b in group})
        if not by_hand and not any(f.code in mend.cures and self.wish.means(f) for f in result):
            return None
        figures = figures_of(self.store, group, result)
        try:
            attempt = self._attempt(product, mend, group, result, by_hand=by_hand)
        except GondrelError as error:
            outcome, after, off = _Outcome("refused", error.message), figures, 0.0
        else:
            outcome, after, off = self._judged(attempt, figures), attempt.figures, attempt.off
            product = attempt.product if outcome.is_kept else product
        label = group[0].name or product.label
        return (
            Mended(
                mend.code, mend.title, product.label, label, outcome.word, outcome.why, figures, after, off,
                product.id,
            ),
            product,
        )  # fmt: skip

    def _attempt(
        self,
        product: Product,
        mend: BodyMend,
        group: tuple[Body, ...],
        findings: list[Finding],
        *,
        by_hand: bool,
    ) -> _Attempt:
        """Do the mend and measure what it made. Raises GondrelError when it can't be done."""
        work = self._work(mend, group, findings)
        try:
            made = mend.run(work)
            bodies = tuple(self._body(group, kind, shape, n) for n, (kind, shape) in enumerate(made))
            off = max(
                (one_way_deviation(shape, [s for _, s in made]) for shape in work.shapes), default=0.0
            )
        except (ValueError, ArithmeticError, IndexError) as error:
            raise KernelRefused(f"it can't be worked out for this body ({error})") from error
        if not bodies:
            raise KernelRefused("nothing was left of it")
        others = tuple(b for b in product.bodies if b not in group)
        changed = replace(product, bodies=(*bodies, *others))
        still = self._found(changed, bodies, mend)
        bound = mend.reach(work) if mend.reach is not None else 10 * self.wish.tolerance
        figures = figures_of(self.store, bodies, still)
        return _Attempt(mend, group, findings, bodies, still, changed, figures, off, bound, by_hand)

    def _judged(self, attempt: _Attempt, figures: Figures) -> _Outcome:
        """Whether what a mend made is kept, and why."""
        mend, off = attempt.mend, attempt.off
        before, now = [f.code for f in attempt.before], [f.code for f in attempt.still]
        if off > attempt.bound and not attempt.by_hand:
            return _Outcome("refused", f"it would move what is there by {off:.3g} mm")
        if not attempt.by_hand and _solids(attempt.bodies) < _solids(attempt.group):
            return _Outcome("refused", "it would make a sheet of a solid")
        change = self._volume_change(attempt.group, before, attempt.bodies)
        if mend.is_safe and change > _SAME_VOLUME:
            return _Outcome("refused", f"it would change the volume by {change:.3%}")
        left = [] if attempt.by_hand else self._left(mend, before, now)
        worse = [c for c in now if now.count(c) > before.count(c) and c not in mend.cures and c[0] in "TG"]
        faults = faults_of(attempt.still), faults_of(attempt.before)
        if faults[0] > faults[1] or (worse and faults[0] >= faults[1] and left):
            return _Outcome("refused", "it would make things worse")
        if now == before and not attempt.by_hand:
            return _Outcome("unchanged", "nothing of it could be mended so")
        near = f"within {off:.2g} mm of" if off > _NOWHERE else "on"
        why = f"what was there lies {near} what is now"
        are_fewer = attempt.figures[3][1] < figures[3][1]
        if gone := dropped(attempt.group, attempt.bodies, are_fewer=are_fewer):
            why += f"; {gone}"
        return _Outcome("improved" if left else "mended", why)

    def _work(self, mend: BodyMend, group: tuple[Body, ...], findings: Iterable[Finding]) -> BodyWork:
        asked = set(mend.cures) & set(self.wish.only) or set(mend.cures)
        by_hand = dict(self.wish.faces)
        marked = {body.id: set(by_hand.get(body.id, ())) for body in group}
        for finding in findings:
            is_meant = finding.code in asked and self.wish.means(finding)
            if not by_hand and is_meant and finding.face >= 0 and finding.body in marked:
                marked[finding.body].add(finding.face)
        return BodyWork(
            [shape_from_blob(self.store.get(b.blob)) for b in group],
            self.wish.tolerance,
            self.limits,
            [frozenset(marked[b.id]) for b in group],
            [dict(b.face_colours) for b in group],
            self.wish.smooth,
            self._near(group),
        )

    def _near(self, group: tuple[Body, ...]) -> tuple[float, float, float] | None:
        """Where the one finding is that is to be mended: of an edge, in its middle."""
        meant = self.wish.finding
        if meant is None:
            return None
        blob = next((b.blob for b in group if b.id == meant.body), None)
        if meant.edge < 0 or blob is None:
            return meant.point
        return inspect_shape(shape_from_blob(self.store.get(blob))).edges[meant.edge].middle

    def _left(self, mend: BodyMend, before: list[str], now: list[str]) -> list[str]:
        """Codes of what a mend leaves of what it is for; of one finding, of its kind if none is gone."""
        meant = self.wish.finding
        if meant is None:
            return [code for code in now if code in mend.cures]
        return [meant.code] if now.count(meant.code) >= before.count(meant.code) else []

    def _volume_change(self, group: tuple[Body, ...], codes: list[str], bodies: tuple[Body, ...]) -> float:
        """Share of its volume by which a closed body changes; 0 for one whose volume means nothing."""
        closed = all(b.kind is BodyKind.SOLID for b in group) and not any(c[0] == "T" for c in codes)
        before = sum(facts_of(self.store, b.blob).volume for b in group)
        if not closed or before <= 0.0:
            return 0.0
        solids = [b for b in bodies if b.kind is BodyKind.SOLID]
        return abs(sum(facts_of(self.store, b.blob).volume for b in solids) / before - 1.0)

    def _body(self, group: tuple[Body, ...], kind: BodyKind, shape: Shape, number: int) -> Body:
        first = group[min(number, len(group) - 1)]
        identity = first.id if number < len(group) else f"{group[0].id}+{number}"
        blob = self.store.put(shape_to_blob(shape))
        made = replace(first, id=identity, kind=kind, blob=blob)
        return carried_over(self.store, group, made, shape)

    def _found(self, product: Product, bodies: tuple[Body, ...], mend: BodyMend) -> list[Finding]:
        """What checks find on some bodies: faults and doubts, and notes of what the mend cures."""
        alone = Model((replace(product, bodies=bodies, occurrences=()),), (product.id,))
        findings = check_model(alone, self.store, self.limits, overlaps=False).findings
        return [
            f
            for f in findings
            if (f.body or f.code in _OF_SHELLS)
            and (f.severity is not Severity.NOTE or f.code in mend.cures)
        ]


def _solids(bodies: Iterable[Body]) -> int:
    return sum(body.kind is BodyKind.SOLID for body in bodies)


def figures_of(store: BlobStore, bodies: Iterable[Body], findings: Iterable[Finding]) -> Figures:
    """Figures of some bodies, with what was found on them."""
    bodies, findings = tuple(bodies), list(findings)
    facts = [facts_of(store, b.blob) for b in bodies]
    return (
        ("bodies", float(len(bodies))),
        ("volume", sum(f.volume for f in facts)),
        ("area", sum(f.area for f in facts)),
        ("faces", float(sum(f.faces for f in facts))),
        ("faults", float(faults_of(findings))),
        ("doubts", float(sum(f.severity is Severity.DOUBT for f in findings))),
    )


def faults_of(findings: Iterable[Finding]) -> int:
    """How many of some findings are faults."""
    return sum(f.severity is Severity.FAULT for f in findings)
