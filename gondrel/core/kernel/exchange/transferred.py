"""What the kernel made of a STEP file, as plain data: products, usages and bodies by their records."""

from __future__ import annotations

from dataclasses import dataclass, field

from gondrel.core.model.body import BodyKind, Rgba
from gondrel.core.model.product import Placement

__all__ = [
    "ReadingFacts",
    "Transferred",
    "TransferredBody",
    "TransferredOccurrence",
    "TransferredProduct",
]


@dataclass(frozen=True, slots=True)
class TransferredBody:
    """A body as the kernel made it; record is the ordinal (from 1) of the record it came from.

    Args:
        order: for each face in the order of the records its place in the body, -1 where it has none.
        styled_edges: ordinal of the record and place in the body of each edge that has a style.
    """

    kind: BodyKind
    blob: str
    faces: int
    record: int
    colour: Rgba | None
    face_colours: tuple[tuple[int, Rgba], ...]
    layers: tuple[str, ...]
    reading: ReadingFacts = field(default_factory=lambda: ReadingFacts())
    order: tuple[int, ...] = ()
    styled_edges: tuple[tuple[int, int], ...] = ()


@dataclass(frozen=True, slots=True)
class ReadingFacts:
    """How a body stands to what the file's records say of it; faces by their record numbers.

    Args:
        elsewhere: faces that do not lie where the records say, however they were read.
        again: faces that were read another way than usual, and then lie where the records say.
        wrong: faces whose loops run the wrong way round in the file; mended: those where a seam shows what
            is meant, and that were read so; loose: those from whose surfaces their edges end far off.
        area, volume: of the body by the records, mm2 and mm3; None where they do not say.
    """

    elsewhere: tuple[int, ...] = ()
    again: tuple[int, ...] = ()
    wrong: tuple[int, ...] = ()
    mended: tuple[int, ...] = ()
    area: float | None = None
    volume: float | None = None
    loose: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class TransferredOccurrence:
    """A component of an assembly; record is the ordinal of its usage record, 0 when it has none."""

    record: int
    product: str
    placement: Placement
    colour: Rgba | None


@dataclass(frozen=True, slots=True)
class TransferredProduct:
    """A product as the kernel made it; record is the ordinal of its product definition, or 0."""

    key: str
    record: int
    bodies: tuple[TransferredBody, ...]
    uses: tuple[TransferredOccurrence, ...]


@dataclass(slots=True)
class Transferred:
    """Everything the kernel made of a file, with the number of records it saw."""

    products: dict[str, TransferredProduct] = field(default_factory=dict)
    roots: list[str] = field(default_factory=list)
    records: int = 0
