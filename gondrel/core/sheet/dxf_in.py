"""DXF drawings as exact curves on layers, through ezdxf.

Source: DXF reference (entities, $INSUNITS, $MEASUREMENT, object coordinate systems).
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from gondrel.core.errors import GondrelError, LimitExceeded, MalformedFile, UnsupportedContent, UsageError
from gondrel.core.model.flat_sheet import Sheet, SheetCurve, SheetLayer, SheetText
from gondrel.core.model.outline import Arc, Curve, FlatEllipse, FlatLine, Point, Spline
from gondrel.core.model.provenance import Note
from gondrel.core.model.units import BY_KEY
from gondrel.core.sheet.dxf_open import open_document, sound_text, what_it_said
from gondrel.core.work.files import checked_file
from gondrel.core.work.late import late

__all__ = ["read_dxf", "sheet_of"]

_interpolate = late("scipy.interpolate")

_UNITS = {
    1: "inch", 2: "foot", 4: "mm", 5: "cm", 6: "m", 7: "km", 9: "mil", 13: "um",
}  # fmt: skip
"""Units of $INSUNITS that have a key; those of surveyors and astronomers are not known."""
_OTHERS = {3: 1609344.0, 8: 2.54e-5, 10: 914.4, 11: 1e-7, 12: 1e-6, 14: 100.0, 15: 10_000.0, 16: 100_000.0}
_MOST, _DEEPEST = 500_000, 32
_TURN = 2 * math.pi
_SMALL_PART, _LARGE_PART = 0.5, 20_000.0
"""Sizes, mm, between which a drawing without a unit is taken to be one of a part."""
_TEXTS = {"TEXT", "MTEXT", "ATTRIB", "ATTDEF"}


def read_dxf(path: str, *, unit: str = "", layout: str = "", pasted: str | None = None) -> Sheet:
    """One layout of a DXF file, text or binary, R12 and later; damage is put right where it can be.

    Args:
        unit: key of the unit to take its numbers in; what the file says, or a proposal, without it.
        layout: name of the layout; the model space without it.
        pasted: text of a drawing, in place of the file; path is then only its name.

    Raises:
        InputError: when it can't be opened. UnsupportedContent: for DWG and other files.
        MalformedFile: when it can't be read. LimitExceeded: when it has too many entities.
        UsageError: for an unknown unit or layout.
    """
    data = checked_file(path).read_bytes() if pasted is None else pasted.encode("utf-8", "surrogateescape")
    if data[:4] == b"AC10":
        raise UnsupportedContent(
            "a DWG drawing can't be read", file=path, hint="save it as DXF in the program that made it"
        )
    document, notes = open_document(data, path)
    return sheet_of(document, path, notes, unit=unit, layout=layout)


def sheet_of(document: Any, path: str, notes: Sequence[Note], *, unit: str = "", layout: str = "") -> Sheet:
    """A layout of an opened drawing; raises as read_dxf does."""
    if unit and unit not in BY_KEY:
        raise UsageError(f"unknown unit {unit!r}", hint=f"one of {', '.join(BY_KEY)}")
    try:
        return _sheet_of(document, path, notes, unit, layout)
    except GondrelError as error:
        error.file = error.file or path
        raise
    except RecursionError:
        raise MalformedFile("its blocks hold one another", file=path) from None
    except Exception as error:  # whatever a damaged file brings the library to
        raise MalformedFile(f"its entities can't be read: {what_it_said(error)}", file=path) from None


def _sheet_of(document: Any, path: str, notes: Sequence[Note], unit: str, layout: str) -> Sheet:
    named = {sound_text(each): each for each in document.layout_names_in_taborder()}
    layouts = tuple(named)
    name = layout or layouts[0]
    if name not in layouts:
        raise UsageError(f"there is no layout {name!r}", hint=", ".join(layouts))
    reading = _Reading(document)
    reading.take(document.layout(named[name]))
    key, factor, proposal = _unit(document, reading.curves, unit)
    told = [*notes, *reading.notes()]
    if proposal:
        told.append(Note("unit-proposed", proposal))
    layers = _layers(document, reading)
    curves = tuple(replace(each, curve=_scaled(each.curve, factor)) for each in reading.curves)
    texts = tuple(_scaled_text(text, factor) for text in reading.texts)
    release = document.acad_release
    return Sheet(name, layouts, release, key, bool(proposal), factor, curves, texts, layers, tuple(told))


def _scaled_text(text: SheetText, k: float) -> SheetText:
    value = text.value if text.value is None or text.kind == "angle" else text.value * k
    return replace(text, at=(text.at[0] * k, text.at[1] * k), height=text.height * k, value=value)


def _layers(document: Any, reading: _Reading) -> tuple[SheetLayer, ...]:
    made, seen = [], set()
    for layer in document.layers:
        name = sound_text(layer.dxf.name)
        seen.add(name.casefold())
        is_shown = not (layer.is_off() or layer.is_frozen())
        made.append(
            SheetLayer(
                name,
                _colour(layer),
                sound_text(str(layer.dxf.get("linetype", ""))),
                reading.counts[name.casefold()],
                is_shown,
            )
        )
    for curve in reading.curves:  # an entity may name a layer that is in no table
        if curve.layer.casefold() not in seen:
            seen.add(curve.layer.casefold())
            made.append(SheetLayer(curve.layer, "#1F2A33", "", reading.counts[curve.layer.casefold()]))
    return tuple(made)


def _colour(entity: Any, default: str = "#1F2A33") -> str:
    from ezdxf.colors import aci2rgb, int2rgb

    if entity.dxf.hasattr("true_color"):
        return "#{:02X}{:02X}{:02X}".format(*int2rgb(entity.dxf.true_color))
    index = abs(int(entity.dxf.get("color", 256)))
    if not 1 <= index <= 255 or index == 7:  # by layer, by block, or what stands out from the ground
        return default
    return "#{:02X}{:02X}{:02X}".format(*aci2rgb(index))


def _unit(document: Any, curves: Sequence[SheetCurve], unit: str) -> tuple[str, float, str]:
    """Key, millimetres, and what the proposal rests on; empty where the unit is said."""
    if unit:
        return unit, BY_KEY[unit].mm, ""
    said = int(document.header.get("$INSUNITS", 0) or 0)
    if said in _UNITS:
        return _UNITS[said], BY_KEY[_UNITS[said]].mm, ""
    if said in _OTHERS:
        return f"{_OTHERS[said]:g} mm", _OTHERS[said], ""
    points = np.array([p for c in curves for p in _rough(c.curve)] or [(0.0, 0.0)])
    size = float(np.ptp(points, axis=0).max())
    imperial = document.header.get("$MEASUREMENT", 1) == 0 and document.acad_release != "R12"
    order = ("inch", "mm", "m") if imperial else ("mm", "m", "inch")
    fits = [k for k in order if _SMALL_PART <= size * BY_KEY[k].mm <= _LARGE_PART]
    key = fits[0] if fits else order[0]
    why = "its header calls for inches" if imperial else "its header calls for no inches"
    text = (
        f"the file says no unit; {key} is taken: {why}, and it would be {size * BY_KEY[key].mm:.4g} mm wide"
    )
    return key, BY_KEY[key].mm, text


def _rough(curve: Curve) -> list[Point]:
    if isinstance(curve, FlatLine):
        return [curve.start, curve.end]
    if isinstance(curve, Spline):
        return list(curve.poles)
    assert isinstance(curve, Arc | FlatEllipse)
    reach = curve.radius if isinstance(curve, Arc) else math.hypot(*curve.major)
    (x, y) = curve.centre
    return [(x - reach, y - reach), (x + reach, y + reach)]


def _scaled(curve: Curve, k: float) -> Curve:
    if k == 1.0:
        return curve
    if isinstance(curve, FlatLine):
        (a, b), (c, d) = curve.start, curve.end
        return FlatLine((a * k, b * k), (c * k, d * k))
    if isinstance(curve, Spline):
        return replace(curve, poles=tuple((x * k, y * k) for x, y in curve.poles))
    assert isinstance(curve, Arc | FlatEllipse)
    centre = curve.centre[0] * k, curve.centre[1] * k
    if isinstance(curve, Arc):
        return replace(curve, centre=centre, radius=curve.radius * k)
    return replace(curve, centre=centre, major=(curve.major[0] * k, curve.major[1] * k))


@dataclass(slots=True)
class _Placed:
    """By what an entity is placed: blocks, the layer and colour that it takes from them, its group."""

    blocks: tuple[str, ...] = ()
    layer: str = ""
    colour: str = ""
    group: int = 0


@dataclass(slots=True)
class _Reading:
    document: Any
    curves: list[SheetCurve] = field(default_factory=list)
    texts: list[SheetText] = field(default_factory=list)
    counts: Counter[str] = field(default_factory=Counter)
    left: Counter[str] = field(default_factory=Counter)
    doubts: Counter[str] = field(default_factory=Counter)
    seen: int = 0
    groups: int = 0
    brings: dict[str, int] = field(default_factory=dict)
    colours: dict[str, str] = field(default_factory=dict)
    line_types: dict[str, str] = field(default_factory=dict)

    def notes(self) -> Iterator[Note]:
        """What was left or changed, by kind and count."""
        for kind, count in sorted(self.left.items()):
            yield Note("entity-left", f"{count} {kind} not taken: no curve of a profile")
        for what, count in sorted(self.doubts.items()):
            yield Note("entity-doubtful", f"{count} {what}")

    def take(self, layout: Any) -> None:
        for layer in self.document.layers:
            name = sound_text(layer.dxf.name).casefold()
            self.colours[name] = _colour(layer)
            self.line_types[name] = sound_text(str(layer.dxf.get("linetype", "")))
        for entity in layout:
            self._entity(entity, _Placed(), 0)

    def _entity(self, entity: Any, placed: _Placed, depth: int) -> None:
        self.seen += 1
        if self.seen > _MOST:
            raise LimitExceeded(f"it has more than {_MOST:,} entities")
        kind = sound_text(entity.dxftype())
        layer = sound_text(str(entity.dxf.get("layer", "0")))
        if placed.layer and layer == "0":
            layer = placed.layer
        if depth == 0:
            self.counts[layer.casefold()] += 1
        if kind == "INSERT":
            self._insert(entity, layer, placed, depth)
        elif kind in _TEXTS:
            self._text(entity, kind, layer)
        elif kind == "DIMENSION":
            self._dimension(entity, layer)
        else:
            self._drawn(entity, kind, layer, placed, depth)

    def _insert(self, insert: Any, layer: str, placed: _Placed, depth: int) -> None:
        if depth >= _DEEPEST:
            raise MalformedFile("its blocks hold one another, or lie more than 32 deep")
        count = max(int(insert.mcount), 1)
        if self.seen + max(count, self._brought(insert, depth)) > _MOST:
            raise LimitExceeded(f"its blocks bring more than {_MOST:,} entities")
        for attribute in insert.attribs:
            self._text(attribute, "ATTRIB", layer)
        if insert.block() is None:
            self.doubts[f"block placed that is not there ({sound_text(insert.dxf.name)})"] += 1
            return
        colour = _colour(insert, placed.colour or self.colours.get(layer.casefold(), "#1F2A33"))
        for one in insert.multi_insert() if count > 1 else (insert,):
            self.groups += 1
            group = placed.group or self.groups
            inner = _Placed((*placed.blocks, sound_text(str(insert.dxf.name))), layer, colour, group)

            def skipped(entity: Any, reason: str) -> None:
                self.doubts[f"{entity.dxftype()} in a block that can't be placed ({reason})"] += 1

            for entity in one.virtual_entities(skipped_entity_callback=skipped):
                self._entity(entity, inner, depth + 1)

    def _brought(self, insert: Any, depth: int) -> int:
        """How many entities a placed block brings with the blocks in it, before any of them is made."""
        block = insert.block()
        if block is None or depth >= _DEEPEST:
            return 0
        if block.name not in self.brings:
            self.brings[block.name] = 0  # what a block that holds itself brings is found by its depth
            self.brings[block.name] = sum(
                1 + (self._brought(inner, depth + 1) if inner.dxftype() == "INSERT" else 0)
                for inner in block
            )
        return max(int(insert.mcount), 1) * self.brings[block.name]

    def _drawn(self, entity: Any, kind: str, layer: str, placed: _Placed, depth: int) -> None:
        try:
            curves = list(self._curves(entity, kind))
        except (ValueError, TypeError, ArithmeticError, IndexError, KeyError, AttributeError) as error:
            self.doubts[f"{kind} that makes no sense ({what_it_said(error)[:60]})"] += 1
            return
        if not curves:
            return
        own = entity.dxf.hasattr("true_color") or 1 <= int(entity.dxf.get("color", 256)) <= 255
        colour = self.colours.get(layer.casefold(), "#1F2A33")
        if own:
            colour = _colour(entity, colour)
        elif int(entity.dxf.get("color", 256)) == 0 and placed.colour:
            colour = placed.colour
        line_type = sound_text(str(entity.dxf.get("linetype", "BYLAYER")))
        if line_type.upper() == "BYLAYER":
            line_type = self.line_types.get(layer.casefold(), "")
        group = placed.group
        if not group and len(curves) > 1:
            self.groups += 1
            group = self.groups
        for curve in curves:
            self.curves.append(SheetCurve(curve, kind, layer, colour, line_type, placed.blocks, group))

    def _curves(self, entity: Any, kind: str) -> Iterator[Curve]:
        from ezdxf.upright import upright

        if kind in ("CIRCLE", "ARC", "ELLIPSE", "LWPOLYLINE", "POLYLINE", "SOLID", "TRACE"):
            entity = entity.copy()
            upright(entity)
            if kind != "POLYLINE" or entity.is_2d_polyline:
                axis = entity.dxf.get("extrusion", (0, 0, 1))
                if abs(axis[0]) > 1e-9 or abs(axis[1]) > 1e-9:
                    self.doubts[f"{kind} that does not lie in the plane of the sheet, left out"] += 1
                    return
        make = getattr(self, f"_{kind.lower().lstrip('3')}", None)
        if make is None:
            self.left[kind] += 1
            return
        for curve in make(entity):
            if _is_sound(curve):
                yield curve
            else:
                self.doubts[f"{kind} without length, or with numbers that are none"] += 1

    def _flat(self, *points: Any) -> list[Point]:
        made = []
        for point in points:
            if len(point) > 2 and abs(point[2]) > 1e-9:
                self.doubts["point above or below the sheet, laid into it"] += 1
            made.append((float(point[0]), float(point[1])))
        return made

    # --- one method for each kind of entity -----------------------------------------------------------

    def _line(self, e: Any) -> Iterator[Curve]:
        yield FlatLine(*self._flat(e.dxf.start, e.dxf.end))

    def _circle(self, e: Any) -> Iterator[Curve]:
        yield Arc(self._flat(e.dxf.center)[0], float(e.dxf.radius), 0.0, _TURN)

    def _arc(self, e: Any) -> Iterator[Curve]:
        start, end = math.radians(e.dxf.start_angle), math.radians(e.dxf.end_angle)
        yield Arc(self._flat(e.dxf.center)[0], float(e.dxf.radius), *_ahead(start, end))

    def _ellipse(self, e: Any) -> Iterator[Curve]:
        centre, major = self._flat(e.dxf.center, e.dxf.major_axis)
        ratio, (start, end) = float(e.dxf.ratio), _ahead(e.dxf.start_param, e.dxf.end_param)
        if abs(ratio) > 1.0:  # the narrow axis is the wide one
            major, ratio = (-major[1] * ratio, major[0] * ratio), 1.0 / ratio
            start, end = start - math.pi / 2, end - math.pi / 2
        if ratio < 0.0:
            ratio, start, end = -ratio, -end, -start
        yield FlatEllipse(centre, major, ratio, start, end)

    def _spline(self, e: Any) -> Iterator[Curve]:
        if not len(e.control_points):
            self.doubts["SPLINE given by points to pass through only; laid through them"] += 1
        tool = e.construction_tool()
        points = self._flat(*tool.control_points)
        weights = tuple(float(w) for w in tool.weights())
        yield _clamped(int(tool.degree), [float(k) for k in tool.knots()], points, weights)

    _helix = _spline

    def _lwpolyline(self, e: Any) -> Iterator[Curve]:
        points = [(float(x), float(y)) for x, y in e.get_points("xy")]
        bulges = [float(b[0]) for b in e.get_points("b")]
        if abs(e.dxf.get("elevation", 0.0)) > 1e-9:
            self.doubts["LWPOLYLINE above or below the sheet, laid into it"] += 1
        if any(width for pair in e.get_points("se") for width in pair):
            self.doubts["LWPOLYLINE with a width, taken along its middle"] += 1
        yield from _bulged(points, bulges, bool(e.closed))

    def _polyline(self, e: Any) -> Iterator[Curve]:
        if e.is_polygon_mesh or e.is_poly_face_mesh:
            self.left["POLYLINE of a mesh"] += 1
            return
        points = self._flat(*(vertex.dxf.location for vertex in e.vertices))
        bulges = [float(v.dxf.get("bulge", 0.0)) if e.is_2d_polyline else 0.0 for v in e.vertices]
        yield from _bulged(points, bulges, bool(e.is_closed))

    def _solid(self, e: Any) -> Iterator[Curve]:
        a, b, c, d = self._flat(*(e.dxf.get(f"vtx{n}", e.dxf.get("vtx2", (0, 0, 0))) for n in range(4)))
        corners = [a, b, d, c] if c != d else [a, b, c]
        yield from _bulged(corners, [0.0] * len(corners), True)

    _trace = _solid

    def _dface(self, e: Any) -> Iterator[Curve]:
        corners = self._flat(*(e.dxf.get(f"vtx{n}", e.dxf.get("vtx2", (0, 0, 0))) for n in range(4)))
        yield from _bulged(list(dict.fromkeys(corners)), [0.0] * 4, True)

    def _mline(self, e: Any) -> Iterator[Curve]:
        for part in e.virtual_entities():
            yield from self._curves(part, part.dxftype())

    # --- texts ----------------------------------------------------------------------------------------

    def _text(self, e: Any, kind: str, layer: str) -> None:
        text = sound_text(e.plain_text() if kind == "MTEXT" else str(e.dxf.get("text", "")))
        height = float(e.dxf.get("char_height" if kind == "MTEXT" else "height", 2.5) or 2.5)
        at = e.dxf.get("insert", (0, 0, 0))
        if text.strip():
            self.texts.append(SheetText("text", text.strip(), (float(at[0]), float(at[1])), height, layer))

    def _dimension(self, e: Any, layer: str) -> None:
        measured, value = e.get_measurement(), None
        if isinstance(measured, int | float):
            value = float(measured)
        own = sound_text(str(e.dxf.get("text", "") or "<>"))
        shown = "" if value is None else f"{value:g}"
        at = e.dxf.get("text_midpoint", e.dxf.get("defpoint", (0, 0, 0)))
        kind = "angle" if int(e.dxf.get("dimtype", 0)) & 7 in (2, 5) else "dimension"
        self.texts.append(
            SheetText(kind, own.replace("<>", shown), (float(at[0]), float(at[1])), 2.5, layer, value)
        )


def _ahead(start: float, end: float) -> tuple[float, float]:
    """A stretch that runs on from its start, at most one turn."""
    turn = (end - start) % _TURN
    return start, start + (turn if turn > 1e-12 else _TURN)


def _is_sound(curve: Curve) -> bool:
    if isinstance(curve, FlatLine):
        sizes = [*curve.start, *curve.end, 1.0]
        return bool(np.isfinite(sizes).all()) and math.dist(curve.start, curve.end) > 0.0
    if isinstance(curve, Spline):
        finite = np.isfinite([*np.ravel(curve.poles), *curve.knots, *curve.weights]).all()
        return bool(finite) and float(np.ptp(curve.poles, axis=0).max()) > 0.0
    assert isinstance(curve, Arc | FlatEllipse)
    sizes = [*curve.centre, curve.start, curve.end]
    if isinstance(curve, Arc):
        return bool(np.isfinite([*sizes, curve.radius]).all()) and curve.radius > 0.0
    return bool(np.isfinite([*sizes, *curve.major]).all()) and math.hypot(*curve.major) > 0.0 < curve.ratio


def _bulged(points: Sequence[Point], bulges: Sequence[float], is_closed: bool) -> Iterator[Curve]:
    """Lines and arcs of a polyline. Source: DXF reference: a bulge is the tangent of a quarter of the angle
    of an arc, negative where it runs clockwise."""
    count = len(points) if is_closed else len(points) - 1
    for place in range(count):
        start, end, bulge = points[place], points[(place + 1) % len(points)], bulges[place]
        if start == end:
            continue
        if abs(bulge) < 1e-12:
            yield FlatLine(start, end)
            continue
        if bulge < 0.0:
            start, end = end, start
        bulge = abs(bulge)
        chord = np.subtract(end, start)
        across = np.array([-chord[1], chord[0]])
        centre = (np.add(start, end) + across * (1 - bulge**2) / (2 * bulge)) / 2
        first = math.atan2(start[1] - centre[1], start[0] - centre[0])
        radius = float(np.linalg.norm(chord)) * (1 + bulge**2) / (4 * bulge)
        yield Arc((float(centre[0]), float(centre[1])), radius, first, first + 4 * math.atan(bulge))


def _clamped(
    degree: int, knots: list[float], points: Sequence[Point], weights: tuple[float, ...]
) -> Spline:
    """A B-spline whose ends are those of its first and last pole.

    Source: knot insertion by Boehm's rule, through SciPy. Raises ValueError for knots that are none.
    """
    count = len(points)
    if degree < 1 or len(knots) != count + degree + 1 or np.any(np.diff(knots) < 0):
        raise ValueError("knots that do not fit")
    ends = knots[degree], knots[count]
    if not ends[0] < ends[1]:
        raise ValueError("no stretch between its knots")
    scale = np.array(weights) if weights else np.ones(count)
    if (scale <= 0.0).any():
        raise ValueError("weights that are not positive")
    poles = np.column_stack([np.array(points) * scale[:, None], scale])
    if knots[0] == ends[0] and knots[-1] == ends[1]:
        return Spline(degree, tuple(knots), tuple(points), weights)
    spline = _interpolate.BSpline(np.array(knots), poles, degree)
    for end in ends:
        for _ in range(degree - int(np.count_nonzero(np.abs(spline.t - end) == 0.0))):
            spline = spline.insert_knot(end)
    first = int(np.searchsorted(spline.t, ends[0], "left"))
    last = int(np.searchsorted(spline.t, ends[1], "right"))
    inner = spline.t[first:last]
    inner = np.concatenate([[inner[0]] * (degree + 1 - int((inner == inner[0]).sum())), inner])
    inner = np.concatenate([inner, [inner[-1]] * (degree + 1 - int((inner == inner[-1]).sum()))])
    chosen = spline.c[max(first - 1, 0) : max(first - 1, 0) + len(inner) - degree - 1]
    flat = chosen[:, :2] / chosen[:, 2:]
    rational = tuple(chosen[:, 2].tolist()) if weights else ()
    return Spline(degree, tuple(inner.tolist()), tuple((x, y) for x, y in flat.tolist()), rational)
