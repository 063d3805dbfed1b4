"""Placed bodies as VTK actors, and picking by our own ray."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from itertools import groupby
from typing import Any, ClassVar

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk
from vtkmodules.vtkCommonCore import mutable
from vtkmodules.vtkCommonDataModel import vtkPolyData
from vtkmodules.vtkCommonMath import vtkMatrix4x4
from vtkmodules.vtkRenderingCore import vtkActor, vtkPolyDataMapper, vtkProperty

from gondrel.core.model import Body, BodyKind, Model, Rgba
from gondrel.core.model.boxes import placed_boxes
from gondrel.core.model.cutting import Cut, Vector
from gondrel.ui.presenters.scale import Scale
from gondrel.ui.scene.body_mesh import BodyMesh
from gondrel.ui.scene.extents import Extents
from gondrel.ui.scene.opening import Opening
from gondrel.ui.scene.own_colours import OwnColours

__all__ = ["CROWD", "OWN", "Hit", "Look", "PlacedBody", "Scene"]

CROWD = 1200
"""Number of instances from which small ones are drawn as boxes."""

PLAIN = Rgba(0.70, 0.73, 0.77)
"""Colour of a body that the file gives none."""

_EDGE = (0.13, 0.18, 0.22)


def boxes_of(mesh: BodyMesh, matrices: list[np.ndarray]) -> np.ndarray:
    """Boxes along the axes around a mesh in its places, n × 2 × 3 with the lower corners first."""
    own = np.array([[mesh.low, mesh.high]], float)
    return placed_boxes(np.array(matrices).reshape(-1, 4, 4), own)


@dataclass(frozen=True, slots=True)
class Look:
    """How an instance is drawn: in its own colours, one tint, or coloured by a deviation field.

    Args:
        field: key of the field, "" for none.
    """

    tint: tuple[float, float, float] | None = None
    opacity: float = 1.0
    field: str = ""


@dataclass(slots=True, eq=False)
class PlacedBody:
    """One instance of a body in the picture.

    Args:
        coloured_by: the component that gives it colours in its place alone, empty for none.
        is_whole: whether a cut leaves it whole; owner: of a cut face, the instance that was cut.
        is_selected: whether it is drawn as one of the selection.
    """

    product: str
    path: tuple[str, ...]
    body: Body
    colour: Rgba
    override: bool
    matrix: np.ndarray
    surfaces: list[vtkActor]
    edges: list[vtkActor]
    mesh: BodyMesh
    box: np.ndarray
    is_shown: bool = True
    is_gathered: bool = False
    look: Look | None = None
    coloured_by: str = ""
    is_whole: bool = False
    owner: PlacedBody | None = None
    is_selected: bool = False
    rgba: tuple[int, int, int, int] = (0, 0, 0, 0)
    home: np.ndarray = field(init=False)
    low: np.ndarray = field(init=False)
    high: np.ndarray = field(init=False)
    _inverse: np.ndarray | None = None
    shown_again: ClassVar[int] = 0
    """Another number once any instance is shown or hidden."""

    def __post_init__(self) -> None:
        self.low, self.high = self.mesh.low, self.mesh.high
        self.home = self.matrix

    def _set_box(self) -> None:
        self.box = boxes_of(self.mesh, [self.matrix])[0]

    def shift(self, by: Vector) -> bool:
        """Draw the instance so far from its place, mm; False where it is drawn there already."""
        wanted = self.home[:3, 3] + np.asarray(by)
        if np.array_equal(wanted, self.matrix[:3, 3]):
            return False
        self.matrix = self.home.copy()
        self.matrix[:3, 3] = wanted
        self._inverse = None
        self._set_box()
        transform = vtkMatrix4x4()
        transform.DeepCopy(self.matrix.ravel().tolist())
        for actor in (*self.surfaces, *self.edges):
            actor.SetUserMatrix(transform)
        return True

    @property
    def inverse(self) -> np.ndarray:
        """From the model's frame to the body's own."""
        if self._inverse is None:
            self._inverse = np.linalg.inv(self.matrix)
        return self._inverse

    def in_whole(self, points: np.ndarray) -> np.ndarray:
        """Points (n, 3) of the body's own frame in that of the model."""
        moved: np.ndarray = points @ self.matrix[:3, :3].T + self.matrix[:3, 3]
        return moved

    def show(self, shown: bool) -> None:
        """Show or hide the instance."""
        if shown != self.is_shown:
            self.is_shown = shown
            PlacedBody.shown_again += 1
            self._draw()

    def gather(self, gathered: bool) -> None:
        """Leave the drawing to a crowd or batch, or draw the instance by itself."""
        if gathered != self.is_gathered:
            self.is_gathered = gathered
            self._draw()

    def _draw(self) -> None:
        for actor in (*self.surfaces, *self.edges):
            actor.SetVisibility(self.is_shown and not self.is_gathered)

    @property
    def drawn_colour(self) -> tuple[float, float, float, float]:
        """Colour and opacity as drawn now."""
        look = self.look or Look()
        colour = self.colour
        red, green, blue = look.tint or (colour.red, colour.green, colour.blue)
        return red, green, blue, colour.alpha * look.opacity


OWN = Look()
"""Its own colours."""


@dataclass(frozen=True, slots=True)
class Hit:
    """What a ray met: the instance, the face of its body, the triangle, the point in mm."""

    placed: PlacedBody
    face: int
    point: np.ndarray
    triangle: int = 0


class Scene:
    """All placed bodies of one model, added to a renderer as their meshes arrive."""

    def __init__(self) -> None:
        self.meshes: dict[str, BodyMesh] = {}
        self.placed: list[PlacedBody] = []
        self._mappers: dict[tuple[str, str], list[vtkPolyDataMapper]] = {}
        self.count = 0
        self._edge_properties = (edge_look(False), edge_look(True))
        self._faded_edges = edge_look(False)
        self._faded_edges.SetOpacity(0.07)
        self.fields: dict[str, np.ndarray] = {}
        self.scale: Scale | None = None
        self.extents = Extents()
        self._shown: tuple[tuple[int, int, int], np.ndarray] | None = None
        self._bounds: tuple[np.ndarray, bytes, np.ndarray] | None = None
        self.state = 0
        """Another number once instances stand elsewhere or are others; more at the end alone leave it."""

        self.looks = 0
        """Another number once an instance has another look."""

        self.opening = Opening()
        self.caps: list[PlacedBody] = []
        self._whole: set[tuple[str, ...]] = set()
        self._culls = True
        self.displaced = 0
        self._is_displaced = False
        self._waiting: dict[str, list[tuple[str, Body]]] = {}
        self._rgba: dict[tuple[int, int], tuple[Rgba, Look, tuple[int, int, int, int]]] = {}
        self._model = Model()
        self._owns = OwnColours(self._model)
        self._colours: dict[str, Rgba] = {}

    def set_model(self, model: Model) -> None:
        """Plan every placed body of a model; meshes are given later."""
        self.placed.clear()
        self.caps.clear()
        self.extents = Extents()
        self.state += 1
        self._mappers.clear()
        self._plan(model, None)

    def exchange(self, model: Model, products: Collection[str]) -> list[PlacedBody]:
        """Plan anew the bodies of some products of a model that stands otherwise as before.

        Returns: the instances that are no longer there.
        """
        kept = np.array([placed.product not in products for placed in self.placed], bool)
        gone = [self.placed[place] for place in np.flatnonzero(~kept).tolist()]
        self.state += 1
        self.placed = [self.placed[place] for place in np.flatnonzero(kept).tolist()]
        self.extents.keep(kept)
        for key in list(self._waiting):
            left = [entry for entry in self._waiting[key] if entry[0] not in products]
            if left:
                self._waiting[key] = left
            else:
                del self._waiting[key]
        self._plan(model, products)
        return gone

    def _plan(self, model: Model, products: Collection[str] | None) -> None:
        """Plan the bodies of some products of a model, or of all."""
        if products is None:
            self._waiting.clear()
        waiting = (product for entries in self._waiting.values() for product, _ in entries)
        self.count = len(self.placed) + sum(len(self._model.places_of[key]) for key in waiting)
        self._model, self._owns = model, OwnColours(model)
        self._colours = {use.id: use.colour for use in model.told_uses if use.colour is not None}
        for product in model.products if products is None else map(model.product, products):
            count = len(model.places_of.get(product.id, ()))
            for body in product.bodies if count else ():
                self._waiting.setdefault(body.blob, []).append((product.id, body))
                self.count += count

    @property
    def wanted(self) -> tuple[str, ...]:
        """Hashes of the bodies whose meshes are still to come."""
        return tuple(self._waiting)

    def add_mesh(self, key: str, mesh: BodyMesh) -> list[PlacedBody]:
        """Take a mesh; returns the instances that can now be drawn."""
        self.meshes[key] = mesh
        made: list[PlacedBody] = []
        for product, own in self._waiting.pop(key, []):
            made += self._place_all(mesh, product, own)
        for placed in made if self.count >= CROWD else ():
            placed.is_gathered = True  # until it is found to be near
        self.placed += made
        return made

    def _place_all(self, mesh: BodyMesh, product: str, own: Body) -> Iterator[PlacedBody]:
        """A body in every place of its product."""
        model, colours = self._model, self._colours
        places = model.places_of[product]
        matrices = model.matrices[places]
        boxes = self.extents.add(matrices, mesh.low, mesh.high)
        for at, matrix, box in zip(places, matrices, boxes, strict=True):
            path = model.place(at).path
            override = next((colours[s] for s in path if s in colours), None) if colours else None
            body, by = self._owns.worn(own, path)
            colour = override or body.colour or PLAIN
            placed = PlacedBody(
                product, path, body, colour, override is not None, matrix, [], [], mesh, box, coloured_by=by
            )
            placed.is_whole = path in self._whole
            self.dress(placed)
            yield placed

    def embody(self, placed: PlacedBody) -> None:
        """Make the actors of an instance that is to be drawn by itself, once."""
        if placed.surfaces or placed.edges:
            return
        transform = vtkMatrix4x4()
        transform.DeepCopy(placed.matrix.ravel().tolist())
        mesh = placed.mesh
        placed.surfaces, placed.edges = [vtkActor() for _ in mesh.pieces], [vtkActor() for _ in mesh.lines]
        visible = placed.is_shown and not placed.is_gathered
        for actor in (*placed.surfaces, *placed.edges):
            actor.SetUserMatrix(transform)
            actor.SetVisibility(visible)
        self._line(placed)
        self._paint(placed)
        self._open(placed)

    def _line(self, placed: PlacedBody) -> None:
        """Give the edges of an instance their lines: others where a cut leaves it whole."""
        kind = f"lines{_WHOLE}" if placed.is_whole else "lines"
        mappers = self._mappers_of(placed.mesh, placed.body, kind)
        for actor, mapper in zip(placed.edges, mappers, strict=True):
            actor.SetMapper(mapper)

    def _open(self, placed: PlacedBody) -> None:
        """Have the actors of an instance clipped by the cut, unless it is left whole."""
        if not placed.is_whole:
            for actor in (*placed.surfaces, *placed.edges):
                self.opening.clip(actor)

    def set_cut(self, cut: Cut, whole: Collection[tuple[str, ...]] = ()) -> bool:
        """Cut the model open; whether what else is drawn has to be told, as of Opening.take.

        Args:
            whole: paths of what is left whole.
        """
        changed = is_other = self.opening.take(cut)
        self._whole = left = set(whole) if cut else set()
        for placed in self.placed:
            if placed.is_whole != (placed.path in left):
                placed.is_whole = not placed.is_whole
                if placed.surfaces or placed.edges:
                    self._line(placed)
                    self._paint(placed)
                    changed = True
        if changed:
            for placed in self.placed:
                if placed.is_whole:
                    for actor in (*placed.surfaces, *placed.edges):
                        actor.GetShaderProperty().ClearAllFragmentShaderReplacements()
                elif placed.surfaces or placed.edges:
                    self._paint(placed)
                    self._open(placed)
        return is_other

    def cull(self, capped: bool) -> None:
        """Leave the inner sides of closed skins out again once cut faces cover them."""
        self._culls = capped or not self.opening.cut
        for placed in self.placed:
            if placed.surfaces and not placed.is_whole:
                self._paint(placed)

    def make_cap(self, owner: PlacedBody, key: str, mesh: BodyMesh) -> PlacedBody:
        """A cut face of an instance, drawn in its colour and place."""
        body = Body(f"{owner.body.id}/{key}", BodyKind.SHEET, owner.body.name, key, owner.colour)
        cap = PlacedBody(
            owner.product, owner.path, body, owner.colour, True, owner.matrix, [], [], mesh,
            boxes_of(mesh, [owner.matrix])[0], is_whole=True, owner=owner,
        )  # fmt: skip
        cap.is_shown = owner.is_shown
        self.dress(cap, owner.look or OWN)
        return cap

    def dress(self, placed: PlacedBody, look: Look = OWN) -> bool:
        """Give an instance a look; False when it has it already."""
        if placed.look is look or placed.look == look:
            return False
        placed.look = look
        self.looks += 1
        key = id(placed.colour), id(look)
        known = self._rgba.get(key)
        if known is None or known[0] is not placed.colour or known[1] is not look:
            red, green, blue, alpha = (round(255 * min(max(v, 0.0), 1.0)) for v in placed.drawn_colour)
            known = self._rgba[key] = placed.colour, look, (red, green, blue, alpha)
        placed.rgba = known[2]
        if placed.surfaces:
            self._paint(placed)
        return True

    def _paint(self, placed: PlacedBody) -> None:
        """Give the actors of an instance the look it has."""
        look = placed.look or OWN
        own_faces = bool(placed.body.face_colours) and not placed.override
        kind = f"faces {placed.coloured_by}" if own_faces and look.tint is None else "plain"
        if look.field and self.scale is not None:
            kind = f"field {look.field}"
        if placed.is_whole:
            kind += _WHOLE
        red, green, blue, opacity = placed.drawn_colour
        prop = vtkProperty()
        prop.SetColor(red, green, blue)
        prop.SetOpacity(opacity)
        prop.SetAmbient(0.18)
        prop.SetDiffuse(0.88)  # matt: a highlight costs a quarter of a frame in software GL
        is_full = placed.body.kind.value == "solid" and placed.mesh.is_closed
        prop.SetBackfaceCulling(is_full and opacity == 1.0 and (placed.is_whole or self._culls))
        if placed.owner is not None:
            prop.SetLighting(False)
        inner = None
        if placed.body.kind.value == "solid" and not placed.mesh.is_closed:
            inner = vtkProperty()
            inner.DeepCopy(prop)
            inner.SetColor(*(_INNER * value for value in (red, green, blue)))
        for actor, mapper in zip(
            placed.surfaces, self._mappers_of(placed.mesh, placed.body, kind), strict=True
        ):
            actor.SetMapper(mapper)
            actor.SetProperty(prop)
            actor.SetBackfaceProperty(inner)  # type: ignore[arg-type]  # none is taken, too
        own = self._edge_properties[placed.colour.alpha == 1.0]
        is_faint = look.opacity * placed.colour.alpha < _FADES
        for actor in placed.edges:
            actor.SetProperty(self._faded_edges if is_faint else own)

    def point_colours(self, placed: PlacedBody) -> np.ndarray:
        """(n, 3) uint8 colours of an instance's nodes as it is drawn now."""
        look, mesh, body = placed.look or Look(), placed.mesh, placed.body
        if look.field and self.scale is not None:
            return self.scale.colours(self.fields[look.field])
        red, green, blue, _ = placed.drawn_colour
        own = np.array([_bytes(Rgba(red, green, blue))[:3]], np.uint8)
        if look.tint is not None or placed.override or not body.face_colours:
            return np.repeat(own, len(mesh.points), axis=0)
        by_face = np.repeat(own, len(mesh.face_starts), axis=0)
        for index, colour in body.face_colours:
            if index + 1 < len(mesh.face_starts):
                by_face[index] = _bytes(colour)[:3]
        by_node: np.ndarray = by_face[mesh.point_faces()]
        return by_node

    def displace(self, shifts: Mapping[tuple[str, ...], Vector]) -> bool:
        """Draw instances away from their places; whether any is drawn elsewhere now.

        Args:
            shifts: mm in the whole, by path; what is not in it stands in its place.
        """
        if not shifts and not self._is_displaced:
            return False
        self._is_displaced = bool(shifts)
        moved = [placed.shift(shifts.get(placed.path, _NO_SHIFT)) for placed in self.placed]
        if any(moved):
            self.extents = Extents()
            for _, run in groupby(self.placed, key=lambda placed: id(placed.mesh)):
                same = list(run)
                matrices = np.array([placed.matrix for placed in same])
                self.extents.add(matrices, same[0].low, same[0].high)
            self.state += 1
            self.displaced += 1
        return any(moved)

    def set_fields(self, fields: dict[str, np.ndarray], scale: Scale | None) -> None:
        """Take the deviation of bodies' mesh nodes by hash, and the colours of a deviation."""
        self.fields, self.scale = fields, scale
        for key in [k for k in self._mappers if k[1].startswith("field ")]:
            del self._mappers[key]

    def _mappers_of(self, mesh: BodyMesh, body: Body, kind: str) -> list[vtkPolyDataMapper]:
        """Mappers of a body's pieces, shared by its instances."""
        key = (body.id, kind)
        if key not in self._mappers:
            kind = kind.removesuffix(_WHOLE)
            inputs = mesh.lines if kind == "lines" else mesh.pieces
            if kind.startswith("faces "):
                inputs = _painted(mesh, body)
            elif kind.startswith("field "):
                assert self.scale is not None
                inputs = _mapped(mesh, self.fields[kind.removeprefix("field ")], self.scale)
            self._mappers[key] = [_mapper(piece, kind) for piece in inputs]
        return self._mappers[key]

    def shown(self) -> np.ndarray:
        """(n,) whether each instance is shown."""
        state = self.state, len(self.placed), PlacedBody.shown_again
        if self._shown is None or self._shown[0] != state:
            self._shown = state, np.array([p.is_shown for p in self.placed], bool)
        return self._shown[1]

    def boxes(self) -> np.ndarray:
        """(n, 2, 3) boxes of all instances shown."""
        boxes: np.ndarray = self.extents.boxes[self.shown()]
        return boxes

    def bounds(self) -> np.ndarray | None:
        """(2, 3) box of all that is shown, None without any."""
        boxes, shown = self.extents.boxes, self.shown()
        if not shown.any():
            return None
        known = shown.tobytes()
        if self._bounds is None or self._bounds[0] is not boxes or self._bounds[1] != known:
            seen = boxes[shown]
            self._bounds = boxes, known, np.array([seen[:, 0].min(axis=0), seen[:, 1].max(axis=0)])
        return self._bounds[2]

    def pick(self, start: np.ndarray, end: np.ndarray) -> Hit | None:
        """The nearest visible face on a ray from start to end that the cut leaves, or cut face."""
        found: list[tuple[float, Hit]] = []
        whole = [p for p in (*self._boxes_hit(start, end), *self._caps_hit()) if self._is_uncut(p)]
        found += self._nearest(whole, start, end, 0.0, 1.0)
        if self.opening.cut:
            cut = [p for p in self._boxes_hit(start, end) if not p.is_whole]
            for first, last in self.opening.cut.left_of(start, end):
                found += self._nearest(cut, start, end, first, last)
        return min(found, key=lambda each: each[0])[1] if found else None

    def _is_uncut(self, placed: PlacedBody) -> bool:
        return placed.is_whole or not self.opening.cut

    def _caps_hit(self) -> list[PlacedBody]:
        return [cap for cap in self.caps if cap.is_shown and len(cap.mesh.triangles)]

    def _nearest(
        self, bodies: Iterable[PlacedBody], whole_start: np.ndarray, whole_end: np.ndarray,
        first: float, last: float,
    ) -> list[tuple[float, Hit]]:  # fmt: skip
        """The nearest face on a stretch of a ray, with its share of the whole ray; at most one."""
        start = whole_start + first * (whole_end - whole_start)
        end = whole_start + last * (whole_end - whole_start)
        best: Hit | None = None
        best_share = 2.0
        for placed in bodies:
            local = [placed.inverse[:3, :3] @ p + placed.inverse[:3, 3] for p in (start, end)]
            share: Any = mutable(0.0)
            cell: Any = mutable(0)
            sub = mutable(0)
            at, coordinates = [0.0] * 3, [0.0] * 3
            is_hit = placed.mesh.locator().IntersectWithLine(  # type: ignore[call-overload]
                local[0], local[1], 0.0, share, at, coordinates, sub, cell
            )
            if is_hit and share.get() < best_share:
                best_share = share.get()
                point = placed.matrix[:3, :3] @ np.array(at) + placed.matrix[:3, 3]
                best = Hit(placed, placed.mesh.face_of(cell.get()), point, cell.get())
        return [] if best is None else [(first + best_share * (last - first), best)]

    def _boxes_hit(self, start: np.ndarray, end: np.ndarray) -> Iterator[PlacedBody]:
        if not self.placed:
            return
        boxes = self.extents.boxes
        direction = end - start
        direction[np.abs(direction) < 1e-12] = 1e-12
        one = (boxes[:, 0] - start) / direction
        other = (boxes[:, 1] - start) / direction
        near = np.minimum(one, other).max(axis=1)
        far = np.maximum(one, other).min(axis=1)
        for index in np.flatnonzero((near <= far + 1e-9) & (far >= 0)):
            placed = self.placed[index]
            if placed.is_shown and len(placed.mesh.triangles):
                yield placed


def _mapper(piece: vtkPolyData, kind: str) -> vtkPolyDataMapper:
    mapper = vtkPolyDataMapper()
    mapper.SetInputData(piece)
    if kind != "lines":
        mapper.SetScalarVisibility(kind != "plain")
        mapper.SetResolveCoincidentTopologyToPolygonOffset()
        mapper.SetRelativeCoincidentTopologyPolygonOffsetParameters(1.0, 1.0)
    return mapper


_NO_SHIFT = (0.0, 0.0, 0.0)

_WHOLE = " whole"
"""Ends the kind of a mapper that a cut does not clip."""

_INNER = 0.62
"""How much darker the inner side of a solid is drawn that has a hole in its skin."""

_FADES = 0.25
"""Opacity of a surface below which its edges step back too."""


def edge_look(opaque: bool) -> vtkProperty:
    """How edges are drawn, on opaque bodies and on others."""
    look = vtkProperty()
    look.SetLighting(False)
    look.SetColor(*_EDGE)
    look.SetOpacity(0.75 if opaque else 0.3)
    return look


def _painted(mesh: BodyMesh, body: Body) -> list[vtkPolyData]:
    """The surface's pieces with a colour per triangle, from the body's and its faces' colours."""
    colours = np.empty((len(mesh.triangles), 4), np.uint8)
    colours[:] = _bytes(body.colour or PLAIN)
    for index, colour in body.face_colours:
        if index + 1 < len(mesh.face_starts):
            colours[mesh.face_starts[index] : mesh.face_starts[index + 1]] = _bytes(colour)
    painted = []
    for first, piece in zip(mesh.piece_starts, mesh.pieces, strict=True):
        copy = vtkPolyData()
        copy.ShallowCopy(piece)
        own = colours[first : first + piece.GetNumberOfPolys()]
        copy.GetCellData().SetScalars(numpy_to_vtk(own, deep=True))
        painted.append(copy)
    return painted


def _mapped(mesh: BodyMesh, field: np.ndarray, scale: Scale) -> list[vtkPolyData]:
    """The surface's pieces with a colour per triangle, from the largest deviation at its corners."""
    worst = field[mesh.triangles].max(axis=1) if len(mesh.triangles) else np.zeros(0)
    colours = scale.colours(worst)
    mapped = []
    for first, piece in zip(mesh.piece_starts, mesh.pieces, strict=True):
        copy = vtkPolyData()
        copy.ShallowCopy(piece)
        own = np.ascontiguousarray(colours[first : first + piece.GetNumberOfPolys()])
        copy.GetCellData().SetScalars(numpy_to_vtk(own, deep=True))
        mapped.append(copy)
    return mapped


def _bytes(colour: Rgba) -> tuple[int, int, int, int]:
    return (
        round(colour.red * 255),
        round(colour.green * 255),
        round(colour.blue * 255),
        round(colour.alpha * 255),
    )
