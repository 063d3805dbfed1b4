"""Structure recovered from bodies: equal ones become one part used many times."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from gondrel.core.arrange.patterns import pattern_of
from gondrel.core.arrange.proposal import Proposal, ProposedPart, ProposedUse
from gondrel.core.arrange.touching import repeated_groups
from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.shape import shape_from_blob
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.inspect.axes import about_axis
from gondrel.core.likeness.groups import Group
from gondrel.core.likeness.standard_parts import StandardPart, standard_part
from gondrel.core.likeness.stored import like_bodies
from gondrel.core.model.body import Body, BodyFacts, BodyKind, Rgba
from gondrel.core.model.facets import is_facets
from gondrel.core.model.product import IDENTITY, Placement, Product
from gondrel.core.model.snapshot import Model, compose
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["propose"]

_SERIAL = re.compile(r"(?<![M\u00d7])[\s._\-#:]+\(?\d+\)?$")
_PLAIN = {"solid", "body", "shell", "manifold", "none", "unnamed", "mesh", "brep", "part"}


@dataclass(frozen=True, slots=True)
class _Entry:
    """A body with the product it is in; whether that product is a part of this body alone."""

    product: Product
    body: Body
    is_part: bool


def propose(
    model: Model, store: BlobStore, *, groups: bool = True, progress: Progress = SILENT
) -> Proposal:
    """What structure the bodies of a model speak for.

    Args:
        groups: whether parts that touch and recur are proposed as sub-assemblies.
    """
    facts: dict[str, BodyFacts] = {}
    unassigned: list[tuple[str, str]] = []
    entries: list[_Entry] = []
    for product in progress.part(0.0, 0.3).each(list(model.products), "Measuring bodies"):
        if product.is_reference:
            continue
        is_part = len(product.bodies) == 1 and not product.occurrences
        for body in product.bodies:
            try:
                facts.setdefault(body.blob, facts_of(store, body.blob))
            except KernelRefused as error:
                unassigned.append((body.id, error.message))
                continue
            entries.append(_Entry(product, body, is_part))
    likes = like_bodies([e.body.blob for e in entries], facts, store, progress=progress.part(0.3, 0.7))
    naming = _Naming(store, facts)
    making = _Making(model, facts, naming)
    parts = making.parts(entries, likes)
    proposed = (
        repeated_groups(model, parts, store, facts, progress=progress.part(0.7, 1.0)) if groups else ()
    )
    return Proposal(tuple(parts), tuple(proposed), tuple(unassigned))


class _Making:
    def __init__(self, model: Model, facts: Mapping[str, BodyFacts], naming: _Naming) -> None:
        self.model, self.facts, self.naming = model, facts, naming
        self.above: defaultdict[str, list[tuple[Product, Any]]] = defaultdict(list)
        for parent, use in model.occurrences():
            self.above[use.product].append((parent, use))

    def parts(self, entries: Sequence[_Entry], likes: Iterable[Group]) -> list[ProposedPart]:
        by_blob: defaultdict[str, list[_Entry]] = defaultdict(list)
        for entry in entries:
            by_blob[entry.body.blob].append(entry)
        parts: list[ProposedPart] = []
        names: dict[str, str] = {}
        for like in likes:
            alike = [entry for blob in like.members for entry in by_blob[blob]]
            for same in _told_alike(alike):
                part = self._part(f"part{len(parts) + 1}", same, like, names.get(like.mirror_of, ""))
                names.setdefault(like.first, part.name)
                parts.append(part)
        order = {entry.body.id: place for place, entry in enumerate(entries)}
        parts.sort(key=lambda part: order[part.body])
        return parts

    def _part(self, key: str, entries: list[_Entry], like: Group, mirror_of: str) -> ProposedPart:
        first = next((e for e in entries if e.is_part), entries[0])
        uses: list[ProposedUse] = []
        for entry in entries:
            fit = like.members[entry.body.blob]
            motion = like.motion(first.body.blob, entry.body.blob)
            uses += self._uses(entry, motion, fit.accuracy, first.body)
        standard = self.naming.standard(first.body)
        name, evidence = self.naming.name(first, entries, standard)
        centre = (*self.facts[first.body.blob].centroid, 1.0)
        middles = [_matrix(use.placement) @ np.array(centre) for use in uses]
        parents = {use.parent for use in uses}
        is_one = len(parents) == 1
        pattern = pattern_of([(m[0], m[1], m[2]) for m in middles]) if is_one else None
        copies = len({e.body.blob for e in entries})
        if copies > 1:
            worst = max(use.accuracy for use in uses)
            evidence.append(f"{len(uses)} places, the worst {worst:.1e} mm off")
        if pattern is not None:
            evidence.append(pattern.words)
        if mirror_of:
            evidence.append(f"the mirror image of {mirror_of}")
        return ProposedPart(
            key, name, first.product.number if first.is_part else "",
            first.product.id if first.is_part else "", first.body.id,
            tuple(e.body.id for e in entries), tuple(uses), pattern, standard, mirror_of, tuple(evidence),
        )  # fmt: skip

    def _uses(
        self, entry: _Entry, motion: Placement, accuracy: float, first: Body
    ) -> Iterable[ProposedUse]:
        product, body = entry.product, entry.body
        colour = body.colour if body.colour != first.colour else None
        if not entry.is_part:
            name = body.name or product.label
            yield ProposedUse(
                f"{product.id}/{body.id}", product.id, product.id, body.id, name, motion, accuracy, colour
            )
            return
        for parent, use in self.above[product.id]:
            placement = compose(use.placement, motion) if motion is not IDENTITY else use.placement
            yield ProposedUse(
                use.id, parent.id, product.id, body.id, use.name, placement, accuracy, use.colour or colour
            )
        if product.id in self.model.roots:
            yield ProposedUse(
                f"/{product.id}", "", product.id, body.id, product.label, motion, accuracy, colour
            )


def _matrix(placement: Placement | None) -> np.ndarray:  # type: ignore[type-arg]
    assert placement is not None
    return np.asarray(placement, float).reshape(4, 4)


def _told_alike(entries: list[_Entry]) -> list[list[_Entry]]:
    """Bodies of one shape, apart where what is said of them could not be said of one part: then they stay
    parts of their own."""
    apart: defaultdict[Any, list[_Entry]] = defaultdict(list)
    for entry in entries:
        body = replace(
            entry.body, id="", name="", blob="", witness=None,
            colour=None if entry.body.colour is None else _ANY,
        )  # fmt: skip
        apart[body].append(entry)
    same: list[list[_Entry]] = []
    for members in apart.values():
        by_identity: defaultdict[Any, list[_Entry]] = defaultdict(list)
        loose = [e for e in members if not e.is_part]
        for entry in members:
            if entry.is_part:
                by_identity[_identity(entry.product)].append(entry)
        kinds = list(by_identity.values())
        if kinds:
            kinds[0] += loose
        same += kinds or [loose]
    return same


_ANY = Rgba(0, 0, 0)


def _identity(product: Product) -> Any:
    """What is said of a part that another of the same shape need not share."""
    return (
        product.number, _stem(product.name), product.revision, product.description, product.material,
        product.metadata, product.particulars, product.references,
    )  # fmt: skip


def _stem(name: str) -> str:
    """A name without the number that tells copies apart."""
    return _SERIAL.sub("", name.strip()) or name.strip()


class _Naming:
    """Names proposed for parts, each once."""

    def __init__(self, store: BlobStore, facts: Mapping[str, BodyFacts]) -> None:
        self.store, self.facts = store, facts
        self.given: set[str] = set()
        self.count = 0

    def standard(self, body: Body) -> StandardPart | None:
        """The standard part that a body is by its dimensions."""
        if body.kind is not BodyKind.SOLID or is_facets(self.store.get(body.blob)):
            return None
        try:
            axial = about_axis(shape_from_blob(self.store.get(body.blob)))
        except KernelRefused:
            return None
        return standard_part(axial, self.facts[body.blob].volume) if axial is not None else None

    def name(
        self, first: _Entry, entries: list[_Entry], standard: StandardPart | None
    ) -> tuple[str, list[str]]:
        """A name, and what it was taken from."""
        evidence = [standard.evidence] if standard is not None else []
        if first.is_part and first.product.name:
            return first.product.name, evidence
        called = {entry.body.name for entry in entries}
        stems = called if len(called) == 1 else {_stem(name) for name in called}
        label = first.product.label
        told = stems.pop() if len(stems) == 1 else ""
        if told and told.lower() not in _PLAIN and told != label:
            return self._once(told), [*evidence, "named as its bodies are"]
        if standard is not None:
            return self._once(standard.name), [*evidence, f"named by {standard.standard}"]
        layers = {entry.body.layers for entry in entries}
        layer = next(iter(layers))[:1] if len(layers) == 1 else ()
        if layer:
            return self._once(layer[0]), [*evidence, f"named by its layer {layer[0]}"]
        self.count += 1
        return self._once(f"Part {self.count}"), evidence

    def _once(self, name: str) -> str:
        made, number = name, 2
        while made in self.given:
            made, number = f"{name} {number}", number + 1
        self.given.add(made)
        return made
