"""A model as an IGES file: solids or trimmed surfaces in subfigures, with names, colours and levels."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime

from gondrel.core.errors import CannotExpress
from gondrel.core.formats.base import Target
from gondrel.core.formats.iges.compose import Datum, EntityComposer, ascii_of
from gondrel.core.formats.iges.plan import plan_of
from gondrel.core.formats.iges.properties import (
    GENERIC,
    LEVEL_NAME,
    LEVELS,
    MODEL_MORE,
    MORE,
    NAME,
    OWN,
    PART_NUMBER,
    STANDARD_COLOURS,
)
from gondrel.core.formats.iges.records import IgesFile
from gondrel.core.formats.iges.structure import Planner
from gondrel.core.formats.iges.units import FLAGS
from gondrel.core.formats.settings import SendSettings
from gondrel.core.model.body import Body, BodyFacts, BodyKind, Rgba
from gondrel.core.model.extras import body_extra, face_extra, model_extra, product_extra, use_extra
from gondrel.core.model.product import Metadatum, Occurrence, Product, Value
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["write"]

_DEPENDENT, _LOGICAL = "00010000", "00020000"
_DEFINITION = "00000200"
_CONSTRUCTION = "00020600"
_MOST_LEVEL = 9_999_999
_RESOLUTION = 1e-5
"""Smallest distance told apart, mm."""


def write(
    model: Model,
    target: Target,
    settings: SendSettings,
    store: BlobStore,
    facts: Mapping[str, BodyFacts],
    *,
    name: str,
    progress: Progress = SILENT,
) -> bytes:
    """The file as bytes.

    Raises:
        CannotExpress: when a body can't be written, with why.
    """
    writer = _Writer(model, settings, store, target.kind == "iges-solid", progress)
    writer.write()
    reach = max((abs(v) for key in model.blobs() if key in facts for v in facts[key].bbox), default=0.0)
    return writer.make.text(
        (f"{ascii_of(settings.system)}: {target.schema}",), _header(settings, name, reach)
    )


def _header(settings: SendSettings, name: str, reach: float) -> list[Datum]:
    mm = settings.unit.mm
    flag = next(f for f, (_, size) in FLAGS.items() if abs(size - mm) < 1e-9 * mm)
    now = datetime.now(UTC).strftime("%Y%m%d.%H%M%S")

    def text(value: str) -> bytes:
        return ascii_of(value).encode("ascii")

    return [
        b",", b";", text(name), text(name), text(settings.system), b"Gondrel", 32, 38, 6, 308, 15,
        text(name), 1.0, flag, FLAGS[flag][0].encode(), 1, 0.01, now.encode(), _RESOLUTION / mm,
        float(reach / mm), text(settings.author), text(settings.organisation), 11, 0, now.encode(),
    ]  # fmt: skip


@dataclass(slots=True)
class _Writer:
    model: Model
    settings: SendSettings
    store: BlobStore
    as_solid: bool
    progress: Progress
    make: EntityComposer = field(default_factory=EntityComposer)
    definitions: dict[str, int] = field(default_factory=dict)
    colours: dict[Rgba, int] = field(default_factory=dict)
    levels: dict[str, int] = field(default_factory=dict)

    def write(self) -> None:
        """Every product that is reached from a root, then the roots in place."""
        self._number_levels()
        for root in self.model.roots:
            self._product(root, ())
        for root in self.model.roots:
            self.make.add(408, [self.definitions[root], 0.0, 0.0, 0.0, 1.0])

    def _number_levels(self) -> None:
        """A level for each layer: its own number where its name is one, else the next that is free."""
        bodies = [body for _, body in self.model.bodies()]
        names = dict.fromkeys(layer for body in bodies for layer in body.layers)
        names |= dict.fromkeys(layer for body in bodies for _, layer in body.face_layers)
        names |= dict.fromkeys(layer for _, use in self.model.occurrences() for layer in use.layers)
        for name in names:
            if name.isdecimal() and str(int(name)) == name and 0 < int(name) <= _MOST_LEVEL:
                self.levels[name] = int(name)
        taken, free = set(self.levels.values()), 1
        for name in names:
            if name in self.levels:
                continue
            while free in taken:
                free += 1
            taken.add(free)
            self.levels[name] = free
            values: list[Datum] = [2, 0, ascii_of(name).encode()]
            self.make.add(406, values, form=LEVEL_NAME, level=free, status=_LOGICAL)

    # --- products --------------------------------------------------------------------------

    def _product(self, key: str, above: tuple[str, ...]) -> None:
        product = self.model.by_id.get(key)
        if product is None or key in above:
            raise CannotExpress(f"the structure refers to {key}, which is missing or contains itself")
        if key in self.definitions:
            return
        for occurrence in product.occurrences:
            self._product(occurrence.product, (*above, key))
        members = [self._body(product, body) for body in product.bodies]
        members += [self._instance(occurrence) for occurrence in product.occurrences]
        depth = 1 + max((self._depth(o.product) for o in product.occurrences), default=-1)
        own = self._identity(product)
        name = ascii_of(product.name).encode()
        values: list[Datum] = [depth, name, len(members), *members]
        number = self.make.add(308, values, status=_DEFINITION, label=ascii_of(product.number))
        self.make.link(number, own)
        self.definitions[key] = number

    def _depth(self, key: str) -> int:
        return int(self.make.out(self.definitions[key]).values[0])

    def _identity(self, product: Product) -> list[int]:
        numbers: list[int] = []
        if product.number:
            values: list[Datum] = [4, b"", b"", b"", ascii_of(product.number).encode()]
            numbers.append(self.make.add(406, values, form=PART_NUMBER, status=_LOGICAL))
        own: list[tuple[str, Value | None]] = [
            ("REVISION", product.revision or None),
            ("DESCRIPTION", product.description or None),
        ]
        if product.material is not None:
            own += [
                ("MATERIAL", product.material.name),
                ("DENSITY", product.material.density),
                ("MATERIAL.DESCRIPTION", product.material.description or None),
            ]
        own += [(MORE, product_extra(product) or None)]
        if product.id in self.model.roots[:1]:
            own += [(MODEL_MORE, model_extra(self.model) or None)]
        numbers += [self._datum(Metadatum(OWN + key, value)) for key, value in own if value is not None]
        return numbers + [self._datum(datum) for datum in product.metadata]

    def _datum(self, datum: Metadatum) -> int:
        kind, value = 3, datum.value
        shown: Datum = ascii_of(str(value)).encode()
        if isinstance(value, bool):
            kind, shown = 6, int(value)
        elif isinstance(value, int):
            kind, shown = 1, value
        elif isinstance(value, float):
            kind, shown = 2, value
        values: list[Datum] = [4, ascii_of(datum.key).encode(), 1, kind, shown]
        return self.make.add(406, values, form=GENERIC, status=_LOGICAL)

    def _name(self, name: str) -> list[int]:
        if not name:
            return []
        return [self.make.add(406, [1, ascii_of(name).encode()], form=NAME, status=_LOGICAL)]

    def _instance(self, occurrence: Occurrence) -> int:
        mm = self.settings.unit.mm
        at = occurrence.placement
        moved = [float(at[i]) / mm for i in (3, 7, 11)]
        rows = [float(at[r * 4 + c]) for r in range(3) for c in range(3)]
        transform = 0
        if rows != [1, 0, 0, 0, 1, 0, 0, 0, 1]:
            values = [v for r in range(3) for v in (*rows[3 * r : 3 * r + 3], moved[r])]
            transform = self.make.add(124, values, status=_DEPENDENT)
            moved = [0.0, 0.0, 0.0]
        own = self._name(occurrence.name) + [self._datum(d) for d in occurrence.metadata]
        own += self._more(use_extra(replace(occurrence, hidden=False)))
        number = self.make.add(
            408, [self.definitions[occurrence.product], *moved, 1.0], transform=transform,
            colour=self._colour(occurrence.colour), status="01010000" if occurrence.hidden else _DEPENDENT,
            level=self._level(occurrence.layers),
        )  # fmt: skip
        self.make.link(number, own)
        return number

    # --- bodies ----------------------------------------------------------------------------

    def _body(self, product: Product, body: Body) -> int:
        plan = plan_of(self.store, body, self.settings.unit.key, as_solid=self.as_solid)
        if plan.data is None:
            raise CannotExpress(
                f"{product.label} can't be written: {plan.refused}",
                hint="send it as STEP, or mend it first",
            )
        file = plan.file()
        planned = list(Planner(file).make().bodies())
        offset = self.make.embed(file)
        faces = self._face_numbers(file)
        colours = dict(body.face_colours)
        for place, number in enumerate(faces):
            shown = colours.get(place, None if self.as_solid else body.colour)
            self.make.out(number + offset).colour = self._colour(shown)
        roots = [number for p in planned for number in p.entities]
        level = self._level(body.layers)
        wires = sum(b.kind is BodyKind.WIRE for b in product.bodies)
        is_one_of_several = (
            body.kind is BodyKind.WIRE and wires > 1
        )  # loose curves that meet become one body
        if len(roots) == 1 and not self._is_faces(file, roots[0]) and not is_one_of_several:
            number = roots[0] + offset
        else:
            group = next((e.number for e in file.of(402)), 0)
            number = (
                group + offset
                if group
                else self.make.add(402, [len(roots), *(r + offset for r in roots)], form=7)
            )
        out = self.make.out(number)
        out.status = _CONSTRUCTION if product.is_reference else _LOGICAL
        if body.hidden:
            out.status = "01" + out.status[2:]
        out.colour, out.level = self._colour(body.colour), level
        for root in roots:
            member = self.make.out(root + offset)
            member.level = level
            if root + offset != number:
                member.status = _LOGICAL
        self.make.link(number, self._name(body.name) + self._more(body_extra(replace(body, hidden=False))))
        self._say_of_faces(body, [face + offset for face in faces if face + offset != number])
        return number

    def _say_of_faces(self, body: Body, faces: list[int]) -> None:
        """Names, levels and properties of single faces."""
        for place, number in enumerate(faces):
            layers = tuple(layer for face, layer in body.face_layers if face == place)
            if layers:
                self.make.out(number).level = self._level((*body.layers, *layers))
            names = [name for face, name in body.face_names if face == place]
            own = [n for name in names[:1] for n in self._name(name)] + self._more(face_extra(body, place))
            if own:
                self.make.link(number, own)

    def _more(self, text: str) -> list[int]:
        return [self._datum(Metadatum(OWN + MORE, text))] if text else []

    def _is_faces(self, file: IgesFile, number: int) -> bool:
        return not self.as_solid and file.entities[number].kind in (143, 144)

    def _face_numbers(self, file: IgesFile) -> list[int]:
        """Numbers of the faces in the order of the body's own."""
        wanted = 510 if self.as_solid else 144
        return [e.number for e in file.of(wanted)]

    def _level(self, layers: tuple[str, ...]) -> int:
        if len(layers) < 2:
            return self.levels[layers[0]] if layers else 0
        listed: list[Datum] = [len(layers), *(self.levels[layer] for layer in layers)]
        return -self.make.add(406, listed, form=LEVELS, status=_LOGICAL)

    def _colour(self, colour: Rgba | None) -> int:
        """A colour's number: one of the standard's eight, or minus the number of its definition."""
        if colour is None:
            return 0
        opaque = Rgba(colour.red, colour.green, colour.blue)
        for number, standard in STANDARD_COLOURS.items():
            if standard == opaque:
                return number
        if opaque not in self.colours:
            shares = [100.0 * c for c in (opaque.red, opaque.green, opaque.blue)]
            self.colours[opaque] = self.make.add(314, [*shares, b""], status=_DEFINITION)
        return -self.colours[opaque]
