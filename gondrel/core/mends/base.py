"""How a mend is declared."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

__all__ = ["Mend"]


@dataclass(frozen=True, slots=True)
class Mend:
    """A mend of the skins of one product or of one body.

    Args:
        code: permanent; letter R and three digits. cures: codes of the checks whose findings it cures.
        is_safe: whether it keeps the shape that is there. takes_all: whether it works on all sheets of a
            product together, not on single bodies.
        to_own: whether it may move what is there as far as the body itself says it is true.
        run: takes shapes and a distance in mm, returns (kind, shape) of what came of them.
    """

    code: str
    name: str
    title: str
    cures: tuple[str, ...]
    is_safe: bool
    takes_all: bool
    run: Callable[[Sequence[Any], float], list[tuple[Any, Any]]]
    to_own: bool = False
