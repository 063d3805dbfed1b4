"""A drawing with the profile that is taken of it."""

from __future__ import annotations

from dataclasses import dataclass

from gondrel.core.model.flat_sheet import Sheet, SheetCurve
from gondrel.core.model.profile import Profile
from gondrel.core.model.relations import Relation, Size, Solved

__all__ = ["LookedAt"]


@dataclass(frozen=True, slots=True)
class LookedAt:
    """A drawing with the profile that is taken of it.

    Args:
        curves: those that were taken; relations: all that hold, with those that are dropped.
        sizes: that can be changed; solved: how new sizes were had, None without any.
    """

    sheet: Sheet
    curves: tuple[SheetCurve, ...]
    profile: Profile
    relations: tuple[Relation, ...]
    sizes: tuple[Size, ...]
    solved: Solved | None = None
