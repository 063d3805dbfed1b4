"""Whether two bodies are one shape in one place, told in other records."""

from __future__ import annotations

from gondrel.core.kernel.derive import deviation_of, facts_of
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.limits import unlike
from gondrel.core.model.store import BlobStore

__all__ = ["SAME_PLACE", "has_same_figures", "is_same_shape"]

SAME_PLACE = 1e-6
"""How far apart, mm, surfaces may lie that are the same."""
_SAME_VOLUME = 1e-9


def has_same_figures(one: BodyFacts, other: BodyFacts) -> bool:
    """Whether two bodies have as many faces and as large a volume as each other."""
    return one.faces == other.faces and unlike(one.volume, other.volume) <= _SAME_VOLUME


def is_same_shape(store: BlobStore, one: str, other: str) -> bool:
    """Whether two stored bodies are the same, where they are. Raises KeyError, KernelError."""
    return has_same_figures(facts_of(store, one), facts_of(store, other)) and (
        deviation_of(store, one, other).value <= SAME_PLACE
    )
