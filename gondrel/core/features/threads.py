"""Candidates for threads: holes as wide as the core of one, and helices that were modelled."""

from __future__ import annotations

from collections.abc import Sequence

from gondrel.core.model.face_graph import HelixEdge
from gondrel.core.model.features import Feature

__all__ = ["METRIC", "UNIFIED", "find_threads"]

METRIC = {
    3: 0.5, 4: 0.7, 5: 0.8, 6: 1.0, 8: 1.25, 10: 1.5, 12: 1.75, 14: 2.0, 16: 2.0, 18: 2.5, 20: 2.5, 22: 2.5,
    24: 3.0, 27: 3.0, 30: 3.5, 33: 3.5, 36: 4.0, 42: 4.5, 48: 5.0, 56: 5.5, 64: 6.0,
}  # fmt: skip
"""Nominal diameters and coarse pitches, mm. Source: ISO 261, selected by ISO 262; from memory."""

UNIFIED = {
    "No. 4-40": (0.112, 40), "No. 6-32": (0.138, 32), "No. 8-32": (0.164, 32), "No. 10-24": (0.190, 24),
    "No. 10-32": (0.190, 32), "1/4-20": (0.25, 20), "1/4-28": (0.25, 28), "5/16-18": (0.3125, 18),
    "5/16-24": (0.3125, 24), "3/8-16": (0.375, 16), "3/8-24": (0.375, 24), "7/16-14": (0.4375, 14),
    "1/2-13": (0.5, 13), "1/2-20": (0.5, 20), "9/16-12": (0.5625, 12), "5/8-11": (0.625, 11),
    "5/8-18": (0.625, 18), "3/4-10": (0.75, 10), "3/4-16": (0.75, 16), "7/8-9": (0.875, 9), "1-8": (1.0, 8),
}  # fmt: skip
"""Nominal diameters, inches, and threads per inch. Source: ASME B1.1, UNC and UNF; from memory."""

_CORE = 1.082531755
"""By how many pitches the core of an inner thread is less than its nominal diameter. Source: ISO 68-1,
twice five eighths of the height of the fundamental triangle, 0.866025 of the pitch."""
_INCH = 25.4
_NEAR = 2e-3
_HOLES = ("hole", "counterbore", "countersink")


def find_threads(features: Sequence[Feature], helices: Sequence[HelixEdge] = ()) -> list[Feature]:
    """Holes of the core diameter of a thread, as a model has them whose threads are not modelled, and
    modelled helices. A candidate names the faces of its hole, which stays what it is."""
    found = []
    for feature in features:
        if feature.kind not in _HOLES:
            continue
        for name, nominal, pitch in _threads():
            if abs(feature.sizes["diameter"] - (nominal - _CORE * pitch)) < _NEAR:
                sizes = {"nominal": nominal, "pitch": pitch, "core": feature.sizes["diameter"]}
                evidence = f"as wide as the core of {name}; no thread is modelled"
                found.append(
                    Feature("thread", sizes, feature.faces, feature.at, feature.way, 0.6, evidence)
                )
                break
    return found + _helical(helices)


def _threads() -> list[tuple[str, float, float]]:
    metric = [(f"M{nominal} x {pitch:g}", float(nominal), pitch) for nominal, pitch in METRIC.items()]
    unified = [(name, _INCH * size, _INCH / count) for name, (size, count) in UNIFIED.items()]
    return metric + unified


def _helical(helices: Sequence[HelixEdge]) -> list[Feature]:
    """One thread for all helices of one axis and pitch."""
    groups: dict[tuple[object, ...], list[HelixEdge]] = {}
    for helix in helices:
        key = round(helix.pitch, 3), *(round(value, 2) for value in helix.way)
        groups.setdefault(key, []).append(helix)
    found = []
    for those in groups.values():
        widest = max(those, key=lambda helix: helix.diameter)
        sizes = {
            "nominal": widest.diameter, "pitch": widest.pitch, "turns": widest.turns,
            "core": min(helix.diameter for helix in those),
        }  # fmt: skip
        evidence = f"{len(those)} edges wind round an axis"
        found.append(Feature("thread", sizes, (), widest.at, widest.way, 1.0, evidence))
    return found
