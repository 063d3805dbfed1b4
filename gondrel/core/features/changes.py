"""Changes of a part recipe: sizes, kinds and places of features, patterns, features left out."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from gondrel.core.errors import UsageError
from gondrel.core.model.geometry import Vector, vector_of
from gondrel.core.model.outline import Arc, Curve, FlatLine
from gondrel.core.model.part_recipe import PartPattern, PartRecipe, PartStep

__all__ = ["RecipeChange", "change_of", "changed_recipe", "hole_outline"]

_HOLES = ("hole", "counterbore", "countersink")
_WORDS = ("remove", "move", "kind")
_ALIKE = 1e-6
_MOST = 1000


@dataclass(frozen=True, slots=True)
class RecipeChange:
    """One change: of the feature of a number, what of it, and its new value."""

    number: int
    what: str
    value: str = ""


def change_of(text: str) -> RecipeChange:
    """A change from text: "2 diameter 10", "3 kind counterbore", "4 remove", "1 move 5,0,0".

    Raises:
        UsageError: for another form.
    """
    words = text.split(maxsplit=2)
    if len(words) < 2 or not words[0].isdigit() or (len(words) == 2 and words[1] != "remove"):
        raise UsageError(
            f"a change is a feature's number, what of it, and its value (got {text!r})",
            hint='as in "2 diameter 10", "3 kind counterbore", "1 move 5,0,0", "4 remove"',
        )
    return RecipeChange(int(words[0]), words[1].lower(), words[2] if len(words) > 2 else "")


def changed_recipe(recipe: PartRecipe, changes: Sequence[RecipeChange]) -> PartRecipe:
    """A recipe with changes, one after the other.

    Raises:
        UsageError: for a feature that is not in the recipe, or a change that it does not know.
    """
    for change in changes:
        recipe = _changed(recipe, change)
    return recipe


def _changed(recipe: PartRecipe, change: RecipeChange) -> PartRecipe:
    pattern = next((p for p in recipe.patterns if p.number == change.number), None)
    if pattern is not None:
        return _pattern_changed(recipe, pattern, change)
    steps = [step for step in recipe.steps if step.number == change.number]
    if not steps:
        kept = dict(recipe.kept).get(change.number)
        numbers = ", ".join(str(n) for n in sorted({s.number for s in recipe.steps}))
        why = f"feature {change.number} stays in the base body: {kept}" if kept else ""
        raise UsageError(
            why or f"there is no feature {change.number} to change", hint=f"there are {numbers or 'none'}"
        )
    if change.what == "remove":
        return replace(recipe, steps=tuple(s for s in recipe.steps if s.number != change.number))
    return _with(recipe, {change.number: lambda step: _step_changed(step, change)})


def _with(recipe: PartRecipe, makers: Mapping[int, object]) -> PartRecipe:
    steps = tuple(
        makers[step.number](step) if step.number in makers else step  # type: ignore[operator]
        for step in recipe.steps
    )
    return replace(recipe, steps=steps)


# --- steps -------------------------------------------------------------------------------------------


def _step_changed(step: PartStep, change: RecipeChange) -> PartStep:
    if change.what == "move":
        return _moved(step, _vector(change.value))
    if change.what == "kind":
        return _other_kind(step, change.value.strip().lower())
    name = change.what
    known = [size for size in step.sizes if size not in ("side", "steps", "area")]
    if name not in known and not (
        step.kind in _HOLES and name.startswith(("counterbore_", "countersink_"))
    ):
        words = [*known, *(_WORDS if step.kind not in ("fillet", "chamfer") else ("remove",))]
        raise UsageError(f"a {step.kind} has no {name}", hint=", ".join(words))
    value = _positive(change)
    sizes = {**step.sizes, name: value}
    if step.kind == "chamfer" and name == "distance" and _is_even(step):
        sizes["distance2"] = value
    if step.kind in _HOLES:
        return _hole_changed(step, sizes, name)
    if step.kind == "boss":
        return replace(step, sizes=sizes, turned=((0.0, sizes["diameter"] / 2),
                                                  (sizes["height"], sizes["diameter"] / 2)))  # fmt: skip
    if step.kind == "slot":
        return _slot_changed(step, sizes)
    if step.kind == "pocket":
        if name != "depth":
            raise UsageError(f"the {name} of a pocket follows from its outline", hint="depth, move, remove")
        return _deeper(step, sizes)
    return replace(step, sizes=sizes)


def _is_even(step: PartStep) -> bool:
    return abs(step.sizes["distance"] - step.sizes.get("distance2", step.sizes["distance"])) < _ALIKE


def _positive(change: RecipeChange) -> float:
    try:
        value = float(change.value.replace("mm", "").replace("°", "").strip())
    except ValueError:
        value = math.nan
    if not (math.isfinite(value) and value > 0.0):
        raise UsageError(
            f"{change.what} of feature {change.number} must be more than 0 (got {change.value!r})"
        )
    return value


def _vector(text: str) -> Vector:
    try:
        x, y, z = (float(part) for part in text.replace(" ", ",").split(",") if part)
    except ValueError:
        raise UsageError(f"a move is three numbers, mm (got {text!r})") from None
    return x, y, z


def _moved(step: PartStep, by: Vector) -> PartStep:
    if step.kind in ("fillet", "chamfer"):
        raise UsageError(f"a {step.kind} goes with its edges and can't be moved")
    return replace(step, at=vector_of(np.add(step.at, by)))


def _other_kind(step: PartStep, kind: str) -> PartStep:
    if step.kind not in _HOLES or kind not in _HOLES:
        raise UsageError(f"a {step.kind} can't become a {kind}", hint=f"holes: {', '.join(_HOLES)}")
    if "steps" in step.sizes:
        raise UsageError("a stepped hole has no other kind")
    diameter = step.sizes["diameter"]
    usual = {
        "counterbore": {"counterbore_diameter": 1.8 * diameter, "counterbore_depth": 0.8 * diameter},
        "countersink": {"countersink_diameter": 2 * diameter, "countersink_angle": 90.0},
    }.get(kind, {})
    own = {n: v for n, v in step.sizes.items() if not n.startswith(("counterbore_", "countersink_"))}
    sizes = {**own, **{n: step.sizes.get(n, v) for n, v in usual.items()}}
    return replace(step, kind=kind, sizes=sizes, turned=hole_outline(kind, sizes))


def _hole_changed(step: PartStep, sizes: dict[str, float], name: str) -> PartStep:
    if "steps" not in step.sizes:
        return replace(step, sizes=sizes, turned=hole_outline(step.kind, sizes))
    if name != "diameter":
        raise UsageError(
            f"the {name} of a stepped hole can't be changed alone", hint="diameter, move, remove"
        )
    old, new = step.sizes["diameter"] / 2, sizes["diameter"] / 2
    turned = tuple((along, new if abs(radius - old) < _ALIKE else radius) for along, radius in step.turned)
    return replace(step, sizes=sizes, turned=turned)


def hole_outline(kind: str, sizes: Mapping[str, float]) -> tuple[tuple[float, float], ...]:
    """Distances along a hole and radii there, from its mouth inwards, mm.

    Raises:
        UsageError: when a widening is no wider than the hole, or deeper.
    """
    radius, depth = sizes["diameter"] / 2, sizes["depth"]
    made: list[tuple[float, float]] = []
    if kind == "counterbore":
        wide, deep = sizes["counterbore_diameter"] / 2, sizes["counterbore_depth"]
        made, start = [(0.0, wide), (deep, wide), (deep, radius)], deep
    elif kind == "countersink":
        wide = sizes["countersink_diameter"] / 2
        start = (wide - radius) / math.tan(math.radians(sizes["countersink_angle"]) / 2)
        made = [(0.0, wide), (start, radius)]
    else:
        wide, start = math.inf, 0.0
        made = [(0.0, radius)]
    if wide <= radius or start >= depth:
        raise UsageError(f"a {kind} must be wider than its hole and less deep")
    made.append((depth, radius))
    if "point_angle" in sizes:
        made.append((depth + radius / math.tan(math.radians(sizes["point_angle"]) / 2), 0.0))
    return tuple(made)


def _slot_changed(step: PartStep, sizes: dict[str, float]) -> PartStep:
    length, r, half = sizes["length"] - sizes["width"], sizes["width"] / 2, math.pi / 2
    if length <= 0.0:
        raise UsageError("a slot must be longer than it is wide")
    old = step.sizes["length"] - step.sizes["width"]
    start = (old - length) / 2  # its middle stays where it is
    outline: tuple[Curve, ...] = (
        FlatLine((start, -r), (start + length, -r)), Arc((start + length, 0.0), r, -half, half),
        FlatLine((start + length, r), (start, r)), Arc((start, 0.0), r, half, 3 * half),
    )  # fmt: skip
    made = replace(step, outline=outline)
    return _deeper(made, sizes)


def _deeper(step: PartStep, sizes: dict[str, float]) -> PartStep:
    """Another depth, from the mouth inwards: the floor moves, the mouth stays."""
    more = sizes["depth"] - step.sizes["depth"]
    at = np.array(step.at) - more * np.array(step.way)
    return replace(step, sizes=sizes, at=vector_of(at), depth=step.depth + more)


# --- patterns ----------------------------------------------------------------------------------------


def _pattern_changed(recipe: PartRecipe, pattern: PartPattern, change: RecipeChange) -> PartRecipe:
    if change.what == "remove":
        return replace(
            recipe,
            steps=tuple(s for s in recipe.steps if s.number not in pattern.members),
            patterns=tuple(p for p in recipe.patterns if p.number != pattern.number),
        )
    sizes = dict(pattern.sizes)
    step_name = "pitch" if pattern.form == "row" else "angle"
    if change.what in ("count", step_name):
        sizes[change.what] = _positive(change)
        count = sizes["count"]
        if change.what == "count" and (count != int(count) or count > _MOST):
            raise UsageError(
                f"a pattern has a whole number of members, up to {_MOST} (got {change.value!r})"
            )
        return _spread(recipe, replace(pattern, sizes=sizes), int(count), sizes[step_name])
    if change.what == "move":
        by = _vector(change.value)
        moved = {number: lambda step: _moved(step, by) for number in pattern.members}
        there = replace(pattern, at=vector_of(np.add(pattern.at, by)))
        return replace(_with(recipe, moved), patterns=_exchanged(recipe, there))
    alike = {n: lambda step: _step_changed(step, change) for n in pattern.members}
    return _with(recipe, alike)


def _exchanged(recipe: PartRecipe, pattern: PartPattern) -> tuple[PartPattern, ...]:
    return tuple(pattern if p.number == pattern.number else p for p in recipe.patterns)


def _spread(recipe: PartRecipe, pattern: PartPattern, count: int, apart: float) -> PartRecipe:
    """The members of a pattern anew: its first one, and copies of that one step after the other."""
    first = next(step for step in recipe.steps if step.number == pattern.members[0])
    members = []
    for place in range(count):
        number = pattern.members[place] if place < len(pattern.members) else first.number
        members.append(replace(_copy(first, pattern, place * apart), number=number))
    steps: list[PartStep] = []
    for step in recipe.steps:
        if step.number == first.number:
            steps += members if not any(s in steps for s in members) else []
        elif step.number not in pattern.members:
            steps.append(step)
    return replace(recipe, steps=tuple(steps), patterns=_exchanged(recipe, pattern))


def _copy(step: PartStep, pattern: PartPattern, by: float) -> PartStep:
    """A member of a pattern elsewhere: by millimetres along a row, by degrees about a circle's axis."""
    if pattern.form == "row":
        return replace(step, at=vector_of(np.array(step.at) + by * np.array(pattern.way)))
    turn, axis = math.radians(by), np.array(pattern.way)

    def turned(way: np.ndarray) -> np.ndarray:
        """Source: Rodrigues' rotation formula."""
        return np.asarray(
            way * math.cos(turn)
            + np.cross(axis, way) * math.sin(turn)
            + axis * float(axis @ way) * (1 - math.cos(turn))
        )

    centre = np.array(pattern.at)
    at = centre + turned(np.array(step.at) - centre)
    return replace(
        step,
        at=vector_of(at),
        way=vector_of(turned(np.array(step.way))),
        right=vector_of(turned(np.array(step.right))),
    )
