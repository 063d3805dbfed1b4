"""What a file's own records say of the faces of its bodies, as witness of what a kernel made of them."""

from __future__ import annotations

import io
from dataclasses import dataclass, fields
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from gondrel.core.integral.figures import FaceFigures, figures_of
from gondrel.core.integral.inner_points import inner_points_of
from gondrel.core.integral.nodes import Nodes, nodes_of
from gondrel.core.integral.tables import CONE, CYLINDER, PLANE, SPHERE, TORUS, FaceTable
from gondrel.core.integral.turned import seams_outside, with_loops_turned, with_normals_turned

__all__ = ["BodyOutline", "Outline", "make_outline"]

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class BodyOutline:
    """The faces of one body in the order of its shells, mm.

    Args:
        numbers: (n,) record numbers; kind: (n,) of the surfaces; area: (n,) mm2, not a number where it is
            not known; flux: (n,) of the position through the face, mm3; perimeter: (n,) mm.
        coedges: (n,) how many edges their loops run along.
        wrong: (n,) whether the loops run the wrong way round in the file, as nothing else could be meant;
            mended: (n,) whether they do, and the seam says what is meant: the figures are of that.
        face, point, along, normal: columns of points on edges, with the way the loop runs and the normal
            of the face there, which is not a number where only the kernel knows it.
        off: (n,) how far from its surface an edge of the face ends, mm; 0 where that is not elementary.
    """

    numbers: Ints
    kind: Ints
    area: Floats
    flux: Floats
    perimeter: Floats
    coedges: Ints
    wrong: Flags
    mended: Flags
    face: Ints
    point: Floats
    along: Floats
    normal: Floats
    off: Floats

    def only(self, places: list[int]) -> BodyOutline:
        """The same of some of the faces, in this order."""
        at = np.full(len(self.numbers), -1)
        at[places] = np.arange(len(places))
        rows = at[self.face] >= 0
        return BodyOutline(
            self.numbers[places], self.kind[places], self.area[places], self.flux[places],
            self.perimeter[places], self.coedges[places], self.wrong[places], self.mended[places],
            at[self.face[rows]], self.point[rows], self.along[rows], self.normal[rows], self.off[places],
        )  # fmt: skip

    @property
    def whole(self) -> tuple[float, float]:
        """Area and volume of the body, not a number where a face is not known."""
        return float(self.area.sum()), float(self.flux.sum()) / 3


@dataclass(frozen=True)
class Outline:
    """Faces of a file, and which of them its bodies are made of.

    Args:
        bodies: (b,) what the bodies are called; starts: (b + 1,) where each one's rows begin; rows: face
            of each row; senses: -1 where the body takes the face turned round; scale: (b,) mm in its unit.
        The rest is as in BodyOutline, over all faces and in the file's unit.
    """

    bodies: Ints
    starts: Ints
    rows: Ints
    senses: Ints
    scale: Floats
    numbers: Ints
    kind: Ints
    area: Floats
    flux: Floats
    perimeter: Floats
    coedges: Ints
    wrong: Flags
    mended: Flags
    face: Ints
    point: Floats
    along: Floats
    normal: Floats
    off: Floats

    def body(self, name: int) -> BodyOutline | None:
        """What is said of a body, None when nothing is."""
        if (own := self._of(name)) is None:
            return None
        rows, senses, scale = own
        chosen, face = self._points_on(rows)
        return BodyOutline(
            self.numbers[rows], self.kind[rows], self.area[rows] * scale**2,
            self.flux[rows] * senses * scale**3, self.perimeter[rows] * scale, self.coedges[rows],
            self.wrong[rows], self.mended[rows], face,
            self.point[chosen] * scale, self.along[chosen] * senses[face][:, None],
            self.normal[chosen] * senses[face][:, None], self.off[rows] * scale,
        )  # fmt: skip

    def whole(self, name: int) -> tuple[float, float] | None:
        """Area and volume of a body, mm2 and mm3, as BodyOutline has them; None when nothing is said."""
        if (own := self._of(name)) is None:
            return None
        rows, senses, scale = own
        area, flux = float(self.area[rows].sum()), float((self.flux[rows] * senses).sum())
        return area * scale**2, flux * scale**3 / 3

    def _of(self, name: int) -> tuple[Ints, Ints, float] | None:
        """Rows of a body's faces, which way round they are, and mm in its unit."""
        if (place := self._places.get(name)) is None:
            return None
        part = slice(self.starts[place], self.starts[place + 1])
        return self.rows[part], self.senses[part], float(self.scale[place])

    def _points_on(self, rows: Ints) -> tuple[Ints, Ints]:
        """Rows of the points on some faces, rising, and which of those faces each is on."""
        order, begins = self._by_face
        faces = np.unique(rows)
        counts = begins[faces + 1] - begins[faces]
        skipped = np.repeat(begins[faces] - (np.cumsum(counts) - counts), counts)
        chosen = np.sort(order[skipped + np.arange(len(skipped))])
        ranked = np.argsort(rows, kind="stable")
        return chosen, ranked[np.searchsorted(rows[ranked], self.face[chosen], "right") - 1]

    @cached_property
    def _places(self) -> dict[int, int]:
        """Where each body stands."""
        return {name: place for place, name in enumerate(self.bodies.tolist())}

    @cached_property
    def _by_face(self) -> tuple[Ints, Ints]:
        """Rows of all points face by face, and where those of each face begin, (faces + 1,)."""
        order = np.argsort(self.face, kind="stable")
        return order, np.searchsorted(self.face[order], np.arange(len(self.numbers) + 1))

    def to_bytes(self) -> bytes:
        """The columns as bytes."""
        stream = io.BytesIO()
        np.savez(stream, allow_pickle=False, **{f.name: getattr(self, f.name) for f in fields(self)})
        return stream.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes) -> Outline:
        """The columns again."""
        with np.load(io.BytesIO(data), allow_pickle=False) as columns:
            return cls(**{f.name: columns[f.name] for f in fields(cls)})


def make_outline(
    table: FaceTable, bodies: dict[int, tuple[list[int], list[int], float]], *, budget: float
) -> Outline:
    """What a table of faces says of some bodies.

    Args:
        bodies: by their names the rows of their faces, 1 or -1 where a face is taken turned round, and the
            size of their length unit in mm.
        budget: how many points may be taken on surfaces that are not elementary and leave no doubt; the
            faces beyond it have no area or flux.
    """
    starts = np.cumsum([0, *(len(rows) for rows, _, _ in bodies.values())])
    rows = np.array([row for each, _, _ in bodies.values() for row in each], np.int64)
    senses = np.array([turn for _, each, _ in bodies.values() for turn in each], np.int64)
    body_of = np.repeat(np.arange(len(bodies)), np.diff(starts))
    nodes = nodes_of(table.edges)
    outside = seams_outside(table)
    plain = figures_of(table, budget=-1.0, nodes=nodes)
    wrong = (plain.area < 0) & ~outside
    meant = _meant(table, outside, plain, nodes, rows, senses, body_of)
    figures = figures_of(meant, budget=budget, nodes=nodes) if outside.any() or table.patches else plain
    wrong |= (figures.area < 0) & ~outside
    besides = inner_points_of(meant, nodes)
    length = np.zeros(len(table))
    np.add.at(length, table.face, besides.lengths[table.edge])
    return Outline(
        bodies=np.array(list(bodies), np.int64), starts=starts, rows=rows, senses=senses,
        scale=np.array([scale for _, _, scale in bodies.values()], np.float64),
        numbers=table.numbers, kind=table.kind, area=figures.area, flux=figures.flux, perimeter=length,
        coedges=np.bincount(table.face, minlength=len(table)), wrong=wrong, mended=outside,
        face=besides.face, point=besides.point, along=besides.along,
        normal=besides.normal, off=_off(table),
    )  # fmt: skip


@np.errstate(invalid="ignore", over="ignore")
def _off(table: FaceTable) -> Floats:
    """How far the ends of each face's edges lie from its surface, where that is elementary."""
    points = table.edges.ends[table.edge].reshape(-1, 3)
    face = np.repeat(table.face, 2)
    frame, kind = table.frame[face], table.kind[face]
    x, y, z = np.einsum("nij,nj->ni", frame[:, 1:], points - frame[:, 0]).T
    first, second = table.sizes[face].T
    rho = np.hypot(x, y)
    cosine = np.sqrt(np.maximum(1 - second**2, 0.0))
    away = np.select(
        [kind == PLANE, kind == CYLINDER, kind == CONE, kind == SPHERE, kind == TORUS],
        [z, rho - first, rho * cosine - np.abs(z) * second, np.hypot(rho, z) - first,
         np.hypot(rho - first, z) - second], 0.0,
    )  # fmt: skip
    worst = np.zeros(len(table))
    np.maximum.at(worst, face, np.nan_to_num(np.abs(away), nan=0.0, posinf=0.0))
    return worst


def _meant(
    table: FaceTable,
    outside: Flags,
    plain: FaceFigures,
    nodes: Nodes,
    rows: Ints,
    senses: Ints,
    body_of: Ints,
) -> FaceTable:
    """The table with faces turned so that their seams lie inside: their loops, where the edges of the body
    then run both ways as often, else their normals."""
    if not outside.any():
        return table
    turned = with_loops_turned(table, outside)
    vectors = figures_of(turned, budget=-1.0, nodes=nodes).vector
    bodies = int(body_of.max(initial=-1)) + 1
    gaps = []
    for vector in (plain.vector, vectors):
        total = np.zeros((bodies, 3))
        np.add.at(total, body_of, np.nan_to_num(vector[rows]) * senses[:, None])
        gaps.append(np.linalg.norm(total, axis=1))
    by_loops = np.zeros(len(table), bool)
    by_loops[rows] = (gaps[1] <= gaps[0])[body_of]
    meant = with_loops_turned(table, outside & by_loops)
    return with_normals_turned(meant, outside & ~by_loops)
