"""What is taken of a drawing, and the profile that it makes with sizes of new values."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace

from gondrel.core.errors import UsageError
from gondrel.core.model.flat_sheet import Sheet, SheetCurve
from gondrel.core.model.profile import Amiss, Profile, ProfileWish, Region
from gondrel.core.model.relations import RELATIONS, Relation, Size, Solved
from gondrel.core.sheet.regions import find_regions
from gondrel.core.sheet.relations import relations_of, sizes_of
from gondrel.core.sheet.solving import resized

__all__ = ["changed", "is_centre_line", "kept_relations", "profile_of", "taken_curves"]

_CENTRE = ("center", "centre", "dashdot", "phantom", "chain")


def is_centre_line(line_type: str) -> bool:
    """Whether a line type is one of centre lines. Source: the usual names of line types, from memory."""
    return any(word in line_type.casefold() for word in _CENTRE)


def taken_curves(sheet: Sheet, wish: ProfileWish) -> tuple[SheetCurve, ...]:
    """The curves of a drawing on the layers, of the kinds and from the blocks that are wished for.

    Without a choice of layers hidden ones stay away, and so do centre lines.

    Raises:
        UsageError: for a layer or a kind that is not there.
    """
    names = {layer.name.casefold(): layer.name for layer in sheet.layers}
    for name in wish.layers or ():
        if name.casefold() not in names:
            raise UsageError(f"there is no layer {name!r}", hint=", ".join(names.values()))
    there = {curve.kind for curve in sheet.curves}
    for kind in wish.kinds or ():
        if kind.upper() not in there:
            raise UsageError(f"there is no {kind}", hint=", ".join(sorted(there)))
    layers = {name.casefold() for name in wish.layers} if wish.layers is not None else None
    hidden = {layer.name.casefold() for layer in sheet.layers if not layer.is_shown}
    kinds = {kind.upper() for kind in wish.kinds} if wish.kinds is not None else None
    return tuple(
        curve
        for curve in sheet.curves
        if (curve.layer.casefold() in layers if layers is not None else _is_usual(curve, hidden))
        and (kinds is None or curve.kind in kinds)
        and not (wish.blocks == "none" and curve.block)
    )


def _is_usual(curve: SheetCurve, hidden: set[str]) -> bool:
    return curve.layer.casefold() not in hidden and not is_centre_line(curve.line_type)


def profile_of(curves: Sequence[SheetCurve], wish: ProfileWish) -> Profile:
    """The regions of curves; those of placed blocks each by itself."""
    if wish.blocks != "placed":
        return find_regions([each.curve for each in curves], wish.within)
    groups: defaultdict[int, list[int]] = defaultdict(list)
    for place, curve in enumerate(curves):
        groups[curve.group if curve.block else 0].append(place)
    whole: Profile | None = None
    for places in groups.values():
        found = find_regions([curves[place].curve for place in places], wish.within)
        found = replace(found, sources=tuple(places[n] for n in found.sources))
        whole = found if whole is None else _beside(whole, found)
    return whole if whole is not None else find_regions([], wish.within)


def _beside(one: Profile, other: Profile) -> Profile:
    """Two profiles as one, nothing joined between them."""
    curves, nodes = len(one.curves), len(one.nodes)

    def moved(region: Region) -> Region:
        loops = [
            replace(loop, curves=tuple((n + curves, back) for n, back in loop.curves))
            for loop in region.loops
        ]
        return Region(loops[0], tuple(loops[1:]))

    ends = tuple((a + nodes, b + nodes) if a >= 0 else (a, b) for a, b in other.ends)
    amiss = tuple(Amiss(a.kind, a.point, tuple(n + curves for n in a.curves)) for a in other.amiss)
    return Profile(
        (*one.curves, *other.curves),
        (*one.sources, *other.sources),
        (*one.nodes, *other.nodes),
        (*one.ends, *ends),
        one.within,
        max(one.widest, other.widest),
        tuple(sorted((*one.regions, *map(moved, other.regions)), key=lambda r: -r.rim.area)),
        (*one.amiss, *amiss),
    )


def kept_relations(profile: Profile, dropped: Sequence[str]) -> tuple[Relation, ...]:
    """The relations of a profile without kinds, or single ones by their number from 1, that are dropped.

    Raises:
        UsageError: for what is neither a kind nor a number there is.
    """
    found = relations_of(profile)
    for word in dropped:
        if word not in RELATIONS and not (word.isdigit() and 1 <= int(word) <= len(found)):
            raise UsageError(
                f"no relation is called {word!r}", hint=f"{', '.join(RELATIONS)}, or 1 to {len(found)}"
            )
    numbers = {int(word) - 1 for word in dropped if word.isdigit()}
    return tuple(r for n, r in enumerate(found) if r.kind not in dropped and n not in numbers)


def changed(profile: Profile, wish: ProfileWish) -> tuple[Profile, Solved | None]:
    """The profile with its sizes as wished for, its regions found anew.

    Raises:
        UsageError: for a size or a dropped relation that is not there, or a size that can't be had with
            the relations that are kept.
    """
    if not wish.changes and not wish.dropped:
        return profile, None
    kept = kept_relations(profile, wish.dropped)
    if not wish.changes:
        return profile, None
    sizes = {size.name: size for size in sizes_of(profile)}
    wanted: list[Size] = []
    for name, value in wish.changes:
        if name not in sizes:
            raise UsageError(f"no size is called {name!r}", hint=", ".join(sizes) or "there is none")
        size = sizes[name]
        wanted.append(replace(size, value=math.radians(value) if size.kind == "angle" else value))
    made, solved = resized(profile, kept, wanted)
    again = find_regions(made.curves, wish.within)
    sources = tuple(profile.sources[n] for n in again.sources)
    return replace(again, sources=sources), solved
