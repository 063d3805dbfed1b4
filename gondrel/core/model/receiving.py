"""What the user chooses for a receive, common to all formats."""

from __future__ import annotations

import os
from dataclasses import dataclass, fields

__all__ = ["AS_SENT", "KINDS", "ReceiveSettings"]

KINDS = ("solids", "sheets", "wires", "points", "meshes", "reference")
"""Kinds of things a file can bring."""


@dataclass(frozen=True, slots=True)
class ReceiveSettings:
    """Settings of a receive.

    Args:
        kinds: kinds of things to take in; reference geometry is kept apart and hidden.
        colours: whether colours are taken.
        layers: names of the layers to take, None for all; what is on no layer is always taken.
        structure: "kept", or "flat" for everything in one part.
        loose: bodies of a part that has several: "one" part holds them, or a part "each".
        unit: key of the unit to take the file's numbers in, empty for what the file says.
        scale: factor on all sizes besides.
        names: what products are named by: "product", "number" or "file".
        join: distance in mm within which loose surfaces are joined; None finds one, 0 leaves them loose.
        search: folders to look in for files that are referred to and are not beside the file.
        shapes: "all" at once, or later where they are "asked" for and the format can.
        facets: what becomes of a mesh: "mesh", or "solid" for a solid of merged plane facets.
    """

    kinds: frozenset[str] = frozenset(KINDS)
    colours: bool = True
    layers: frozenset[str] | None = None
    structure: str = "kept"
    loose: str = "one"
    unit: str = ""
    scale: float = 1.0
    names: str = "product"
    join: float | None = None
    facets: str = "mesh"
    search: tuple[str, ...] = ()
    shapes: str = "all"

    def departures(self) -> tuple[tuple[str, str], ...]:
        """What differs from taking everything as the file has it, as KEY=VALUE pairs."""
        pairs = []
        for each in fields(self):
            value = getattr(self, each.name)
            if value == each.default:
                continue
            if isinstance(value, tuple):
                value = os.pathsep.join(value)
            elif isinstance(value, frozenset):
                value = ",".join(sorted(value))
            elif isinstance(value, bool):
                value = "yes" if value else "no"
            pairs.append((each.name, f"{value:.12g}" if isinstance(value, float) else str(value)))
        return tuple(pairs)


AS_SENT = ReceiveSettings()
"""Everything, as the file has it."""
