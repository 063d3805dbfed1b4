"""What the user chooses for a receive and for a send, common to all formats."""

from __future__ import annotations

from dataclasses import dataclass

from gondrel.core.model.units import BY_KEY, MILLIMETRE, LengthUnit

__all__ = ["AS_SENT", "KINDS", "ReceiveSettings", "SendSettings"]

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


AS_SENT = ReceiveSettings()
"""Everything, as the file has it."""


@dataclass(frozen=True, slots=True)
class SendSettings:
    """Settings of a send.

    Args:
        unit: length unit of the file.
        author, organisation: who is named in the file's header.
        system: the originating system named in the header.
        form: how an assembly goes where the target leaves the choice: "structure" or "placed" bodies.
        chord: largest distance between a mesh and its surface, mm, 0 for a share of each body's size.
        angle: largest angle between neighbouring facets, degrees.
        files: a mesh goes as "one" file or as one "each" part.
        cylinders: whether cylinders are recognised when meshes go as solids.
    """

    unit: LengthUnit = MILLIMETRE
    author: str = ""
    organisation: str = ""
    system: str = "Gondrel"
    form: str = "structure"
    chord: float = 0.0
    angle: float = 15.0
    files: str = "one"
    cylinders: bool = False

    @classmethod
    def unit_keys(cls) -> tuple[str, ...]:
        """Units a file can be written in."""
        return tuple(key for key in BY_KEY if key != "km")
