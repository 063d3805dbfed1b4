"""Profiles of DXF drawings: looked at, resized, and made into parts."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from gondrel.core.errors import KernelRefused, UsageError
from gondrel.core.formats.settings import SendSettings
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling.profiled import extruded, region_face, revolved
from gondrel.core.model.body import Body, BodyKind
from gondrel.core.model.looked import LookedAt
from gondrel.core.model.outline import LineStyle, PartOutline, Point, sampled
from gondrel.core.model.product import Metadatum, Product
from gondrel.core.model.profile import Making, Profile, ProfileWish, Region
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore, write_whole
from gondrel.core.reports.profile import profile_object
from gondrel.core.service.send import send
from gondrel.core.sheet.dxf import to_dxf
from gondrel.core.sheet.dxf_in import read_dxf
from gondrel.core.sheet.relations import relations_of, sizes_of
from gondrel.core.sheet.svg import to_svg
from gondrel.core.sheet.taking import changed, profile_of, taken_curves
from gondrel.core.work import SILENT, Progress

__all__ = [
    "look_at",
    "model_of_profile",
    "outline_of",
    "part_of",
    "profile_command",
    "write_profile",
]

_MOST_NOTES = 40
"""Texts and dimensions of a drawing that are kept as properties of the part."""


def look_at(
    path: str, wish: ProfileWish, pasted: str | None = None, *, progress: Progress = SILENT
) -> LookedAt:
    """Read a drawing and find its profile. Raises InputError, UsageError."""
    progress.at(0.0, "Reading the drawing")
    sheet = read_dxf(path, unit=wish.unit, layout=wish.layout, pasted=pasted)
    progress.at(0.5, "Looking for regions")
    curves = taken_curves(sheet, wish)
    profile, solved = changed(profile_of(curves, wish), wish)
    return LookedAt(sheet, curves, profile, relations_of(profile), sizes_of(profile), solved)


def chosen_regions(profile: Profile, numbers: Sequence[int]) -> list[Region]:
    """Regions by their numbers from 1, all where there are none. Raises UsageError for one that is none."""
    for number in numbers:
        if not 1 <= number <= len(profile.regions):
            raise UsageError(f"there is no region {number}", hint=f"there are {len(profile.regions)}")
    chosen = [profile.regions[n - 1] for n in numbers] or list(profile.regions)
    if not chosen:
        places = ", ".join(f"({a.point[0]:.4g}, {a.point[1]:.4g})" for a in profile.amiss[:4])
        raise UsageError(
            "the drawing has no closed region",
            hint=f"it is open or doubtful at {places}" if places else "choose other layers",
        )
    return chosen


def model_of_profile(looked: LookedAt, wish: ProfileWish, path: str, store: BlobStore) -> Model:
    """A part with a body of each region that is wished for.

    Raises:
        UsageError: when there is no region, or a revolution's axis runs through one.
        KernelRefused: when the kernel makes no sound body of one.
    """
    bodies = []
    for number, region in enumerate(chosen_regions(looked.profile, wish.regions), 1):
        shape = _made(looked.profile, region, wish.making)
        kind = BodyKind.SHEET if wish.making.form == "sheet" else BodyKind.SOLID
        bodies.append(Body(f"region-{number}", kind, f"Region {number}", store.put(shape_to_blob(shape))))
    name = wish.name or Path(path).stem
    told = (text.text for text in looked.sheet.texts[:_MOST_NOTES])
    notes = tuple(Metadatum(f"Drawing note {number}", text) for number, text in enumerate(told, 1))
    part = Product("profile", wish.number or name, name, bodies=tuple(bodies), metadata=notes)
    return Model(products=(part,), roots=("profile",))


def _made(profile: Profile, region: Region, making: Making) -> Any:
    face = region_face(profile, region)
    if making.form == "sheet":
        return face
    if making.form == "extrude":
        return extruded(face, making.depth, both=making.both, draft=math.radians(making.draft))
    origin, along = axis_of(making.axis)
    points = np.concatenate([sampled(profile.curves[n], 1e-3) for n, _ in region.rim.curves])
    away = np.subtract(points, origin)
    side = (along[0] * away[:, 1] - along[1] * away[:, 0]) / math.hypot(*along)
    if side.min() < -1e-6 and side.max() > 1e-6:
        raise UsageError(
            f"the axis of the revolution runs through a region (it reaches from {side.min():.4g} to "
            f"{side.max():.4g} mm)", hint="--set axis=PX,PY,DX,DY puts it elsewhere",
        )  # fmt: skip
    return revolved(face, math.radians(making.angle), origin, along)


def axis_of(text: str) -> tuple[Point, Point]:
    """A point and a direction of an axis. Raises UsageError for what is none."""
    if text in ("x", "y"):
        return (0.0, 0.0), ((1.0, 0.0) if text == "x" else (0.0, 1.0))
    try:
        x, y, a, b = (float(part) for part in text.split(","))
    except ValueError:
        raise UsageError(f"axis is x, y or four numbers, a point and a direction (got {text!r})") from None
    if not math.isfinite(x + y + a + b) or math.hypot(a, b) < 1e-9:
        raise UsageError(f"the axis {text!r} has no direction")
    return (x, y), (a, b)


def part_of(
    path: str, wish: ProfileWish, pasted: str | None, store_folder: str, *, progress: Progress = SILENT
) -> Model:
    """The part that is made of a drawing. Raises InputError, UsageError, KernelRefused."""
    looked = look_at(path, wish, pasted, progress=progress.part(0.0, 0.5))
    return model_of_profile(looked, wish, path, BlobStore(Path(store_folder)))


def outline_of(
    path: str, wish: ProfileWish, pasted: str | None, out: str, *, progress: Progress = SILENT
) -> None:
    """Write the outline of a drawing with its sizes. Raises InputError, UsageError, WriteFailed."""
    write_profile(look_at(path, wish, pasted, progress=progress), out)


def write_profile(looked: LookedAt, out: str) -> None:
    """Write the curves of a profile on the layers they came from, as .dxf in the drawing's unit, or .svg.

    Raises:
        UsageError: for another ending. WriteFailed.
    """
    groups: dict[str, list[int]] = {}
    for number, source in enumerate(looked.profile.sources):
        groups.setdefault(looked.curves[source].layer, []).append(number)
    colours = {layer.name: layer.colour for layer in looked.sheet.layers}
    outlines = [
        PartOutline(
            layer,
            colours.get(layer, "#1F2A33"),
            tuple(looked.profile.curves[n] for n in numbers),
            style=LineStyle.WIDE,
        )
        for layer, numbers in groups.items()
    ]
    if Path(out).suffix.casefold() == ".dxf":
        unit = looked.sheet.unit if looked.sheet.unit in ("mm", "cm", "m", "inch") else "mm"
        version = "R12" if looked.sheet.version == "R12" else "R2010"
        data = to_dxf(outlines, version=version, unit=unit)
    elif Path(out).suffix.casefold() == ".svg":
        data = to_svg(outlines, title=Path(out).stem)
    else:
        raise UsageError("a profile goes back out as .dxf or .svg", hint=Path(out).name)
    write_whole(Path(out), data)


def profile_command(
    path: str, out: str, kind: str, wish: ProfileWish, settings: SendSettings, store: str, *,
    progress: Progress = SILENT,
) -> dict[str, Any]:  # fmt: skip
    """The object of ``gondrel profile``.

    Args:
        out: empty where the drawing is only looked at; kind: empty where the profile goes out flat.

    Raises:
        InputError, UsageError, KernelRefused, OutputError.
    """
    looked = look_at(path, wish, progress=progress.part(0.0, 0.3))
    taken = Counter(curve.layer for curve in looked.curves)
    result = profile_object(looked.sheet, looked.profile, looked.relations, looked.sizes, taken)
    result["solved"] = None if looked.solved is None else {
        "worst": looked.solved.worst, "free": looked.solved.freedom.degrees,
        "too_much": looked.solved.freedom.too_much,
    }  # fmt: skip
    if out and not kind:
        write_profile(looked, out)
        result["sent"] = [{"path": out, "bytes": Path(out).stat().st_size}]
    elif out:
        try:
            model = model_of_profile(looked, wish, path, BlobStore(Path(store)))
        except KernelRefused as error:
            error.file = error.file or path
            raise
        sent = send(model, out, kind, settings, store, progress=progress.part(0.3, 1.0))
        result["sent"] = [{"path": sent.path, "bytes": sent.bytes, "kind": sent.kind}]
        result["proof"] = {
            "verdict": sent.proof.verdict, "unannounced_losses": len(sent.proof.unannounced),
            "volume": sum(facts.volume for facts in sent.facts.values()),
        }  # fmt: skip
    else:
        result["sent"] = []
    return result
