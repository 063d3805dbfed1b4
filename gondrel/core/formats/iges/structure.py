"""What an IGES file is made of, from its records alone: products, their places, and their bodies.

A subfigure definition (308) is a product, an instance of it (408) an occurrence. A group (402) of
nothing but surfaces is one body, a group that holds bodies is a product; what stands loose belongs
to the product of the file itself.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace
from functools import cached_property
from pathlib import Path

import numpy as np

from gondrel.core.errors import MalformedFile
from gondrel.core.formats.iges.entities import CURVES, POINT, SURFACES, TRIMMED, links_of
from gondrel.core.formats.iges.properties import (
    MORE,
    PropertyValue,
    colour_of,
    layers_of,
    level_names,
    matrix_of,
    said_of,
)
from gondrel.core.formats.iges.records import Entity, IgesFile
from gondrel.core.formats.iges.units import unit_of
from gondrel.core.model.body import Rgba
from gondrel.core.model.metadata import Metadatum
from gondrel.core.model.product import Placement

__all__ = [
    "Counted",
    "IgesPlan",
    "PlannedBody",
    "PlannedOccurrence",
    "PlannedProduct",
    "Planner",
    "counted",
    "edge_coedges",
    "edges_of_solid",
    "faces_of_solid",
]  # fmt: skip

SOLIDS = frozenset((186, 430))
_SHELL = 514
_DEFINITION, _INSTANCE, _GROUP = 308, 408, 402
_CONSTRUCTION = 6
_IDENTITY = 1e-12


@dataclass(frozen=True, slots=True)
class PlannedBody:
    """One body to be made.

    Args:
        what: "solid", "shell", "faces" (to be joined), "curves", "point" or "plane" (without bounds).
        entities: numbers of what it is made of.
        face_colours: colour of single faces by entity number.
        metadata: its generic data; more: what is said of it besides, as one text.
        is_hidden: whether it is blanked.
    """

    what: str
    entities: tuple[int, ...]
    name: str = ""
    colour: Rgba | None = None
    face_colours: tuple[tuple[int, Rgba], ...] = ()
    layers: tuple[str, ...] = ()
    is_reference: bool = False
    more: str = ""
    is_hidden: bool = False
    metadata: tuple[Metadatum, ...] = ()


@dataclass(frozen=True, slots=True)
class PlannedOccurrence:
    """A product placed in another; scale is apart from the rigid placement."""

    number: int
    product: int
    placement: Placement
    scale: float = 1.0
    colour: Rgba | None = None
    said: PropertyValue = field(default_factory=PropertyValue)
    is_hidden: bool = False
    layers: tuple[str, ...] = ()


@dataclass(slots=True)
class PlannedProduct:
    """A product; number 0 is the file's own, -1 that of reference geometry."""

    number: int
    name: str
    said: PropertyValue = field(default_factory=PropertyValue)
    bodies: list[PlannedBody] = field(default_factory=list)
    uses: list[PlannedOccurrence] = field(default_factory=list)


@dataclass(slots=True)
class IgesPlan:
    """Products by number and the numbers of those that stand on their own."""

    products: dict[int, PlannedProduct] = field(default_factory=dict)
    roots: list[int] = field(default_factory=list)

    def bodies(self) -> Iterator[PlannedBody]:
        """Every body once."""
        for product in self.products.values():
            yield from product.bodies


class Planner:
    """Finds out the structure of one file. Raises MalformedFile throughout."""

    def __init__(self, file: IgesFile) -> None:
        self.file = file
        self.unit = unit_of(file).mm
        self.levels = level_names(file)
        self.plan = IgesPlan()
        self.open: set[int] = set()

    @cached_property
    def owners(self) -> dict[int, int]:
        """For each entity that another is built of, one such other."""
        owners: dict[int, int] = {}
        for entity in self.file.entities.values():
            for place in links_of(entity):
                owners.setdefault(entity.pointer(place), entity.number)
        return owners

    def make(self) -> IgesPlan:
        """The structure of the file."""
        self._check_circles()
        loose: list[int] = []
        tops: list[Entity] = []
        for entity in self.file.entities.values():
            if entity.number in self.owners:
                continue
            if entity.kind == _INSTANCE:
                tops.append(entity)
            elif self._is_geometry(entity) or (entity.kind == _GROUP and self._holds(entity)):
                loose.append(entity.number)
        # A single group at the top is the file itself.
        if not tops and len(loose) == 1 and self.file.entities[loose[0]].kind == _GROUP:
            group = self.file.entities[loose[0]]
            if not self._is_one_body(group):
                loose = list(self._members(group))
        uses = [self._use(entity) for entity in tops]
        stem = Path(self.file.path).stem
        whole = PlannedProduct(0, self.file.said(3).strip() or stem)
        self._fill(whole, loose)
        if any(_moves(use) for use in uses) or whole.bodies or whole.uses:
            whole.uses[:0] = uses
            self.plan.products = {0: whole, **self.plan.products}
            self.plan.roots.insert(0, 0)
        else:
            self.plan.roots[:0] = list(dict.fromkeys(use.product for use in uses))
        for entity in self.file.of(_DEFINITION):
            if entity.number not in self.owners and entity.number not in self.plan.products:
                self.plan.roots.append(self._product(entity))
        return self.plan

    def _check_circles(self) -> None:
        """Refuse entities that are built of themselves: nobody could make them."""
        state: dict[int, int] = {}
        for start in self.file.entities:
            if state.get(start):
                continue
            stack: list[tuple[int, Iterator[int]]] = [(start, self._built_of(start))]
            state[start] = 1
            while stack:
                number, below = stack[-1]
                step = next(below, None)
                if step is None:
                    state[number] = 2
                    stack.pop()
                elif state.get(step) == 1:
                    where = self.file.entities[step].place
                    raise MalformedFile("an entity is built of itself", where=where)
                elif step in self.file.entities and not state.get(step):
                    state[step] = 1
                    stack.append((step, self._built_of(step)))

    def _built_of(self, number: int) -> Iterator[int]:
        entity = self.file.entities[number]
        for place in links_of(entity):
            pointed = entity.pointer(place)
            target = self.file.at(pointed)
            # Associativities and properties may point back; those circles are meant.
            if (target is not None and target.kind not in (402, 406)) or (
                target is not None and entity.kind in (_GROUP, _DEFINITION) and target.kind == 402
            ):
                yield pointed

    def _is_geometry(self, entity: Entity) -> bool:
        kind = entity.kind
        return (
            kind in SOLIDS
            or kind == _SHELL
            or kind in TRIMMED
            or kind in SURFACES
            or kind in CURVES
            or (kind == POINT and entity.subordinate in (0, 2))
        )

    def _members(self, entity: Entity) -> Iterator[int]:
        first = 1 if entity.kind == _GROUP else 3
        count = entity.integer(0 if entity.kind == _GROUP else 2)
        for place in range(first, min(first + count, len(entity.values))):
            number = entity.pointer(place)
            if number in self.file.entities:
                yield number

    def _holds(self, group: Entity) -> bool:
        return group.form in (1, 7, 14, 15) and any(
            self._is_geometry(m) or m.kind in (_GROUP, _INSTANCE)
            for m in map(self.file.entities.__getitem__, self._members(group))
        )

    def _leaves(self, group: Entity) -> Iterator[Entity]:
        """What a group holds; groups within it that have no name are no more than their members."""
        stack = [iter(list(self._members(group)))]
        while stack:
            number = next(stack[-1], None)
            if number is None:
                stack.pop()
                continue
            entity = self.file.entities[number]
            if entity.kind == _GROUP and not said_of(self.file, entity).name:
                stack.append(iter(list(self._members(entity))))
            else:
                yield entity

    def _is_one_body(self, group: Entity) -> bool:
        kinds = {e.kind for e in self._leaves(group)}
        return bool(kinds) and (kinds <= (TRIMMED | SURFACES) or kinds <= CURVES)

    # --- products --------------------------------------------------------------------------

    def _product(self, entity: Entity) -> int:
        """IgesPlan the product of a subfigure definition or of a group that holds bodies."""
        number = entity.number
        if number in self.plan.products:
            return number
        if number in self.open:
            raise MalformedFile("a subfigure is placed in itself", where=entity.place)
        self.open.add(number)
        said = said_of(self.file, entity)
        name = (entity.text(1) if entity.kind == _DEFINITION else said.name) or entity.label
        product = PlannedProduct(number, name or f"Group {number}", said)
        self.plan.products[number] = product
        self._fill(product, list(self._members(entity)))
        self.open.discard(number)
        return number

    def _fill(self, product: PlannedProduct, members: Iterable[int]) -> None:
        loose_faces: list[Entity] = []
        loose_curves: dict[tuple[object, ...], list[Entity]] = defaultdict(list)
        reference: list[PlannedBody] = []
        for number in members:
            entity = self.file.entities[number]
            if entity.kind == _INSTANCE:
                product.uses.append(self._use(entity))
            elif entity.kind == _GROUP and self._is_one_body(entity):
                product.bodies.append(self._group_body(entity))
            elif entity.kind == _GROUP and self._holds(entity):
                child = self._product(entity)
                place = _flat(np.eye(4))
                product.uses.append(
                    PlannedOccurrence(number, child, place, said=PropertyValue(name=entity.label))
                )
            elif entity.use == _CONSTRUCTION and self._is_geometry(entity):
                reference.append(replace(self._single(entity), is_reference=True))
            elif entity.kind == 108 and not entity.pointer(4):
                reference.append(replace(self._single(entity), what="plane", is_reference=True))
            elif entity.kind in TRIMMED or entity.kind in SURFACES:
                loose_faces.append(entity)
            elif entity.kind in CURVES:
                said = said_of(self.file, entity).name, colour_of(self.file, entity)
                loose_curves[layers_of(self.file, entity, self.levels), *said].append(entity)
            elif self._is_geometry(entity):
                product.bodies.append(self._single(entity))
        if loose_faces:
            product.bodies.append(self._gathered("faces", loose_faces))
        for curves in loose_curves.values():
            product.bodies.append(self._gathered("curves", curves))
        if reference:
            apart = self.plan.products.get(-1)
            if apart is None:
                apart = self.plan.products[-1] = PlannedProduct(-1, "Reference geometry")
                self.plan.roots.append(-1)
            apart.bodies += reference

    def _use(self, entity: Entity) -> PlannedOccurrence:
        definition = self.file.at(entity.pointer(0))
        if definition is None or definition.kind != _DEFINITION:
            raise MalformedFile("an instance names no subfigure definition", where=entity.place)
        scale = entity.real(4, 1.0)
        if not scale > 0.0:
            raise MalformedFile("an instance is scaled to nothing", where=entity.place)
        own = np.eye(4)
        own[:3, 3] = [entity.real(i) * self.unit for i in (1, 2, 3)]
        matrix = matrix_of(self.file, entity.transform, self.unit) @ own
        said = said_of(self.file, entity)
        return PlannedOccurrence(
            entity.number, self._product(definition), _flat(matrix), scale,
            colour_of(self.file, entity), said, bool(entity.blank),
            layers_of(self.file, entity, self.levels),
        )  # fmt: skip

    # --- bodies ----------------------------------------------------------------------------

    def _single(self, entity: Entity) -> PlannedBody:
        kind = entity.kind
        what = (
            "solid" if kind in SOLIDS else "shell" if kind == _SHELL else "point" if kind == POINT
            else "curves" if kind in CURVES else "faces"
        )  # fmt: skip
        own = colour_of(self.file, entity)
        faces = tuple(self._faces_of(entity, own))
        said = said_of(self.file, entity)
        return PlannedBody(
            what, (entity.number,), said.name, own, faces, layers_of(self.file, entity, self.levels),
            more=said.own_text(MORE), is_hidden=bool(entity.blank), metadata=tuple(said.metadata),
        )  # fmt: skip

    def _faces_of(self, entity: Entity, own: Rgba | None) -> Iterator[tuple[int, Rgba]]:
        """Colours of the faces of a solid or a shell where they differ from its own."""
        shells: list[int] = []
        if entity.kind == 430:
            inner = self.file.at(entity.pointer(0))
            if inner is not None:
                yield from self._faces_of(inner, own)
            return
        if entity.kind == 186:
            shells = [entity.pointer(0), *(entity.pointer(3 + 2 * i) for i in range(entity.integer(2)))]
        elif entity.kind == _SHELL:
            shells = [entity.number]
        for number in shells:
            shell = self.file.at(number)
            if shell is None:
                continue
            for place in range(shell.integer(0)):
                face = self.file.at(shell.pointer(1 + 2 * place))
                colour = colour_of(self.file, face) if face is not None else None
                if face is not None and colour is not None and colour != own:
                    yield face.number, colour

    def _group_body(self, group: Entity) -> PlannedBody:
        members = list(self._leaves(group))
        what = "curves" if members[0].kind in CURVES else "faces"
        body = self._gathered(what, members, colour_of(self.file, group))
        layers = layers_of(self.file, group, self.levels) or body.layers
        said = said_of(self.file, group)
        return replace(
            body, name=said.name, layers=layers, is_reference=group.use == _CONSTRUCTION,
            more=said.own_text(MORE), is_hidden=bool(group.blank), metadata=tuple(said.metadata),
        )  # fmt: skip

    def _gathered(self, what: str, members: list[Entity], own: Rgba | None = None) -> PlannedBody:
        colours = {e.number: colour_of(self.file, e) for e in members}
        alike = set(colours.values())
        if own is None and len(alike) == 1:
            own = next(iter(alike))
        faces = tuple((n, c) for n, c in colours.items() if c is not None and c != own)
        layers = {layers_of(self.file, e, self.levels) for e in members}
        names = {said_of(self.file, e).name for e in members}
        name = names.pop() if len(names) == 1 else ""
        return PlannedBody(
            what, tuple(colours), name, own, faces, next(iter(layers)) if len(layers) == 1 else ()
        )


def _flat(matrix: np.ndarray) -> Placement:  # type: ignore[type-arg]
    return tuple(float(v) for v in matrix.ravel())


def _moves(use: PlannedOccurrence) -> bool:
    return use.scale != 1.0 or bool(np.abs(np.reshape(use.placement, (4, 4)) - np.eye(4)).max() > _IDENTITY)


@dataclass(frozen=True, slots=True)
class Counted:
    """How many faces and edges a solid or shell has by its entities, 0 where that is not known."""

    faces: int = 0
    edges: int = 0


def counted(file: IgesFile, number: int) -> Counted:
    """The faces and edges of a solid or a shell; nothing of anything else. Raises MalformedFile."""
    faces = sum(1 for _ in faces_of_solid(file, number))
    return Counted(faces, len(set(edges_of_solid(file, number))))


def edges_of_solid(file: IgesFile, number: int) -> Iterator[tuple[int, int]]:
    """The edges of a solid or a shell as places in their lists, once for each use. Raises MalformedFile."""
    for face in faces_of_solid(file, number):
        for place in range(face.integer(1)):
            loop = file.at(face.pointer(3 + place))
            if loop is not None and loop.kind == 508:
                yield from ((loop.pointer(at + 1), loop.integer(at + 2)) for at in edge_coedges(loop))


def faces_of_solid(file: IgesFile, number: int) -> Iterator[Entity]:
    """The face entities of a solid or a shell. Raises MalformedFile."""
    entity = file.at(number)
    if entity is None:
        return
    if entity.kind == 430:
        yield from faces_of_solid(file, entity.pointer(0))
    shells = [number] if entity.kind == _SHELL else []
    if entity.kind == 186:
        shells = [entity.pointer(0), *(entity.pointer(3 + 2 * i) for i in range(entity.integer(2)))]
    for shell_number in shells:
        shell = file.at(shell_number)
        if shell is None or shell.kind != _SHELL:
            continue
        for place in range(shell.integer(0)):
            face = file.at(shell.pointer(1 + 2 * place))
            if face is not None:
                yield face


def edge_coedges(loop: Entity) -> Iterator[int]:
    """Places, among a loop's parameters, of the edges that it uses. Raises MalformedFile."""
    at = 1
    for _ in range(loop.integer(0)):
        if loop.integer(at) == 0:
            yield at
        at += 5 + 2 * max(loop.integer(at + 4), 0)
