"""What commands that write say of it."""

from __future__ import annotations

from typing import Any

from gondrel.core.model.notes import GRAVE
from gondrel.core.model.snapshot import Model
from gondrel.core.reports.contract import census_object, forecast_list, proof_object
from gondrel.core.service.messages import Sent

__all__ = ["sent_list", "sent_object"]


def sent_object(model: Model, sent: Sent) -> dict[str, Any]:
    """What was sent of a model, and how it came."""
    return {
        "sent": sent_list(sent),
        "forecast": forecast_list(sent.forecast),
        "remarks": list(sent.forecast.remarks),
        "proof": proof_object(sent.proof),
        "remaining_faults": [
            {"code": n.code, "text": n.text, "where": n.where} for n in model.notes if n.code in GRAVE
        ],
        **census_object(model),
    }


def sent_list(sent: Sent) -> list[dict[str, Any]]:
    """The files that were written, with their sizes in bytes."""
    return [{"path": p, "bytes": n} for p, n in ((sent.path, sent.bytes), *sent.companions)]
