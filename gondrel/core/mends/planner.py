"""Mending a model: each mend tried on what it cures, measured, and refused when it makes things worse."""

from __future__ import annotations

import math
from collections.abc import Collection
from dataclasses import dataclass, replace

from gondrel.core.checks.runner import all_checks, check_model
from gondrel.core.errors import GondrelError
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.deviation import one_way_deviation
from gondrel.core.kernel.fitting import widest_tolerance
from gondrel.core.kernel.inspection import inspect_shape
from gondrel.core.kernel.shape import Shape, shape_from_blob, shape_to_blob
from gondrel.core.mends.actions import MENDS
from gondrel.core.mends.base import Mend
from gondrel.core.model.body import Body, BodyKind, Rgba
from gondrel.core.model.findings import CheckLimits, Mended, Severity
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["mend_model"]

_SAME_PLACE = 0.05
"""How far the middle of a face may have moved, mm, for it to keep its colour."""

_SAME_VOLUME = 0.01
"""Share of the volume of a sound solid that a mend said to keep the shape may change."""

_SKINS = (BodyKind.SOLID, BodyKind.SHEET)


def mend_model(
    model: Model,
    store: BlobStore,
    *,
    only: Collection[str] = (),
    safe: bool = False,
    tolerance: float = 1e-3,
    limits: CheckLimits | None = None,
    progress: Progress = SILENT,
) -> tuple[Model, tuple[Mended, ...]]:
    """The model mended, and what came of every mend that was tried.

    Args:
        only: codes of mends or of the checks they cure; none for all. safe: only mends that keep the
            shape that is there. tolerance: how far apart edges are that belong together, mm.
    """
    told: list[Mended] = []
    work = _Work(store, limits or CheckLimits(), tolerance)
    for product in progress.each(list(model.products), "Mending"):
        for mend in MENDS:
            if (safe and not mend.is_safe) or (only and not {mend.code, *mend.cures} & set(only)):
                continue
            now = model.product(product.id)
            groups = [_skins(now)] if mend.takes_all else [(body,) for body in _skins(now)]
            for group in groups:
                mended = work.tried(now, mend, group) if group else None
                if mended is not None:
                    outcome, changed = mended
                    told.append(outcome)
                    now = changed
                    model = model.with_product(changed)
    return model, tuple(told)


def _skins(product: Product) -> tuple[Body, ...]:
    return tuple(b for b in product.bodies if b.kind in _SKINS)


@dataclass(slots=True)
class _Work:
    store: BlobStore
    limits: CheckLimits
    tolerance: float

    def tried(self, product: Product, mend: Mend, group: tuple[Body, ...]) -> tuple[Mended, Product] | None:
        """What came of a mend on some bodies of a product; None when there is nothing it cures."""
        before = self._codes(product, group)
        if not set(mend.cures) & set(before):
            return None
        figures = self._figures(group, before)
        label = group[0].name or product.label

        def told(outcome: str, why: str, after: tuple[tuple[str, float], ...], off: float = 0.0) -> Mended:
            return Mended(
                mend.code, mend.title, product.label, label, outcome, why, figures, after, off, product.id
            )

        try:
            shapes = [shape_from_blob(self.store.get(b.blob)) for b in group]
            made = mend.run(shapes, self.tolerance)
            bodies = tuple(self._body(group, kind, shape, n) for n, (kind, shape) in enumerate(made))
            off = max((one_way_deviation(shape, [s for _, s in made]) for shape in shapes), default=0.0)
        except GondrelError as error:
            return told("refused", error.message, figures), product
        if not bodies:
            return told("refused", "nothing was left of it", figures), product
        others = tuple(b for b in product.bodies if b not in group)
        changed = replace(product, bodies=(*bodies, *others))
        now = self._codes(changed, bodies)
        after = self._figures(bodies, now)
        lost = sum(len(b.face_colours) for b in group) - sum(len(b.face_colours) for b in bodies)
        bound = 10 * self.tolerance
        if mend.to_own:
            bound = max(bound, *(widest_tolerance(shape) for shape in shapes))
        if off > bound:
            return told("refused", f"it would move what is there by {off:.3g} mm", after, off), product
        change = self._volume_change(group, before, bodies)
        if mend.is_safe and change > _SAME_VOLUME:
            return told("refused", f"it would change the volume by {change:.2%}", after, off), product
        left = [code for code in now if code in mend.cures]
        worse = [c for c in now if now.count(c) > before.count(c) and c not in mend.cures and c[0] in "TG"]
        faults = _faults(now), _faults(before)
        if faults[0] > faults[1] or (worse and faults[0] >= faults[1] and left):
            return told("refused", "it would make things worse", after, off), product
        if now == before:
            return told("unchanged", "nothing of it could be mended so", after, off), product
        outcome = "improved" if left else "mended"
        why = f"moved what is there by {off:.2g} mm at most"
        if lost > 0:
            why += f"; {lost} coloured faces are gone with their colour"
        return told(outcome, why, after, off), changed

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
        looks = self._looks(group, shape, first.colour)
        return replace(first, id=identity, kind=kind, blob=blob, face_colours=looks)

    def _looks(
        self, group: tuple[Body, ...], shape: Shape, own: Rgba | None
    ) -> tuple[tuple[int, Rgba], ...]:
        """Colours of the faces of a mended body: each has that of the face that was in its place."""
        if not any(b.face_colours or b.colour != own for b in group):
            return ()
        before: list[tuple[str, tuple[float, float, float], Rgba | None]] = []
        for body in group:
            shown = dict(body.face_colours)
            faces = inspect_shape(shape_from_blob(self.store.get(body.blob))).faces
            before += [(f.kind, f.middle, shown.get(f.index, body.colour)) for f in faces]
        found = []
        for face in inspect_shape(shape).faces:
            near = [(math.dist(face.middle, m), c) for k, m, c in before if k == face.kind]
            away, colour = min(near, key=lambda pair: pair[0], default=(math.inf, None))
            if colour is not None and colour != own and away < _SAME_PLACE:
                found.append((face.index, colour))
        return tuple(found)

    def _codes(self, product: Product, bodies: tuple[Body, ...]) -> list[str]:
        alone = Model((replace(product, bodies=bodies, occurrences=()),), (product.id,))
        found = check_model(alone, self.store, self.limits, overlaps=False).findings
        return [
            f.code for f in found if (f.body or f.code in _OF_SKINS) and f.severity is not Severity.NOTE
        ]

    def _figures(self, bodies: tuple[Body, ...], codes: list[str]) -> tuple[tuple[str, float], ...]:
        facts = [facts_of(self.store, b.blob) for b in bodies]
        return (
            ("bodies", float(len(bodies))),
            ("volume", sum(f.volume for f in facts)),
            ("area", sum(f.area for f in facts)),
            ("faces", float(sum(f.faces for f in facts))),
            ("faults", float(_faults(codes))),
            ("doubts", float(len(codes) - _faults(codes))),
        )


_OF_SKINS = frozenset(("A506",))


def _faults(codes: list[str]) -> int:
    grave = {check.code for check in all_checks() if check.severity is Severity.FAULT}
    return sum(code in grave for code in codes)
