"""The stand-ins that ship with the program."""

from __future__ import annotations

from gondrel.core.errors import UsageError
from gondrel.core.recipients.stand_ins import first_edition, flat, inch, old_xt, strict, surfaces
from gondrel.core.recipients.stand_ins.base import StandIn

__all__ = ["STAND_INS", "stand_in"]

STAND_INS: tuple[StandIn, ...] = tuple(
    module.STAND_IN for module in (strict, surfaces, flat, first_edition, inch, old_xt)
)


def stand_in(key: str) -> StandIn:
    """The stand-in of a key. Raises UsageError when there is none."""
    for each in STAND_INS:
        if each.key == key:
            return each
    raise UsageError(f"there is no stand-in {key!r}", hint=", ".join(each.key for each in STAND_INS))
