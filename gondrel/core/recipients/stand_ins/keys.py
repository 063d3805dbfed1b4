"""The stand-ins by their keys, and whose card each is held to; loads no kernel."""

from __future__ import annotations

from gondrel.core.errors import UsageError

__all__ = ["CARD_OF", "STAND_IN_KEYS", "stand_in_of_card"]

CARD_OF = {
    "strict": "bell-founder", "surfaces": "pattern-maker", "flat": "rigger", "first-edition": "lock-keeper",
    "inch": "inch-foundry", "old-xt": "gear-cutter",
}  # fmt: skip
"""Key of each stand-in, and of the shipped card with its limits."""

STAND_IN_KEYS = tuple(CARD_OF)


def stand_in_of_card(card: str) -> str:
    """The stand-in with the limits of a card. Raises UsageError when there is none."""
    for key, each in CARD_OF.items():
        if each == card:
            return key
    raise UsageError(f"no stand-in has the limits of the card {card!r}", hint="say one with --with")
