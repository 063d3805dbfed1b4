"""What differs between two models, as an object: volumes in mm3, lengths in mm, angles in degrees."""

from __future__ import annotations

import math
from typing import Any

from gondrel.core.model.differences import Differences

__all__ = ["differences_object"]


def differences_object(differences: Differences) -> dict[str, Any]:
    """Material by part, what was moved, and what could not be compared."""
    return {
        "material": {
            "added": differences.added,
            "removed": differences.removed,
            "parts": [
                {
                    "name": change.name,
                    "added": change.added_volume,
                    "removed": change.removed_volume,
                    "places": change.places,
                    "is_new": not change.before,
                    "is_gone": not change.after,
                }
                for change in differences.materials
            ],
            "not_compared": list(differences.refused),
        },
        "moved": [
            {"name": each.name, "distance": each.distance, "angle": math.degrees(each.angle)}
            for each in differences.moved
        ],
    }
