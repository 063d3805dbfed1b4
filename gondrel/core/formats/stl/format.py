"""Declaration of the STL format."""

from __future__ import annotations

from gondrel.core.formats.base import Content, Format, Target
from gondrel.core.model.carries import Carries

__all__ = ["FORMAT"]

FORMAT = Format(
    key="stl",
    title="STL",
    suffixes=(".stl",),
    starts=(),
    recognise="gondrel.core.formats.stl.read:is_stl",
    card="gondrel.core.formats.stl.read:read_card",
    read="gondrel.core.formats.stl.read:read",
    write="gondrel.core.formats.stl.write:write",
    holds=Content.MESH,
    never="exact surfaces, unit, names, structure, colours, metadata, history",
    targets=(
        Target(
            "stl",
            "STL, binary",
            ".stl",
            Carries(frozenset(), remarks=("STL says no unit: tell the receiver which one it is.",)),
            "STL",
            note="Triangles only",
        ),
    ),
)
