"""The records of a STEP file for people to read, with what refers to what."""

from __future__ import annotations

import re
from collections.abc import Container, Sequence
from functools import cached_property

import numpy as np

from gondrel.core.formats.step.join import ModelBuilder
from gondrel.core.formats.step.links import Links, links_of
from gondrel.core.formats.step.metadata_read import metadatum_of
from gondrel.core.formats.step.records import Records, open_records
from gondrel.core.formats.step.styled import STYLED_ITEMS
from gondrel.core.formats.step.tokens import encode_string
from gondrel.core.model.origins import Found, Origins, RecordView
from gondrel.core.model.snapshot import Model

__all__ = ["StepSource", "open_source", "origins_in"]

_MOST, _LONGEST = 300, 20_000
_KEYWORD = re.compile(rb"\s*(?:\(\s*)?([A-Za-z_0-9!-]+)")
_TO_EDGES = (
    ("FACE_BOUND", "FACE_OUTER_BOUND"), ("EDGE_LOOP",), ("ORIENTED_EDGE",), ("EDGE_CURVE",),
)  # fmt: skip
_OF_SHAPE, _OF_PROPERTY = ("PRODUCT_DEFINITION_SHAPE",), ("PROPERTY_DEFINITION",)
_TIES = ("PROPERTY_DEFINITION_REPRESENTATION",)
_TO_COLOUR = ("COLOUR_RGB", "DRAUGHTING_PRE_DEFINED_COLOUR", "PRE_DEFINED_COLOUR")


def origins_in(builder: ModelBuilder, model: Model) -> Origins:
    """Where the items of a model come from."""
    by_record = {product: number for number, product in builder.by_record.items()}
    faces = {}
    for _, body in model.bodies():
        places = builder.face_places(body)
        if places:
            row = [0] * (max(places.values()) + 1)
            for number, place in places.items():
                row[place] = number
            faces[body.id] = tuple(row)
    uses = {key: number for key, number in builder.numbers.items() if key.startswith("o") and number}
    bodies = {key: number for key, number in builder.numbers.items() if key.startswith("b") and number}
    return Origins(by_record, uses, bodies, faces)


def open_source(path: str) -> StepSource:
    """A file's records. Raises InputError, MalformedFile."""
    return StepSource(open_records(path))


class StepSource:
    """Finds records by number and by type, and what refers to them."""

    noun = "#"
    lists_edges = False

    def __init__(self, records: Records) -> None:
        self.records = records

    @cached_property
    def links(self) -> Links:
        """Which record refers to which."""
        return links_of(self.records)

    def view(self, number: int) -> RecordView | None:
        """The record of a number, None where the file has none."""
        ordinal = self.records.ordinal(number)
        if not ordinal:
            return None
        row = ordinal - 1
        text = self.records.raw_at(row)
        shown = text[:_LONGEST].decode("utf-8", "replace")
        refers = list(dict.fromkeys(self.links.of(row)))
        referred = self._leading_to([row])[:_MOST]
        return RecordView(
            number, self._type(row), self.records.line_of(ordinal), f"#{number}={shown};",
            tuple(self._found(r) for r in refers[:_MOST]), tuple(self._found(r) for r in referred),
        )  # fmt: skip

    def _type(self, row: int) -> str:
        match = _KEYWORD.match(self.records.raw_at(row))
        return match[1].decode("ascii").upper() if match is not None else ""

    def _found(self, row: int) -> Found:
        return Found(self.records.number_at(row), self._type(row))

    def find(self, query: str) -> list[Found]:
        """Records of a type, its name or a part of it, then those with the words in a text; at most some
        hundred of each."""
        wanted = query.strip().upper()
        names, which = self.records.keywords()
        fits = (wanted == name or any(wanted in part for part in name.split("+")) for name in names)
        codes = [code for code, fit in enumerate(fits) if fit]
        rows = np.flatnonzero(np.isin(which, codes))[:_MOST].tolist()
        if not wanted.isdigit():  # that is a record's number
            rows += self.records.rows_with(encode_string(query.strip()).encode("ascii"), _MOST)
        return [Found(self.records.number_at(row), names[which[row]]) for row in dict.fromkeys(rows)]

    def colour_of(self, number: int) -> int:
        """The record of the colour of an item: that its style leads to; 0 where it has none of its own."""
        ordinal = self.records.ordinal(number)
        if not ordinal:
            return 0
        links = self.links
        for row in self._referring([ordinal - 1], STYLED_ITEMS):
            stack, seen = [t for t in links.of(row) if t != ordinal - 1], set[int]()
            while stack:
                at = stack.pop(0)
                if self._type(at) in _TO_COLOUR:
                    return self.records.number_at(at)
                stack += [t for t in links.of(at) if t not in seen]
                seen.add(at)
        return 0

    def property_of(self, number: int, key: str) -> int:
        """The item that gives a product definition or a usage one of its properties, 0 where none does.

        Source: ISO 10303-41, property_definition, and -43, representation: the definition is of the thing
        or its product_definition_shape, a property_definition_representation ties it to the items.
        """
        ordinal = self.records.ordinal(number)
        owners = [ordinal - 1] if ordinal else []
        owners += self._referring(owners, _OF_SHAPE)
        for link in self._referring(self._referring(owners, _OF_PROPERTY), _TIES):
            tie = self.records.at(link + 1)
            said, representation = (self.records.get(tie.ref(place)) for place in (0, 1))
            if said is None or representation is None:
                continue
            items = [item for n in representation.refs(1) if (item := self.records.get(n)) is not None]
            for item in items:
                datum = metadatum_of(self.records, said.text(0), item, len(items))
                if datum is not None and datum.key == key:
                    return item.number
        return 0

    def _referring(self, rows: Sequence[int], kinds: Container[str]) -> list[int]:
        """The records of some kinds that refer to one of some."""
        return [row for row in self._leading_to(rows) if self._type(row) in kinds]

    def _leading_to(self, rows: Sequence[int]) -> list[int]:
        """The records that refer to one of some, each once."""
        links = self.links
        at = np.searchsorted(links.starts, np.flatnonzero(np.isin(links.targets, rows)), "right") - 1
        return list(dict.fromkeys(at.tolist()))

    def edges_of(self, face: int) -> dict[int, tuple[float, ...]]:
        """The edge curves of a face, each with the coordinates of its start and end.

        Source: ISO 10303-42, topology: face_bound, edge_loop, oriented_edge, edge_curve, vertex_point.
        """
        ordinal = self.records.ordinal(face)
        rows = [ordinal - 1] if ordinal else []
        for kinds in _TO_EDGES:
            rows = [t for row in rows for t in self.links.of(row) if self._type(t) in kinds]
        return {self.records.number_at(row): self._ends(row) for row in rows}

    def _ends(self, edge: int) -> tuple[float, ...]:
        vertices = [row for row in self.links.of(edge) if self._type(row) == "VERTEX_POINT"]
        points = [row for vertex in vertices for row in self.links.of(vertex)]
        if len(points) != 2 or any(self._type(point) != "CARTESIAN_POINT" for point in points):
            return ()
        texts = [self.records.raw_at(point).rpartition(b"(")[2].partition(b")")[0] for point in points]
        try:
            ends = [float(number) for text in texts for number in text.split(b",")]
        except ValueError:
            return ()
        return tuple(ends) if len(ends) == 6 else ()

    def close(self) -> None:
        """Let go of the file."""
        self.records.close()
