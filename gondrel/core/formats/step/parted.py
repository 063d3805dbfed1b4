"""A STEP file in parts: its structure without any shape, and the shapes of some products by themselves.

Both are STEP files made of the records of the whole, each under its own number. What only lists records
lists those that are in the part. What speaks of a shape, such as a style of a face, goes with the shape.

Source: ISO 10303-21 for the form of the parts; which keywords are shapes is told by their names as in
ISO 10303-42 (geometry and topology), -43 (representations) and -46 (presentation), from memory.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Iterator
from functools import cached_property
from pathlib import Path

import numpy as np

from gondrel.core.formats.step.cleansed import without
from gondrel.core.formats.step.graph import Graph
from gondrel.core.formats.step.kinds import kind_of_keyword
from gondrel.core.formats.step.listed import ListedItem, Shapes
from gondrel.core.formats.step.records import Records

__all__ = ["Parts", "is_of_shape"]

_REFERENCE = re.compile(rb"#(\d+)")
_SHAPES = frozenset((
    "loose geometry", "solids and surfaces", "tessellations", "solids given by their construction",
    "coordinate systems and reference geometry",
))  # fmt: skip
_NO_SHAPE = re.compile(r"REPRESENTATION(?!_ITEM)|TRANSFORMATION|MAPPED_ITEM")
_WHOLE = re.compile(
    r"FACE|EDGE|LOOP|SHELL|VERTEX|PATH|_BREP|BREP_|(SURFACE|WIREFRAME)_MODEL|GEOMETRIC_(CURVE_)?SET|"
    r"TESSELLATED|TRIANGULATED|COORDINATES_LIST|CSG|BOOLEAN_RESULT|SOLID"
)
"""Shapes that bodies are made of; others, such as points and axes, also serve the structure."""

_ONLY_LISTS = re.compile(
    rb"[A-Z_0-9]*(?:PRESENTATION_REPRESENTATION|DRAUGHTING_MODEL|LAYER_ASSIGNMENT|INVISIBILITY|CATEGORY|"
    rb"PRESENTATION_(?:AREA|VIEW|SET))\s*\("
)
_NOT_ABOUT = re.compile(
    rb"[A-Z_0-9]*(?:SHAPE_REPRESENTATION|REPRESENTATION_MAP|RELATIONSHIP|USAGE_OCCURRENCE|TRANSFORMATION)"
    rb"\s*\("
)
"""Records that refer to shapes and say where they belong, not what they are like."""

_OF_PLAIN = re.compile(rb"[A-Z_0-9]*(?:STYLED_ITEM|LAYER_ASSIGNMENT|INVISIBILITY)\s*\(")
_LIST = re.compile(rb"\(\s*#\d+(?:\s*,\s*#\d+)*\s*\)")
_STYLED = re.compile(rb"[A-Z_]*STYLED_ITEM\s*\(")
_SPEAKS = re.compile(rb"(?:SHAPE_ASPECT|PROPERTY_DEFINITION|GENERAL_PROPERTY|[A-Z_]*STYLED_ITEM)\s*\(")


def is_of_shape(keyword: str) -> bool:
    """Whether records of a keyword are geometry, topology or bodies; of a complex record's parts by any."""
    if any(_NO_SHAPE.search(part) for part in keyword.split("+")):
        return False
    return any(kind_of_keyword(part) in _SHAPES for part in keyword.split("+"))


class Parts:
    """Takes a file apart. Records must have different numbers."""

    def __init__(self, records: Records, graph: Graph) -> None:
        self.records = records
        self.graph = graph
        self.shapes = Shapes(records, graph)
        names, which = records.keywords()
        of_shape = np.array([is_of_shape(name) for name in names] or [False])
        whole = np.array([bool(_WHOLE.search(name)) for name in names] or [False]) & of_shape
        self._of_shape = of_shape[which]
        self._whole = whole[which]
        self._texts: dict[int, bytes] = {}
        self._refs: dict[int, list[int]] = {}
        self._about: defaultdict[int, list[int]] = defaultdict(list)
        for row in np.flatnonzero(~self._of_shape).tolist():
            number = records.number_at(row)
            self._texts[number] = text = records.text_of(number)
            self._refs[number] = references = [int(n) for n in _REFERENCE.findall(text)]
            if not _NOT_ABOUT.match(text):
                for target in references:
                    self._about[target].append(number)

    @property
    def is_sound(self) -> bool:
        """Whether every record has a number of its own."""
        numbers = self.records.numbers()
        rising = numbers if bool((np.diff(numbers) > 0).all()) else np.sort(numbers)
        return bool((np.diff(rising) > 0).all())

    def items(self, definition: int) -> list[ListedItem]:
        """What the shape of a product definition lists."""
        return self.shapes.items(definition)

    def _is(self, flags: np.ndarray, number: int) -> bool:
        ordinal = self.records.ordinal(number)
        return bool(ordinal and flags[ordinal - 1])

    # --- the structure -------------------------------------------------------------------------------

    @cached_property
    def _later(self) -> set[int]:
        """Records that speak of shapes, and go with them."""
        later: set[int] = set()
        front = [
            number
            for number, references in self._refs.items()
            if not _lists(self._texts[number]) and any(self._is(self._whole, n) for n in references)
        ]
        while front:
            number = front.pop()
            if number in later:
                continue
            later.add(number)
            front += [n for n in self._about[number] if not _lists(self._texts[n])]
        return later

    @cached_property
    def local(self) -> set[int]:
        """Styled items whose style is for one place alone: a shape by itself does not have it."""
        return {
            number
            for number, text in self._texts.items()
            if _STYLED.match(text)
            and (
                text.startswith(b"CONTEXT_DEPENDENT") or any(self._is_local(n) for n in self._refs[number])
            )
        }

    def _is_local(self, number: int) -> bool:
        return self._texts.get(number, b"").startswith(b"PRESENTATION_STYLE_BY_CONTEXT")

    @cached_property
    def structure_numbers(self) -> set[int]:
        """The records of the structure."""
        kept = self._refs.keys() - self._later
        front = [n for number in kept for n in self._refs[number] if self._is(self._of_shape, n)]
        return kept | self.beneath(n for n in front if not self._is(self._whole, n))

    def beneath(self, numbers: Iterable[int]) -> set[int]:
        """Some records and all that they rest on."""
        reached: set[int] = set()
        front = list(numbers)
        while front:
            number = front.pop()
            if number not in reached:
                reached.add(number)
                front += self._beneath(number)
        return reached

    def _beneath(self, number: int) -> list[int]:
        """The records that one refers to, of those that are there."""
        known = self._refs.get(number)
        if known is None:
            known = [int(n) for n in _REFERENCE.findall(self.records.text_of(number))]
        return [n for n in known if self.records.ordinal(n)]

    def write_structure(self, path: Path) -> None:
        """The file without the shapes of its products."""
        self._write(path, self.structure_numbers)

    # --- shapes --------------------------------------------------------------------------------------

    def write_shapes(self, path: Path, definitions: Iterable[int]) -> None:
        """The shapes of some products with all that is said of them; the products stand by themselves."""
        self._write(path, self._shape_numbers(definitions))

    def _shape_numbers(self, definitions: Iterable[int]) -> set[int]:
        wanted: set[int] = set()
        chosen = set(definitions)
        own: set[int] = set()
        for definition in chosen:
            own.update(self.shapes.representations(definition))
        front = [*chosen, *own]
        for link in self.records.of("SHAPE_DEFINITION_REPRESENTATION"):
            shape = self.records.get(link.ref(0))
            if shape is not None and shape.ref(2) in chosen:
                front.append(link.number)
        for relation in self.records.of("SHAPE_REPRESENTATION_RELATIONSHIP"):
            if relation.keyword and relation.ref(2) in own and relation.ref(3) in own:
                front.append(relation.number)
        front += [r.number for r in self.records.of("APPLICATION_PROTOCOL_DEFINITION")]
        while front:
            number = front.pop()
            if number in wanted:
                continue
            wanted.add(number)
            text = self._texts.get(number)
            if text is None or not _ONLY_LISTS.match(text):
                front += [n for n in self._beneath(number) if n not in wanted]
            else:
                front += [int(n) for n in _REFERENCE.findall(_LIST.sub(b"", text))]
            front += self._said_of(number, text, own)
        return wanted

    def _said_of(self, number: int, text: bytes | None, own: set[int]) -> list[int]:
        """The records that speak of one that belongs to a shape."""
        speakers = [n for n in self._about.get(number, ()) if n not in self.local]
        if not speakers:
            return []
        if text is None and self._is(self._whole, number):
            return speakers
        if number in self._later or (text is not None and _SPEAKS.match(text)):
            return speakers
        if text is None or number in own or text.startswith(b"MAPPED_ITEM"):
            return [n for n in speakers if _OF_PLAIN.match(self._texts[n])]
        return []

    # --- writing -------------------------------------------------------------------------------------

    def _write(self, path: Path, numbers: set[int]) -> None:
        with path.open("wb") as stream:
            stream.write(self.records.head())
            stream.writelines(self._lines(numbers))
            stream.write(b"ENDSEC;\nEND-ISO-10303-21;\n")

    def _lines(self, numbers: set[int]) -> Iterator[bytes]:
        for ordinal in sorted(self.records.ordinal(n) for n in numbers):
            number, text = self.records.number_at(ordinal - 1), self.records.raw_at(ordinal - 1)
            gone = {n for n in self._refs.get(number, ()) if n not in numbers and self.records.ordinal(n)}
            if gone:
                left = without(text, gone)
                text = left if left is not None else _LIST.sub(b"()", text)
            yield b"#%d=%s;\n" % (number, text)


def _lists(text: bytes) -> bool:
    """Whether a record lists others, and means the same without some of them."""
    return bool(_ONLY_LISTS.match(text)) or b"REPRESENTATION(" in text[:80].replace(b" ", b"")
