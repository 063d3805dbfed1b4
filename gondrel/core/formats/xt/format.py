"""Declaration of Parasolid XT and of what it can hold."""

from __future__ import annotations

from gondrel.core.formats.base import Format, Target
from gondrel.core.model.carries import FILE_DESCRIPTION, OWN_COLOURS, READ, Carries

__all__ = ["FORMAT"]

_CARRIES = Carries(
    things=frozenset(READ) - {"validation"},
    reasons=(("validation", "XT has no validation figures; the proof compares the shape itself"),),
    metadata_kinds=frozenset(("text", "integer", "real", "boolean")),
    occurrence_metadata=True,
    measures=True,
    without=(
        (FILE_DESCRIPTION, "the head of an XT file has no place for it"),
        (OWN_COLOURS, "XT has no colours of faces in one place alone"),
    ),
    remarks=(
        "Schema 13006: read by every modeller version from 13 on.",
        "Numbers, revisions, descriptions, materials, metadata, reference geometry and what is hidden go "
        "as user-defined attributes; "
        "Gondrel reads them back, other receivers may pass over them.",
    ),
)

_SCHEMA = "SCH_1300000_13006"
_BARE = tuple(f"T{length} : TRANSMIT".encode() for length in range(20, 100))
"""How a text file without header lines begins: a counted sentence on the modeller's version."""


FORMAT = Format(
    key="parasolid",
    title="Parasolid XT",
    suffixes=(".x_t", ".x_b", ".xmt_txt", ".xmt_bin"),
    starts=(b"**ABCDEFGHIJKLMNOPQRSTUVWXYZ", b"**PART1;", b"PS\0", *_BARE),
    card="gondrel.core.formats.xt.document:read_card",
    read="gondrel.core.formats.xt.read:read",
    source="gondrel.core.formats.xt.source:open_source",
    write="gondrel.core.formats.xt.write:write",
    foresee="gondrel.core.formats.xt.foresee:foresee",
    order=1,
    never="mates, history, parameters, cosmetic threads and drawings",
    targets=(
        Target(
            "xt-text",
            "Parasolid XT, text",
            ".x_t",
            _CARRIES,
            _SCHEMA,
            "m",
            "Exact solids in metres, schema 13006",
        ),
        Target(
            "xt-binary",
            "Parasolid XT, binary",
            ".x_b",
            _CARRIES,
            _SCHEMA,
            "m",
            "The same, in neutral binary",
        ),
    ),
)
