"""What the user chooses for a send, common to all formats; what for a receive is beside it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from gondrel.core.model.receiving import AS_SENT, KINDS, ReceiveSettings
from gondrel.core.model.units import BY_KEY, MILLIMETRE, LengthUnit

__all__ = ["AS_SENT", "KINDS", "LINKED", "Aid", "ReceiveSettings", "SendSettings"]


LINKED = ("linked", "nested")
"""Choices of files in which one refers to the others."""


class Aid(Enum):
    """What is written otherwise than usual for the sake of other readers of STEP."""

    NONE = "none"
    SPHERES = "poles and seams of spheres away from the edges of their faces"
    CURVES = "the curves of edges in the parameters of their faces"


@dataclass(frozen=True, slots=True)
class SendSettings:
    """Settings of a send.

    Args:
        unit: length unit of the file.
        author, organisation: who is named in the file's header.
        system: the originating system named in the header.
        form: how an assembly of exact bodies goes: its "structure", or "placed" bodies.
        bodies: solids are "kept", or go as "surfaces".
        chord: largest distance between a mesh and its surface, mm, 0 for a share of each body's size.
        angle: largest angle between neighbouring facets, degrees.
        files: a model goes as "one" file, as one for "each" part alone, or as one with the structure and
            one for each part, beside it ("linked") or in folders named after its assemblies ("nested").
        file_names: rule for the names of the files of parts, empty for a format's own.
        cylinders: whether cylinders are recognised when meshes go as solids.
        other_reader: whether what was sent is read by another reader besides ours.
        aid: what helps another reader of STEP to see what is meant; sending tries each in turn where that
            reader makes other areas or volumes of a body.
        force: whether files that are there already are replaced.
    """

    unit: LengthUnit = MILLIMETRE
    author: str = ""
    organisation: str = ""
    system: str = "Gondrel"
    form: str = "structure"
    bodies: str = "kept"
    chord: float = 0.0
    angle: float = 15.0
    files: str = "one"
    file_names: str = ""
    cylinders: bool = False
    other_reader: bool = True
    aid: Aid = Aid.NONE
    force: bool = False

    @classmethod
    def unit_keys(cls) -> tuple[str, ...]:
        """Units a file can be written in."""
        return tuple(key for key in BY_KEY if key != "km")
