"""Terms of a filter that ask for sizes: bores, masses, neighbours that come too close."""

from __future__ import annotations

import re
from dataclasses import dataclass

from gondrel.core.errors import UsageError

__all__ = ["SIZE_TERMS", "SizeTerm", "is_size_term", "size_term"]

SIZE_TERMS = ("bore:", "lighter:", "heavier:", "closer:")
"""bore:32 or bore:31-33, mm; lighter:10g, heavier:2kg; closer:0.1, mm to any other body."""

_NUMBER = re.compile(r"(\d+(?:\.\d*)?|\.\d+)")
_MASSES = {"": 1.0, "kg": 1.0, "g": 1e-3, "t": 1e3}
_WITHIN = 0.005
"""A bore has a diameter that is told when it differs by less, mm."""


@dataclass(frozen=True, slots=True)
class SizeTerm:
    """What is asked for: a kind, and from where to where, in mm or kg."""

    kind: str
    low: float
    high: float


def is_size_term(word: str) -> bool:
    """Whether a word of a filter asks for a size."""
    return word.lower().startswith(SIZE_TERMS)


def size_term(word: str) -> SizeTerm:
    """A term as it is written. Raises UsageError where it makes no sense."""
    kind, _, value = word.strip().lower().partition(":")
    match kind:
        case "bore":
            numbers = [float(n) for n in _NUMBER.findall(value)]
            if len(numbers) == 1 and _NUMBER.fullmatch(value.removesuffix("mm").strip()):
                return SizeTerm("bore", numbers[0] - _WITHIN, numbers[0] + _WITHIN)
            if len(numbers) == 2 and "-" in value:
                return SizeTerm("bore", min(numbers), max(numbers))
        case "lighter" | "heavier":
            found = re.fullmatch(r"([\d.]+)\s*(kg|g|t)?", value)
            if found is not None and _NUMBER.fullmatch(found[1]):
                mass = float(found[1]) * _MASSES[found[2] or ""]
                return (
                    SizeTerm("mass", 0.0, mass)
                    if kind == "lighter"
                    else SizeTerm("mass", mass, float("inf"))
                )
        case "closer":
            plain = value.removesuffix("mm").strip()
            if _NUMBER.fullmatch(plain):
                return SizeTerm("closer", 0.0, float(plain))
    raise UsageError(
        f"{word!r} asks for no size", hint="bore:32, bore:31-33, lighter:10g, heavier:2kg, closer:0.1"
    )
