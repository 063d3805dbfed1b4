"""Bodies are values: a B-rep blob addressed by its content hash, with name and looks."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import Enum

from gondrel.core.model.appearance import Appearance
from gondrel.core.model.metadata import Metadatum

__all__ = ["Body", "BodyFacts", "BodyKind", "Rgba", "Witness"]


class BodyKind(Enum):
    """What a body is made of."""

    SOLID = "solid"
    SHEET = "sheet"
    WIRE = "wire"
    POINT = "point"
    MESH = "mesh"


@dataclass(frozen=True, slots=True)
class Rgba:
    """A colour as sRGB shares 0 to 1; alpha 1 is opaque."""

    red: float
    green: float
    blue: float
    alpha: float = 1.0

    @property
    def hex(self) -> str:
        """The colour as #rrggbb."""
        return "#" + "".join(
            f"{round(min(max(c, 0.0), 1.0) * 255):02x}" for c in (self.red, self.green, self.blue)
        )

    @property
    def label(self) -> str:
        """The colour for people: #rrggbb and, when not opaque, its transparency in per cent."""
        seen_through = round((1.0 - self.alpha) * 100)
        return f"{self.hex} {seen_through} % transparent" if seen_through else self.hex

    @property
    def luminance(self) -> float:
        """How light it is to the eye, 0 to 1. Source: relative luminance of WCAG 2.2."""
        red, green, blue = (
            share / 12.92 if share <= 0.04045 else ((share + 0.055) / 1.055) ** 2.4
            for share in (self.red, self.green, self.blue)
        )
        return 0.2126 * red + 0.7152 * green + 0.0722 * blue

    @classmethod
    def from_hex(cls, text: str, alpha: float = 1.0) -> Rgba:
        """A colour from #rrggbb. Raises ValueError on any other form."""
        digits = text.strip().lstrip("#")
        if len(digits) != 6:
            raise ValueError(f"a colour must be #rrggbb (got {text!r})")
        red, green, blue = (int(digits[i : i + 2], 16) / 255 for i in (0, 2, 4))
        return cls(red, green, blue, alpha)


@dataclass(frozen=True, slots=True)
class Witness:
    """What a file's own records say of a body, worked out without the kernel that made it.

    Args:
        blob: content hash of the body it speaks of; it says nothing of any other.
        area, volume: mm2 and mm3, None where the records do not say.
        agrees: whether every face of the body lies where the records say.
    """

    blob: str
    area: float | None = None
    volume: float | None = None
    agrees: bool = True


@dataclass(frozen=True, slots=True)
class Body:
    """One body of a product.

    Args:
        id: unique in its model and stable over edits.
        blob: content hash of the B-rep in the store.
        colour: of the whole body, None when the file gives none.
        face_colours: (face index from 0 in the order of the B-rep, colour), where a face differs.
        layers: names of the layers the body is on.
        witness: what the file it was read from says of it, None where nothing; see `heard`.
        hidden: whether the sender does not show it.
        face_names, face_layers, face_metadata: as face_colours, what single faces are called, are on and
            are said to have; a face can stand there more than once.
        appearance, face_appearance: how the body and single faces are shown beside their colours.
        edge_colours: (edge index from 0 in the order of edges_of, colour), where an edge has its own.
    """

    id: str
    kind: BodyKind
    name: str
    blob: str
    colour: Rgba | None = None
    face_colours: tuple[tuple[int, Rgba], ...] = ()
    layers: tuple[str, ...] = ()
    witness: Witness | None = None
    hidden: bool = False
    metadata: tuple[Metadatum, ...] = ()
    face_names: tuple[tuple[int, str], ...] = ()
    face_layers: tuple[tuple[int, str], ...] = ()
    face_metadata: tuple[tuple[int, Metadatum], ...] = ()
    appearance: tuple[Appearance, ...] = ()
    face_appearance: tuple[tuple[int, Appearance], ...] = ()
    edge_colours: tuple[tuple[int, Rgba], ...] = ()

    def moved(self, blob: str) -> Body:
        """The body as a rigid motion of it: what its file's records say of it still holds."""
        said = self.heard
        return replace(self, blob=blob, witness=replace(said, blob=blob) if said is not None else None)

    def without_parts(self) -> Body:
        """The body without what is said of its single faces and edges, for a shape that has others."""
        return replace(
            self, face_colours=(), face_names=(), face_layers=(), face_metadata=(), face_appearance=(),
            edge_colours=(),
        )  # fmt: skip

    def uncoloured(self) -> Body:
        """The body without colours and other looks."""
        return replace(
            self, colour=None, face_colours=(), appearance=(), face_appearance=(), edge_colours=()
        )

    @property
    def heard(self) -> Witness | None:
        """The witness, where it speaks of the body as it is now."""
        return self.witness if self.witness is not None and self.witness.blob == self.blob else None


@dataclass(frozen=True, slots=True)
class BodyFacts:
    """What was measured on a B-rep, in its own frame.

    Args:
        volume: mm3, 0 when nothing is enclosed.
        area: mm2.
        centroid: mm; of the volume for solids, else of area or length.
        inertia: principal moments of the volume (mm5) or area (mm4) about the centroid, ascending.
        inertia_matrix: row-major 3x3 about the centroid, same unit.
        bbox: xmin, ymin, zmin, xmax, ymax, zmax in mm.
        surfaces: face count by kind of surface.
        tolerance: largest tolerance of any edge or vertex, mm.
        length: summed length of the edges, mm.
        strip: what its edges and vertices leave open, mm2: twice the tolerance along each edge, and a disc
            of the tolerance round each vertex; areas that two readers find may differ by it.
    """

    volume: float
    area: float
    centroid: tuple[float, float, float]
    inertia: tuple[float, float, float]
    inertia_matrix: tuple[float, ...]
    bbox: tuple[float, float, float, float, float, float]
    faces: int
    edges: int
    vertices: int
    surfaces: tuple[tuple[str, int], ...]
    tolerance: float
    length: float
    strip: float = 0.0
