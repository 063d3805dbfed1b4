"""Declaration of the 3MF format, which is read only."""

from __future__ import annotations

from gondrel.core.formats.base import Content, Format

__all__ = ["FORMAT"]

FORMAT = Format(
    key="3mf",
    title="3MF",
    suffixes=(".3mf",),
    starts=(),
    recognise="gondrel.core.formats.threemf.read:is_3mf",
    card="gondrel.core.formats.threemf.read:read_card",
    read="gondrel.core.formats.threemf.read:read",
    write="",
    holds=Content.MESH,
    never="exact surfaces, revisions, history",
)
