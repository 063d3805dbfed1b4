"""Recipients as JSON objects of the command line contract."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from gondrel.core.carriage.forecast import Forecast
from gondrel.core.recipients.card import Card
from gondrel.core.recipients.expecting import harm_of
from gondrel.core.recipients.results import Rehearsal
from gondrel.core.reports.contract import forecast_list, proof_object

__all__ = ["card_object", "expected_object", "rehearsal_object"]

Json = dict[str, Any]


def card_object(card: Card) -> Json:
    """A recipient card."""
    return asdict(card)


def expected_object(card: Card, expected: Forecast) -> Json:
    """What a recipient will keep: as a forecast, and the harm in it that matters to them."""
    return {
        "card": card.key,
        "name": card.name,
        "forecast": forecast_list(expected),
        "harm": harm_of(card, expected),
        "indifferent": list(card.indifferent),
    }


def rehearsal_object(rehearsal: Rehearsal, card: Card | None) -> Json:
    """The object of ``gondrel rehearse``."""
    proof = proof_object(rehearsal.proof)
    return {
        "stand_in": rehearsal.stand_in,
        "card": card.key if card is not None else None,
        "complaints": list(rehearsal.taken.complaints),
        "ledger": proof["ledger"],
        "verdict": proof["verdict"],
        "unannounced_losses": proof["unannounced_losses"],
        "false_alarms": proof["false_alarms"],
    }
