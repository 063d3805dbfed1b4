"""What the user chooses for a send, common to all formats."""

from __future__ import annotations

from dataclasses import dataclass

from gondrel.core.model.units import BY_KEY, MILLIMETRE, LengthUnit

__all__ = ["SendSettings"]


@dataclass(frozen=True, slots=True)
class SendSettings:
    """Settings of a send.

    Args:
        unit: length unit of the file.
        author, organisation: who is named in the file's header.
        system: the originating system named in the header.
        form: how an assembly goes where the target leaves the choice: "structure" or "placed" bodies.
    """

    unit: LengthUnit = MILLIMETRE
    author: str = ""
    organisation: str = ""
    system: str = "Gondrel"
    form: str = "structure"

    @classmethod
    def unit_keys(cls) -> tuple[str, ...]:
        """Units a file can be written in."""
        return tuple(key for key in BY_KEY if key != "km")
