"""Features in the forms that go out: the object of ``gondrel features``, and rows of a table."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from gondrel.core.model.features import KINDS, Feature
from gondrel.core.model.part_recipe import Rebuilt
from gondrel.core.model.snapshot import Model

__all__ = ["features_object", "rebuilt_object", "size_text"]

Rows = Sequence[tuple[str, str, Sequence[Feature], str]]

_DEGREES = ("angle", "point_angle", "countersink_angle")
_COUNTS = ("count", "steps", "columns", "rows", "marks", "turns", "mirrored")


def features_object(
    model: Model, rows: Rows, counts: Mapping[str, int], rebuilt: Mapping[str, Rebuilt]
) -> dict[str, Any]:
    """The object of ``gondrel features``: sizes in mm, mm2 and degrees, faces counted from 0.

    Args:
        rebuilt: parts that were computed anew, by the id of their body.
    """
    parts = []
    for product, body, features, why in rows:
        part: dict[str, Any] = {
            "product": model.product(product).label,
            "features": [_feature_object(feature) for feature in features],
        }
        if why:
            part["not_looked_at"] = why
        if body in rebuilt:
            part["rebuilt"] = rebuilt_object(rebuilt[body])
        parts.append(part)
    return {"parts": parts, "counts": {kind: counts[kind] for kind in KINDS if counts.get(kind)}}


def rebuilt_object(rebuilt: Rebuilt) -> dict[str, Any]:
    """The contract's rebuilt object; features are counted from 1."""
    recipe = rebuilt.recipe
    return {
        "equal": rebuilt.equal,
        "volume_error": rebuilt.volume_error,
        "deviation": rebuilt.deviation,
        "why": rebuilt.why,
        "base": recipe.base.kind,
        "steps": [{"feature": step.number, "kind": step.kind} for step in recipe.steps],
        "kept": [{"feature": number, "why": why} for number, why in recipe.kept],
    }


def _feature_object(feature: Feature) -> dict[str, Any]:
    made: dict[str, Any] = {
        "kind": feature.kind,
        "sizes": dict(feature.sizes),
        "faces": list(feature.faces),
        "certainty": feature.certainty,
        "evidence": feature.evidence,
    }
    if feature.at is not None and feature.way is not None:
        made["axis"] = {"point": list(feature.at), "direction": list(feature.way)}
    if feature.members:
        made["members"] = list(feature.members)
    return made


def size_text(name: str, value: float) -> str:
    """A size with its name and unit.

    Example:
        >>> size_text("diameter", 8.0), size_text("point_angle", 118.0), size_text("count", 6.0)
        ('diameter 8 mm', 'point angle 118°', 'count 6')
    """
    shown = f"{value:.4f}".rstrip("0").rstrip(".")
    unit = "°" if name in _DEGREES else "" if name in _COUNTS else " mm²" if name == "area" else " mm"
    words = f"second {name[:-1]}" if name.endswith("2") else name.replace("_", " ")
    return f"{words} {shown}{unit}"
