"""The outline of a STEP file: what its records say of each face, without the kernel."""

from __future__ import annotations

import json
import math
import os
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from gondrel.core.errors import GondrelError
from gondrel.core.formats.step.card import SHEETS, SOLIDS, card_of
from gondrel.core.formats.step.integrity import Integrity, integrity_of
from gondrel.core.formats.step.links import Links, links_of
from gondrel.core.formats.step.outline import Topology, face_table
from gondrel.core.formats.step.placed import Geometry
from gondrel.core.formats.step.records import Record, Records, open_records
from gondrel.core.formats.step.tokens import Enumeration, InstanceReference
from gondrel.core.formats.step.units import context_unit, length_units
from gondrel.core.integral.outline import BodyOutline, Outline, make_outline
from gondrel.core.model.codec import from_plain, to_plain
from gondrel.core.model.provenance import FileFacts
from gondrel.core.work import SILENT, Aside, Progress, begin_aside

__all__ = ["Hearing", "Rest", "body_faces", "outline_of"]

_REPRESENTATIONS = (
    "ADVANCED_BREP_SHAPE_REPRESENTATION", "FACETED_BREP_SHAPE_REPRESENTATION",
    "MANIFOLD_SURFACE_SHAPE_REPRESENTATION", "SHAPE_REPRESENTATION",
    "GEOMETRICALLY_BOUNDED_SURFACE_SHAPE_REPRESENTATION",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Rest:
    """What a file's records say besides the outline of its faces; none of it where that failed.

    Args:
        index: of the records; links: which refers to which; card: of the file.
    """

    index: bytes = b""
    links: Links | None = None
    card: FileFacts | None = None


class Hearing:
    """What a file's records say, worked out aside while the kernel reads it.

    It is told in this order: whether the records hold, their index and links, the outline, the card.
    """

    def __init__(self, path: str, progress: Progress = SILENT) -> None:
        self._progress = progress
        self._outline: Outline | None = None
        self._has_outline = False
        self._integrity: Integrity | None = None
        self._has_integrity = False
        self._index = self._links = b""
        self._aside: Aside | None = None
        self._parts: Iterator[bytes] = iter(())
        if Path(path).stat().st_size > _WORTH_A_PROCESS and (os.cpu_count() or 1) > 1:
            self._aside = begin_aside(lambda: _told(path))
        else:
            self._parts = _told(path)

    @property
    def is_aside(self) -> bool:
        """Whether it is worked out in a process of its own."""
        return self._aside is not None

    def _part(self) -> bytes:
        """The next part of what is told, empty when there is none."""
        if self._aside is not None:
            return self._aside.part(self._pulse) or b""
        return next(self._parts, b"")

    def _pulse(self) -> None:
        self._progress.at(0.6, "Hearing the file's own records")

    def integrity(self) -> Integrity | None:
        """Whether what bodies rest on holds; None where the records can't be read."""
        if not self._has_integrity:
            self._has_integrity = True
            if data := self._part():
                self._integrity = from_plain(json.loads(data), Integrity)
            self._index, self._links = self._part(), self._part()
        return self._integrity

    def links(self) -> Links | None:
        """Which record refers to which; None where that can't be told."""
        self.integrity()
        return Links.from_bytes(self._links) if self._links else None

    def body(self, ordinal: int) -> BodyOutline | None:
        """What is said of the body of a record, None when nothing is."""
        self.integrity()
        if not self._has_outline:
            self._has_outline = True
            if data := self._part():
                self._outline = Outline.from_bytes(data)
        return self._outline.body(ordinal) if self._outline is not None else None

    def whole_at_once(self, ordinal: int) -> tuple[float, float] | None:
        """Area and volume of the body of a record, None when nothing is said, or nothing yet."""
        while not self._has_outline and self._aside is not None and self._aside.is_ready():
            if not self._has_integrity:
                self.integrity()
            else:
                self.body(ordinal)
        if self._aside is None:
            self.body(ordinal)
        return self._outline.whole(ordinal) if self._outline is not None else None

    def rest(self) -> Rest:
        """What was told besides; nothing where that failed."""
        self.body(0)
        plain = self._part()
        if not plain:
            return Rest()
        return Rest(self._index, Links.from_bytes(self._links), from_plain(json.loads(plain), FileFacts))

    def close(self) -> None:
        """End what is still being worked out."""
        if self._aside is not None:
            self._aside.end()


_WORTH_A_PROCESS = 200_000
"""Size of a file, bytes, from which its records are looked at in a process of their own."""


def _told(path: str) -> Iterator[bytes]:
    """What a Hearing is told, part by part; less, when the records of a file can't be read. The outline is
    empty when its faces can't be read."""
    try:
        with open_records(path) as records:
            links = links_of(records)
            geometry, topology = Geometry(records), Topology(records)
            integrity = integrity_of(records, links, topology, geometry)
            yield json.dumps(to_plain(integrity)).encode("ascii")
            yield records.index_bytes()
            yield links.to_bytes()
            try:
                outline = outline_of(records, budget=0.0, geometry=geometry, topology=topology)
                yield outline.to_bytes()
            except GondrelError:
                yield b""
            yield json.dumps(to_plain(card_of(records))).encode("ascii")
    except GondrelError:
        return


def outline_of(
    records: Records,
    *,
    budget: float = math.inf,
    geometry: Geometry | None = None,
    topology: Topology | None = None,
) -> Outline:
    """The outline of a file; bodies are called by their ordinals among the records, from 1.

    Args:
        budget: as make_outline has it; geometry, topology: of the file, where they are there already.

    Raises:
        MalformedFile: when a record that matters can't be read.
    """
    table = face_table(geometry or Geometry(records), topology or Topology(records))
    row_of = {number: row for row, number in enumerate(table.numbers.tolist())}
    units = length_units(records)
    usual = units.most_common(1)[0][0].mm if units else 1.0
    scale_of = _scales(records)
    bodies: dict[int, tuple[list[int], list[int], float]] = {}
    for number, shell_of, faces in body_faces(records):
        rows = [row_of.get(face, -1) for face, _ in faces]
        if -1 not in rows and rows:
            senses = [turn for _, turn in faces]
            scale = scale_of.get(shell_of, usual)
            bodies[records.ordinal(number)] = (rows, senses, scale)
    return make_outline(table, bodies, budget=budget)


def _scales(records: Records) -> dict[int, float]:
    """Millimetres in the unit of each item of a shape representation."""
    scales: dict[int, float] = {}
    for representation in records.of(*_REPRESENTATIONS):
        context = next(
            (p for p in reversed(representation.parameters) if isinstance(p, InstanceReference)), None
        )
        scale = context_unit(records, context.number) if context is not None else None
        if scale is not None:
            scales.update(dict.fromkeys(representation.refs(1), scale))
    return scales


def body_faces(records: Records) -> list[tuple[int, int, list[tuple[int, int]]]]:
    """Every solid, and every shell of a surface model: its number, that of the representation item, and
    its faces in order, each with -1 where it is taken turned round."""
    listed = []
    for solid in records.of(*SOLIDS):
        shells = [solid.ref(1), *solid.refs(2)]
        faces = [each for shell in shells for each in _shell_faces(records, shell, 1)]
        listed.append((solid.number, solid.number, faces))
    for model in records.of(*SHEETS):
        for shell in model.refs(1):
            listed.append((shell, model.number, list(_shell_faces(records, shell, 1))))
    return listed


def _shell_faces(records: Records, number: int, turn: int) -> list[tuple[int, int]]:
    record = records.get(number)
    for _ in range(4):
        if record is None or not record.keyword.startswith("ORIENTED_"):
            break
        turn = -turn if _is_false(record) else turn
        inner = next((p for p in record.parameters if isinstance(p, InstanceReference)), None)
        record = records.get(inner.number) if inner is not None else None
    return [(face, turn) for face in record.refs(1)] if record is not None else []


def _is_false(record: Record) -> bool:
    last = record.parameters[-1] if record.parameters else None
    return isinstance(last, Enumeration) and last.name in ("F", "FALSE")
