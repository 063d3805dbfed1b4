"""Declaration of the IGES format and of what it can hold."""

from __future__ import annotations

from dataclasses import replace

from gondrel.core.formats.base import Format, Target
from gondrel.core.model.carries import EDGE_COLOURS, FILE_DESCRIPTION, OWN_COLOURS, READ, Carries

__all__ = ["FORMAT"]

_CARRIES = Carries(
    things=frozenset(READ) - {"validation"},
    reasons=(("validation", "IGES has no validation figures; the proof compares the shape itself"),),
    metadata_kinds=frozenset(("text", "integer", "real", "boolean")),
    occurrence_metadata=True,
    measures=True,
    without=(
        (EDGE_COLOURS, "IGES files get colours of bodies and faces, not of single edges"),
        (FILE_DESCRIPTION, "the head of an IGES file has no place for it"),
        (OWN_COLOURS, "IGES has no colours of faces in one place alone"),
    ),
)
_OWN = (
    "Revisions, descriptions, materials, metadata and reference geometry go as generic data properties; "
    "Gondrel reads them back, other receivers may pass over them."
)
_LOOSE = "Receivers get surfaces, not solids, and join them themselves."

FORMAT = Format(
    key="iges",
    title="IGES",
    suffixes=(".igs", ".iges"),
    starts=(),
    recognise="gondrel.core.formats.iges.records:is_iges",
    card="gondrel.core.formats.iges.card:read_card",
    read="gondrel.core.formats.iges.read:read",
    source="gondrel.core.formats.iges.source:open_source",
    write="gondrel.core.formats.iges.write:write",
    foresee="gondrel.core.formats.iges.foresee:foresee",
    order=2,
    never="mates, history, parameters, cosmetic threads; drawings are passed over",
    targets=(
        Target(
            "iges-solid",
            "IGES, solids",
            ".igs",
            replace(_CARRIES, remarks=(_OWN,)),
            "IGES 5.3",
            note="Solids with their topology (entity 186)",
        ),
        Target(
            "iges-surface",
            "IGES, trimmed surfaces",
            ".igs",
            replace(_CARRIES, remarks=(_LOOSE, _OWN)),
            "IGES 5.3",
            note="For receivers without solids (entity 144)",
            surfaces=True,
        ),
    ),
)
