"""Which surface model or curve set the faces, shells and curves of a STEP file belong to: it bears the
body's name."""

from __future__ import annotations

from gondrel.core.formats.step.card import CURVE_SETS, SHEETS
from gondrel.core.formats.step.records import Records

__all__ = ["surface_models"]


def surface_models(records: Records) -> dict[int, int]:
    """Number of the surface model or curve set by that of each shell, face or curve of it."""
    models: dict[int, int] = {}
    for model in records.of(*SHEETS):
        for shell in model.refs(1):
            models[shell] = model.number
            record = records.get(shell)
            for face in record.refs(1) if record is not None else ():
                models[face] = model.number
    for curves in records.of(*CURVE_SETS):
        for curve in curves.refs(1):
            models[curve] = curves.number
    return models
