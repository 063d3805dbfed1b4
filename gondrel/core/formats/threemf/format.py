"""Declaration of the 3MF format."""

from __future__ import annotations

from gondrel.core.formats.base import Content, Format, Target
from gondrel.core.model.carries import Carries

__all__ = ["FORMAT"]

FORMAT = Format(
    key="3mf",
    title="3MF",
    suffixes=(".3mf",),
    starts=(),
    recognise="gondrel.core.formats.threemf.read:is_3mf",
    card="gondrel.core.formats.threemf.read:read_card",
    read="gondrel.core.formats.threemf.read:read",
    write="gondrel.core.formats.threemf.write:write",
    holds=Content.MESH,
    never="exact surfaces, revisions, history",
    targets=(
        Target(
            "3mf",
            "3MF",
            ".3mf",
            Carries(
                frozenset(("colours", "names", "units")),
                remarks=("Colours are kept to 1/255.",),
            ),
            "3MF",
            note="To print or look at: triangles with names, colours and their unit",
        ),
    ),
)
