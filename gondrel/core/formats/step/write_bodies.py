"""Geometry blocks of bodies: taken from the kernel, renumbered into the file."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from gondrel.core.errors import KernelRefused
from gondrel.core.formats.step.compose import RecordComposer
from gondrel.core.formats.step.tokens import RECORD, InstanceReference, encode_string, parse_parameters
from gondrel.core.kernel.exchange.step_out import BodyText

__all__ = ["WrittenItems", "add_body"]

_REFERENCE = re.compile(r"#(\d+)")
_SOLID = ("MANIFOLD_SOLID_BREP", "BREP_WITH_VOIDS")
_AXIS = (2 / 7, 3 / 7, 6 / 7)
_START = (-6 / 7, -2 / 7, 3 / 7)
_PRODUCT_REPRESENTATION = "SHAPE_DEFINITION_REPRESENTATION"


@dataclass(frozen=True, slots=True)
class WrittenItems:
    """Where a body stands in the file.

    Args:
        representation: keyword of the representation its items belong into.
        items: numbers of its top items.
        shown: numbers of what gets its looks: the elements of sets, else the top items.
        faces: number of each face's record by face index; empty when they can't be told apart.
        edges: number of the record of each edge that was asked for, by its index.
    """

    representation: str
    items: tuple[int, ...]
    shown: tuple[int, ...]
    faces: tuple[int, ...]
    edges: Mapping[int, int] = field(default_factory=dict)


class _Block:
    """The records of one kernel-written body."""

    def __init__(self, data: bytes) -> None:
        self.texts: dict[int, str] = {}
        self.kinds: dict[int, str] = {}
        for match in RECORD.finditer(data, data.index(b"DATA;")):
            number = int(match[1])
            self.kinds[number] = match[2].decode("ascii")
            body = re.sub(r"\s*\n\s*", "", match[3].decode("ascii"))
            self.texts[number] = self.kinds[number] + body

    def refs(self, number: int) -> list[int]:
        return [int(n) for n in _REFERENCE.findall(self.texts[number])]

    def parameters(self, number: int) -> tuple[object, ...]:
        text = self.texts[number]
        return parse_parameters(text[len(self.kinds[number]) :].encode("ascii"))

    def representations(self) -> list[int]:
        """The shape representations that hold geometry, from the product's own one on."""
        roots = [self.refs(n)[-1] for n, kind in self.kinds.items() if kind == _PRODUCT_REPRESENTATION]
        related = [
            self.refs(n) for n, text in self.texts.items() if "SHAPE_REPRESENTATION_RELATIONSHIP" in text
        ]
        representations = list(roots)
        for first, *others in related:
            representations += [
                n
                for n in (first, *others)
                if n not in representations and n in self.texts and self.kinds[n].endswith("REPRESENTATION")
            ]
        return representations

    def items(self, representation: int) -> list[int]:
        listed = self.parameters(representation)[1]
        numbers = [r.number for r in listed if isinstance(r, InstanceReference)]  # type: ignore[attr-defined]
        return [n for n in numbers if self.kinds[n] != "AXIS2_PLACEMENT_3D"]

    def closure(self, start: list[int]) -> list[int]:
        seen: set[int] = set()
        stack = list(start)
        while stack:
            number = stack.pop()
            if number not in seen:
                seen.add(number)
                stack.extend(self.refs(number))
        return sorted(seen)

    def face_records(self, items: list[int]) -> list[int]:
        faces: list[int] = []
        for item in items:
            shells = self.refs(item) if "SHELL" not in self.kinds[item] else [item]
            if self.kinds[item] == "SHELL_BASED_SURFACE_MODEL":
                shells = self.refs(item)
            for shell in shells:
                inner = shell
                if self.kinds[inner] == "ORIENTED_CLOSED_SHELL":
                    inner = self.refs(inner)[0]
                if self.kinds[inner] in ("CLOSED_SHELL", "OPEN_SHELL"):
                    faces += self.refs(inner)
        return faces

    def shown(self, item: int) -> list[int]:
        """What of an item gets looks: the elements of a set, else the item itself."""
        return self.refs(item) if self.kinds[item].startswith("GEOMETRIC_") else [item]

    def turn_spheres(self) -> None:
        """Give spheres a pole and a start in no special direction, and take out seams that end in a pole.

        A reader that lays loops into the parameters of a sphere can take what lies beside a face for the
        face where its edges run along the start or through a pole. The sphere itself stays what it is.
        Faces that a seam divides or surrounds are left alone.
        """
        bounded: dict[int, list[int]] = {}
        for number, kind in self.kinds.items():
            if kind == "ADVANCED_FACE":
                *bounds, surface = self.refs(number)
                bounded.setdefault(surface, []).extend(self.refs(bound)[0] for bound in bounds)
        for surface, loops in bounded.items():
            if self.kinds[surface] != "SPHERICAL_SURFACE" or any(
                self.kinds[n] != "EDGE_LOOP" for n in loops
            ):
                continue
            rims = {loop: self._without_spurs(self.refs(loop)) for loop in loops}
            edges = [self.refs(oriented)[0] for rim in rims.values() for oriented in rim]
            if not all(rims.values()) or len(edges) > len(set(edges)):
                continue
            for loop, rim in rims.items():
                self.texts[loop] = f"EDGE_LOOP('',({','.join(f'#{n}' for n in rim)}))"
            _, axis, start = self.refs(self.refs(surface)[0])
            for number, ratios in ((axis, _AXIS), (start, _START)):
                self.texts[number] = f"DIRECTION('',({','.join(f'{r:.15f}' for r in ratios)}))"

    def _without_spurs(self, loop: list[int]) -> list[int]:
        """The oriented edges of a loop without edges that it follows there and at once back."""
        rim = list(loop)
        spur: int | None = 0
        while len(rim) > 1 and spur is not None:
            edges = [self.refs(oriented)[0] for oriented in rim]
            spur = next((n for n in range(len(rim)) if edges[n] == edges[n - 1]), None)
            if spur is not None:
                rim = [o for n, o in enumerate(rim) if n not in (spur, (spur - 1) % len(rim))]
        return rim


def add_body(composer: RecordComposer, text: BodyText, name: str, *, turning: bool = False) -> WrittenItems:
    """Put a body's geometry into the file and name it.

    Args:
        turning: whether spheres get another axis and start, where their faces allow it.

    Raises:
        KernelRefused: when the kernel's text holds no geometry.
    """
    block = _Block(text.data)
    if turning:
        block.turn_spheres()
    shapes = [(r, items) for r in block.representations() if (items := block.items(r))]
    if not shapes:
        raise KernelRefused("the kernel wrote a body without geometry")
    representation, _ = shapes[0]
    items = [item for _, each in shapes for item in each]
    kept = block.closure(items)
    offset = composer.next_number
    numbers = {old: offset + n for n, old in enumerate(kept)}
    named = encode_string(name)
    for old in kept:
        line = _REFERENCE.sub(lambda m: f"#{numbers[int(m[1])]}", block.texts[old])
        if old in items and name:
            line = re.sub(r"^(\w+)\('[^']*'", lambda m: f"{m[1]}({named}", line, count=1)
        composer.add_text(line)
    faces = block.face_records(items)
    ordered: tuple[int, ...] = ()
    if len(faces) == len(text.face_order) == len(set(text.face_order)):
        by_index = dict(zip(text.face_order, (numbers[f] for f in faces), strict=True))
        ordered = tuple(by_index[i] for i in range(len(faces)))
    edges = {index: numbers[old] for index, old in text.edges.items() if old in numbers}
    tops = tuple(numbers[i] for i in items)
    shown = tuple(numbers[n] for item in items for n in block.shown(item))
    return WrittenItems(block.kinds[representation], tops, shown, ordered, edges)
