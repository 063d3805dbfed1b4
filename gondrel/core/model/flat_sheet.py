"""A drawing as it came in: curves on layers, texts, and what was not taken."""

from __future__ import annotations

from dataclasses import dataclass

from gondrel.core.model.outline import Curve, Point
from gondrel.core.model.provenance import Note

__all__ = ["Sheet", "SheetCurve", "SheetLayer", "SheetText"]


@dataclass(frozen=True, slots=True)
class SheetCurve:
    """A curve of a drawing, mm.

    Args:
        kind: of the entity it comes from; layer, line_type: names; colour: #rrggbb.
        block: names of the blocks it was placed by, outermost first; empty for none.
        group: curves of one polyline, or of one placed block, share a number.
    """

    curve: Curve
    kind: str
    layer: str
    colour: str = "#1F2A33"
    line_type: str = ""
    block: tuple[str, ...] = ()
    group: int = 0


@dataclass(frozen=True, slots=True)
class SheetLayer:
    """A layer: its name, look, how many entities lie on it, and whether the sender shows it."""

    name: str
    colour: str
    line_type: str
    entities: int
    is_shown: bool = True


@dataclass(frozen=True, slots=True)
class SheetText:
    """A text or the text of a dimension.

    Args:
        kind: text, dimension or angle; at: where it stands, mm; height: mm; value: what a dimension
            measures, mm or degrees, None for texts.
    """

    kind: str
    text: str
    at: Point
    height: float
    layer: str
    value: float | None = None


@dataclass(frozen=True, slots=True)
class Sheet:
    """One layout of a drawing file.

    Args:
        name: of the layout; layouts: all there are.
        version: of the file; unit: key of its unit; is_proposed: whether the file says none, so that it is
            a proposal; factor: millimetres for one of the file's units.
        curves, texts: mm; layers: all of the file, in its order.
        notes: what was not taken, changed or doubtful.
    """

    name: str
    layouts: tuple[str, ...]
    version: str
    unit: str
    is_proposed: bool
    factor: float
    curves: tuple[SheetCurve, ...]
    texts: tuple[SheetText, ...]
    layers: tuple[SheetLayer, ...]
    notes: tuple[Note, ...] = ()
