"""Declaration of the glTF format."""

from __future__ import annotations

from gondrel.core.formats.base import Content, Format, Target
from gondrel.core.model.carries import Carries

__all__ = ["FORMAT"]

FORMAT = Format(
    key="gltf",
    title="glTF",
    suffixes=(".glb", ".gltf"),
    starts=(b"glTF",),
    recognise="gondrel.core.formats.gltf.read:is_gltf",
    card="gondrel.core.formats.gltf.read:read_card",
    read="gondrel.core.formats.gltf.read:read",
    write="gondrel.core.formats.gltf.write:write",
    holds=Content.MESH,
    never="exact surfaces, components, revisions, metadata, history",
    targets=(
        Target(
            "gltf",
            "glTF, binary",
            ".glb",
            Carries(
                frozenset(("colours", "names", "units")),
                remarks=("For looking only: viewers, browsers and office programs show it.",),
            ),
            "glTF 2.0",
            "m",
            "To look at: triangles with names and colours",
        ),
    ),
)
