"""What of a file came back."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from gondrel.core.recipients.card import card_or_none
from gondrel.core.recipients.learning import proposed_card
from gondrel.core.reports.contract import census_object, proof_object
from gondrel.core.service.prove import prove_files
from gondrel.core.work import SILENT, Progress

__all__ = ["prove_command"]


def prove_command(
    meant: str, returned: str, recipient: str, store: str, *, progress: Progress = SILENT
) -> dict[str, Any]:
    """The object of ``gondrel prove``. Raises InputError, KernelError, UsageError."""
    card = card_or_none(recipient)
    proof, model, back = prove_files(meant, returned, store, progress=progress)
    result = {**proof_object(proof), **census_object(model), "returned": census_object(back)}
    if card is not None:
        proposed, why = proposed_card(card, proof)
        result["card"] = {"key": card.key, "proposal": asdict(proposed), "changes": list(why)}
    return result
