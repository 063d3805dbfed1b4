"""Declaration of the OBJ format."""

from __future__ import annotations

from gondrel.core.formats.base import Content, Format, Target
from gondrel.core.model.carries import Carries

__all__ = ["FORMAT"]

FORMAT = Format(
    key="obj",
    title="OBJ",
    suffixes=(".obj",),
    starts=(),
    recognise="gondrel.core.formats.obj.read:is_obj",
    card="gondrel.core.formats.obj.read:read_card",
    read="gondrel.core.formats.obj.read:read",
    write="gondrel.core.formats.obj.write:write",
    holds=Content.MESH,
    never="exact surfaces, unit, structure, revisions, metadata, history",
    targets=(
        Target(
            "obj",
            "OBJ with materials",
            ".obj",
            Carries(
                frozenset(("colours", "layers", "names")),
                remarks=("OBJ says no unit: tell the receiver which one it is.",),
            ),
            "OBJ",
            note="Triangles with names and colours",
        ),
    ),
)
