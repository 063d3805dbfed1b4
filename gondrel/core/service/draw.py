"""Drawings and pictures of a model, and of a file: DXF, SVG, PDF, PNG and GLB."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import Any

import numpy as np

from gondrel.core.carriage.forecast import Forecast
from gondrel.core.errors import UsageError
from gondrel.core.formats.settings import SendSettings
from gondrel.core.kernel.derive import mesh_of
from gondrel.core.measuring.masses import mass_of
from gondrel.core.measuring.placed import BodyInPlace, placed_bodies, under
from gondrel.core.measuring.views import VIEWS, flat_outlines, view_frame, view_of
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.boxes import placed_points
from gondrel.core.model.cutting import CutPlane
from gondrel.core.model.drawing import Drawing, DrawnView, DrawWish, ViewFrame
from gondrel.core.model.outline import PartOutline
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore, write_whole
from gondrel.core.reports.drawing_page import DrawingPage, page_html
from gondrel.core.reports.drawn import drawn
from gondrel.core.reports.figures import Figures
from gondrel.core.reports.handover import as_pdf
from gondrel.core.service.intake import receive_by
from gondrel.core.service.queries import asked_for
from gondrel.core.service.receive import measure_all
from gondrel.core.service.send import forecast_for, send
from gondrel.core.service.settings import ReceiveOptions
from gondrel.core.sheet.curve_sizes import whole_length
from gondrel.core.sheet.dxf import to_dxf
from gondrel.core.sheet.placing import layered, placed_views
from gondrel.core.sheet.polylines import PolylineRule, as_polylines
from gondrel.core.sheet.svg import to_svg
from gondrel.core.work import SILENT, Progress

__all__ = [
    "draw_command",
    "draw_model",
    "picture_command",
    "save_drawing",
    "section_frame",
    "write_drawing",
]

_FIGURES = Figures()
_AXES = {"x": (1.0, 0.0, 0.0), "y": (0.0, -1.0, 0.0), "z": (0.0, 0.0, 1.0)}
"""Which side a section across an axis takes away: what stands nearer to who looks at it."""
_STYLE = 1e-9


def draw_command(
    path: str, out: str, options: ReceiveOptions, wish: DrawWish, store: str, *, progress: Progress = SILENT
) -> dict[str, Any]:
    """The object of ``gondrel draw``. Raises InputError, KernelError, UsageError, WriteFailed."""
    model = receive_by(path, store, options, progress=progress.part(0.0, 0.4))
    drawing = draw_model(model, wish, store, progress=progress.part(0.4, 0.9))
    write_drawing(model, drawing, wish, out, store, progress=progress.part(0.9, 1.0))
    return {
        "sent": [{"path": out, "bytes": Path(out).stat().st_size}],
        "views": list(drawing.views),
        "not_drawn": list(drawing.left_out),
        "polyline_deviation": drawing.deviation,
    }


def draw_model(
    model: Model, wish: DrawWish, store_folder: str, products: tuple[str, ...] = (), *,
    progress: Progress = SILENT,
) -> Drawing:  # fmt: skip
    """Draw the views of a model that are wished for.

    Args:
        products: ids of those that are drawn with all in them, beside what queries ask for.

    Raises:
        UsageError, KernelRefused.
    """
    store = BlobStore(Path(store_folder))
    facts = measure_all(model.blobs(), store_folder, progress=progress.part(0.0, 0.1))
    ids = asked_for(model, wish.items, store_folder) if wish.items else list(products) or None
    bodies = [
        each
        for each in (list(placed_bodies(model)) if ids is None else under(model, ids))
        if not each.body.hidden
    ]
    if not bodies:
        raise UsageError("nothing is there to be drawn")
    done: list[tuple[str, tuple[PartOutline, ...]]] = []
    told, left_out = [], dict[str, None]()
    rest = progress.part(0.1, 1.0)
    for number, name in enumerate(wish.views):
        part = rest.part(number / len(wish.views), (number + 1) / len(wish.views))
        if name == "flat":
            flat = flat_outlines(bodies, store)
            done.append((name, flat))
            told.append(_told(name, whole_length(c for o in flat for c in o.curves), 0.0, flat))
            continue
        frame = _frame(name, bodies, facts)
        hidden = wish.hidden and (wish.hidden_iso or name != "iso")
        view, refused = view_of(
            model, bodies, frame, store, facts, hidden=hidden, smooth=wish.smooth, progress=part
        )
        left_out |= dict.fromkeys(refused)
        outlines = layered(view, wish.layers)
        done.append((view.name, outlines))
        told.append(_told(view.name, *_lengths(view), outlines))
    placed, deviation = _polylines(placed_views(done, wish.projection), wish)
    return Drawing(placed, tuple(told), tuple(left_out), deviation)


def _told(name: str, seen: float, hidden: float, outlines: Sequence[PartOutline]) -> dict[str, Any]:
    count = sum(len(outline.curves) for outline in outlines)
    return {"name": name, "visible_length": seen, "hidden_length": hidden, "entities": count}


def _lengths(view: DrawnView) -> tuple[float, float]:
    seen = whole_length(line.curve for line in view.lines if not line.is_hidden)
    return seen, whole_length(line.curve for line in view.lines if line.is_hidden)


def _polylines(
    outlines: tuple[PartOutline, ...], wish: DrawWish
) -> tuple[tuple[PartOutline, ...], float | None]:
    if wish.chord is None and wish.length is None:
        return outlines, None
    rule, worst, made = PolylineRule(wish.chord, wish.length), 0.0, []
    for outline in outlines:
        curves, off = as_polylines(outline.curves, rule)
        made.append(replace(outline, curves=tuple(curves)))
        worst = max(worst, off)
    return tuple(made), worst


def _frame(name: str, bodies: Sequence[BodyInPlace], facts: Mapping[str, BodyFacts]) -> ViewFrame:
    """The frame of a view. Raises UsageError for a name that is none."""
    if name in VIEWS:
        return view_frame(name)
    head, equals, rest = name.partition("=")
    if head != "section" or not equals:
        raise UsageError(
            f"unknown view {name!r}",
            hint=f"{', '.join(VIEWS)}, flat, section=x|y|z or section=PX,PY,PZ,NX,NY,NZ",
        )
    if rest in _AXES:
        return section_frame(CutPlane(_middle(bodies, facts), _AXES[rest]), f"section {rest}")
    try:
        x, y, z, a, b, c = (float(part) for part in rest.split(","))
        plane = CutPlane((x, y, z), (a, b, c))
        _ = plane.unit
    except ValueError as error:
        raise UsageError(
            f"section wants x, y, z or six numbers, a point and a direction (got {rest!r})", hint=str(error)
        ) from None
    return section_frame(plane, "section")


def section_frame(plane: CutPlane, name: str) -> ViewFrame:
    """The view against the side that a plane takes away, up as near to +z as it can be."""
    normal = plane.unit
    up = np.array([0.0, 0.0, 1.0]) if abs(normal[2]) < 1 - _STYLE else np.array([0.0, 1.0, 0.0])
    right = np.cross(up, normal)
    right /= np.linalg.norm(right)
    up = np.cross(normal, right)
    x, y = tuple(right.tolist()), tuple(up.tolist())
    return ViewFrame(name, (x[0], x[1], x[2]), (y[0], y[1], y[2]), plane)


def _middle(bodies: Sequence[BodyInPlace], facts: Mapping[str, BodyFacts]) -> tuple[float, float, float]:
    corners = []
    for each in bodies:
        if each.body.blob in facts:
            box = np.array(facts[each.body.blob].bbox).reshape(2, 3)
            grid = np.array(
                [[box[i, 0], box[j, 1], box[k, 2]] for i in (0, 1) for j in (0, 1) for k in (0, 1)]
            )
            matrix = np.asarray(each.placement, float).reshape(1, 4, 4)
            corners.append(placed_points(np.repeat(matrix, 8, axis=0), grid))
    if not corners:
        raise UsageError("nothing that is drawn has a size to put a section through")
    points = np.concatenate(corners)
    x, y, z = ((points.min(axis=0) + points.max(axis=0)) / 2).tolist()
    return x, y, z


def save_drawing(
    model: Model, drawing: Drawing, wish: DrawWish, out: str, store: str, parts_list: bool, *,
    progress: Progress = SILENT,
) -> None:  # fmt: skip
    """Write a drawing as write_drawing does, with a parts list where that is wanted."""
    write_drawing(model, drawing, wish, out, store, parts_list=parts_list, progress=progress)


def write_drawing(
    model: Model, drawing: Drawing, wish: DrawWish, out: str, store_folder: str, *,
    parts_list: bool = False, progress: Progress = SILENT,
) -> None:  # fmt: skip
    """Write a drawing by the ending of its name: .dxf, .svg or .pdf.

    Raises:
        UsageError: for another ending or an unknown sheet. WriteFailed.
    """
    suffix = Path(out).suffix.casefold()
    if suffix == ".dxf":
        data = to_dxf(drawing.outlines, version=wish.version, unit=wish.unit)
    elif suffix == ".svg":
        data = to_svg(drawing.outlines, title=_title(model))
    elif suffix == ".pdf":
        data = as_pdf(page_html(_page(model, drawing, wish, store_folder, parts_list, progress)))
    else:
        raise UsageError("a drawing is written as .dxf, .svg or .pdf", hint=Path(out).name)
    write_whole(Path(out), data)


def _title(model: Model) -> str:
    root = model.product(model.roots[0]) if model.roots else None
    return " ".join(dict.fromkeys(t for t in (root.number, root.label) if t)) if root else "Nothing"


def _page(
    model: Model, drawing: Drawing, wish: DrawWish, store: str, parts_list: bool, progress: Progress
) -> DrawingPage:
    root = model.product(model.roots[0])
    fields = [(label, text) for label, text in wish.fields if text]
    known = {label for label, _ in fields}
    usual = (("Number", root.number), ("Revision", root.revision), ("Date", f"{date.today():%Y-%m-%d}"))
    fields = [*((label, text) for label, text in usual if text and label not in known), *fields]
    parts: list[Sequence[str]] = []
    if parts_list and len(model.products) > 1:
        counts = model.quantities
        bodied = [p for p in model.products if p.bodies and not p.is_reference and counts[p.id]]
        parts = [("pos", "number", "name", "qty", "material")]
        parts += [
            (str(n), p.number, p.label, str(counts[p.id]), p.material.name if p.material else "")
            for n, p in enumerate(bodied, 1)
        ]
        if not any(row[4] for row in parts[1:]):
            parts = [row[:4] for row in parts]
    remarks = []
    if drawing.left_out:
        remarks.append(f"Not drawn: {', '.join(drawing.left_out)}")
    figures = _page_figures(model, wish, store, progress) if parts_list else []
    return DrawingPage(
        drawing.outlines, _title(model), fields, parts, figures, wish.projection, wish.sheet, remarks
    )


def _page_figures(model: Model, wish: DrawWish, store: str, progress: Progress) -> list[Sequence[str]]:
    """What is there, and what comes across where the file is sent as something."""
    facts = measure_all(model.blobs(), store)
    bodies = list(placed_bodies(model))
    mass = mass_of(bodies, facts)
    rows: list[Sequence[str]] = [("thing", "figure")]
    rows.append(("Items", f"{len(model.products):,}"))
    rows.append(("Bodies in place", f"{len(bodies):,}"))
    rows.append(("Volume", _FIGURES.volume(mass.volume)))
    rows.append(("Area", _FIGURES.area(mass.area)))
    if not wish.kind:
        return rows
    forecast: Forecast = forecast_for(model, wish.kind, SendSettings(), store, progress=progress)
    rows = [(f"as {wish.kind}", "items", "fate"), *((a, b, "") for a, b in rows[1:])]
    for thing in dict.fromkeys(entry.item.thing for entry in forecast.entries):
        before, after = forecast.counts(thing)
        rows.append((thing, f"{before:,} → {after:,}", forecast.fate(thing)))
    return rows


def picture_command(
    path: str, out: str, options: ReceiveOptions, wish: DrawWish, size: tuple[int, int], is_clear: bool,
    store: str, *, progress: Progress = SILENT,
) -> dict[str, Any]:  # fmt: skip
    """The object of ``gondrel picture``: PNG, SVG, PDF or GLB by the ending.

    Args:
        size: of a PNG, in picture elements; is_clear: whether its ground is left transparent.

    Raises:
        UsageError: for another ending. InputError, KernelError, WriteFailed.
    """
    model = receive_by(path, store, options, progress=progress.part(0.0, 0.4))
    suffix, rest = Path(out).suffix.casefold(), progress.part(0.4, 1.0)
    if suffix == ".png":
        folder = BlobStore(Path(store))
        for blob in rest.each(list(model.blobs()), "Drawing"):
            mesh_of(folder, blob)
        write_whole(Path(out), drawn(model, folder, view=wish.views[0], size=size, is_clear=is_clear))
    elif suffix == ".glb":
        send(model, out, "gltf", SendSettings(force=True), store, progress=rest)
    elif suffix in (".svg", ".pdf"):
        drawing = draw_model(model, wish, store, progress=rest)
        write_drawing(model, drawing, wish, out, store, parts_list=suffix == ".pdf")
    else:
        raise UsageError("a picture is kept as .png, .svg, .pdf or .glb", hint=Path(out).name)
    return {"sent": [{"path": out, "bytes": Path(out).stat().st_size}]}
