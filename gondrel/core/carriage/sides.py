"""The two sides of a proof, matched, and the largest differences found so far."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from gondrel.core.carriage.appearance import Spots
from gondrel.core.carriage.matching import Matching
from gondrel.core.kernel.measure.deviation import Deviation
from gondrel.core.model.body import Body, BodyFacts
from gondrel.core.model.limits import Limits
from gondrel.core.model.mass import Totals
from gondrel.core.model.product import Occurrence, Product
from gondrel.core.model.snapshot import Model

__all__ = ["Measure", "Sides"]

Measure = Callable[[str, str], Deviation]


@dataclass(slots=True)
class Sides:
    """What was meant and what came back, matched; the largest differences found so far.

    Args:
        bodies, uses: those of both models by id, with the product they are in; ids of those that came back
            begin with RETURNED.
    """

    meant: Model
    returned: Model
    facts: Mapping[str, BodyFacts]
    matching: Matching
    limits: Limits
    measure: Measure
    spots: Spots | None = None
    edge_spots: Spots | None = None
    deviation: float | None = None
    volume_error: float | None = None
    shift: float | None = None
    totals: Mapping[str, Totals] = field(default_factory=dict)
    bodies: dict[str, tuple[Product, Body]] = field(default_factory=dict)
    uses: dict[str, tuple[Product, Occurrence]] = field(default_factory=dict)
