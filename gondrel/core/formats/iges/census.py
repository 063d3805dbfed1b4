"""The census of an IGES file: which entities were read, which only serve those, and what remains."""

from __future__ import annotations

from collections.abc import Collection, Iterable

from gondrel.core.formats.iges.entities import links_of, name_of, properties_of, size_of
from gondrel.core.formats.iges.properties import GENERIC, LEVEL_NAME, LEVELS, NAME, PART_NUMBER, generic
from gondrel.core.formats.iges.records import Entity, IgesFile
from gondrel.core.formats.iges.structure import IgesPlan
from gondrel.core.model.census import MOST_PLACES, Census, Remainder, summed

__all__ = ["census_of"]

_GROUP = 402
_FACES = (510, 144, 143)
_OF_BODIES = frozenset((NAME, GENERIC))
_OF_PRODUCTS = frozenset((NAME, PART_NUMBER, GENERIC))
_KINDS = (
    ("annotations, dimensions and tolerances", range(202, 231)),
    ("drawings and views", (404, 410)),
    ("solids given by their construction", range(150, 185)),
    ("finite elements", (132, 134, 136, 138, 146, 148, 418)),
    ("properties", (406, 422, 322, 316)),
    ("colours and styles", (304, 310, 312, 314)),
    ("groups and associations", (302, 402)),
    ("components and their definitions", (306, 308, 320, 408, 412, 414, 416, 420)),
    ("empty entities", (0,)),
    ("loose geometry", range(100, 200)),
    ("loose geometry", range(500, 520)),
)
_OTHER = "entities of other kinds"


def census_of(file: IgesFile, plan: IgesPlan, made: Collection[int]) -> Census:
    """Account for every entity of a file.

    Args:
        made: numbers of the entities that bodies were made of.
    """
    taking = _Taking(file, plan, made)
    taking.take()
    carried, serving = taking.carried, taking.serving()
    rest = [e for e in file.entities.values() if e.number not in carried and e.number not in serving]
    return Census(len(file.entities), len(carried), len(serving), tuple(taking.remainder(rest)), "entities")


class _Taking:
    def __init__(self, file: IgesFile, plan: IgesPlan, made: Collection[int]) -> None:
        self.file, self.plan = file, plan
        self.carried: set[int] = {n for n in made if n in file.entities}
        self.label: dict[int, str] = {}

    def take(self) -> None:
        """Mark what was read."""
        for product in self.plan.products.values():
            if product.number > 0:
                self.carried.add(product.number)
                self.label[product.number] = product.name
                self._properties(product.number, _OF_PRODUCTS)
            for use in product.uses:
                self.carried.add(use.number)
                self.label[use.number] = use.said.name
                self._properties(use.number, _OF_PRODUCTS)
            for body in product.bodies:
                for number in body.entities:
                    self.label[number] = body.name or product.name
                    if number in self.carried:
                        self._properties(number, _OF_BODIES)
        for entity in self.file.of(408):
            if entity.pointer(0) in self.plan.products and not entity.subordinate:
                self.carried.add(entity.number)  # of what stands on its own where it is
        self._groups()
        faces = [n for n in self.serving() if (e := self.file.at(n)) is not None and e.kind in _FACES]
        for number in faces:
            self._properties(number, _OF_BODIES)
        placed = [e for e in map(self.file.at, (*self.carried, *faces)) if e is not None]
        levels = {e.level for e in placed if e.level > 0}
        listed = {-e.level for e in placed if e.level < 0}
        for number in listed:
            listing = self.file.at(number)
            if listing is not None and listing.kind == 406 and listing.form == LEVELS:
                self.carried.add(number)
                levels |= {listing.integer(i) for i in range(1, 1 + listing.integer(0))}
        for entity in self.file.of(406):
            if entity.form == LEVEL_NAME and entity.level in levels:
                self.carried.add(entity.number)

    def _properties(self, number: int, forms: frozenset[int]) -> None:
        entity = self.file.at(number)
        for properties in map(self.file.at, properties_of(entity) if entity is not None else ()):
            if properties is None or properties.kind != 406 or properties.form not in forms:
                continue
            if properties.form != GENERIC or any(True for _ in generic(properties)):
                self.carried.add(properties.number)

    def _groups(self) -> None:
        """Plain groups all of whose members were read are bodies and products of the model."""
        left = [
            e for e in self.file.of(_GROUP) if e.form in (1, 7, 14, 15) and e.number not in self.carried
        ]
        while True:
            memberships = []
            for group in left:
                members = [group.pointer(i) for i in range(1, 1 + group.integer(0))]
                if members and all(m in self.carried for m in members):
                    self.carried.add(group.number)
                    self._properties(group.number, _OF_BODIES)
                    memberships.append(group)
            left = [g for g in left if g not in memberships]
            if not memberships:
                return

    def serving(self) -> set[int]:
        """What those that were read are built of, and their colours."""
        seen = set(self.carried)
        front = list(seen)
        while front:
            entity = self.file.at(front.pop())
            for number in _built_of(entity) if entity is not None else ():
                if number in self.file.entities and number not in seen:
                    seen.add(number)
                    front.append(number)
        coloured = [e for n in seen if (e := self.file.at(n)) is not None and e.colour < 0]
        shown = [e for e in coloured if e.number in self.carried or e.kind == 510]
        seen |= {-e.colour for e in shown if -e.colour in self.file.entities}
        return seen - self.carried

    def remainder(self, rest: list[Entity]) -> list[Remainder]:
        """What remains, by kind and type; what an entity is built of is of its kind."""
        left = {e.number for e in rest}
        below = {n for e in rest for n in _built_of(e)}
        kind_of: dict[int, str] = {}
        for entity in sorted(rest, key=lambda e: e.number in below):
            stack = [entity.number]
            while stack:
                number = stack.pop()
                owned = self.file.at(number)
                if owned is None or number in kind_of or number not in left:
                    continue
                kind_of[number] = _kind(entity)
                stack += _built_of(owned)
        owners = self._owners(left)
        remainders = summed((
            Remainder(kind_of[e.number], _type(e), 1, owners.get(e.number, ())) for e in rest
        ), MOST_PLACES)  # fmt: skip
        return sorted(remainders, key=lambda one: one.aspect)

    def _owners(self, left: set[int]) -> dict[int, tuple[str, ...]]:
        """What has the properties that remain, by their numbers."""
        owners: dict[int, tuple[str, ...]] = {}
        for entity in self.file.entities.values():
            for number in properties_of(entity):
                if number in left:
                    owners[number] = (self.label.get(entity.number, "") or f"a {name_of(entity.kind)}",)
        return owners


def _built_of(entity: Entity) -> Iterable[int]:
    """Numbers of what an entity is made of and placed by, not of what is said of it."""
    own = size_of(entity)
    pointers = [entity.pointer(place) for place in links_of(entity) if place < own]
    return [n for n in (*pointers, entity.transform) if n]


def _type(entity: Entity) -> str:
    form = f" form {entity.form}" if entity.form else ""
    return f"{entity.kind}{form} ({name_of(entity.kind)})"


def _kind(entity: Entity) -> str:
    return next((kind for kind, numbers in _KINDS if entity.kind in numbers), _OTHER)
