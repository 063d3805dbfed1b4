"""Which surface model the faces and shells of a STEP file belong to: it bears the sheet's name."""

from __future__ import annotations

from gondrel.core.formats.step.card import SHEETS
from gondrel.core.formats.step.records import Records

__all__ = ["surface_models"]


def surface_models(records: Records) -> dict[int, int]:
    """Number of the surface model by that of each shell and face of it, where there is only one."""
    found: dict[int, int] = {}
    for model in records.of(*SHEETS):
        for shell in model.refs(1):
            found[shell] = model.number
            record = records.get(shell)
            for face in record.refs(1) if record is not None else ():
                found[face] = model.number
    return found
