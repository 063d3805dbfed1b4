"""Forecast and proof of a send as triangles: what of each item a mesh can keep, and whether it did."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from gondrel.core.carriage.aspects.meshed import NO_PLACE, InMesh, Meshed, Meshing, MeshTarget
from gondrel.core.carriage.forecast import Forecast, Foreseen
from gondrel.core.carriage.inventory import Listed, listed
from gondrel.core.carriage.items import NO_UNIT, Item
from gondrel.core.carriage.ledger import Compared, Ledger, Proof
from gondrel.core.carriage.proof import finish_proof
from gondrel.core.model.body import Body, BodyKind
from gondrel.core.model.carries import Carries
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.verdicts import Fate, Verdict

__all__ = ["MeshFigures", "MeshTarget", "Meshed", "foresee_meshes", "prove_meshes"]


def foresee_meshes(model: Model, target: MeshTarget, deviations: Mapping[str, float]) -> Forecast:
    """What becomes of every item.

    Args:
        deviations: by body id, how far facets lie off surfaces, mm.
    """
    meshing = Meshing(model, target, deviations)
    entries = [Foreseen(each.item, *_fate(meshing, each)) for each in listed(model).values()]
    return Forecast(target.title, tuple(entries), target.remarks, target.unit)


def _fate(meshing: Meshing, each: Listed) -> tuple[Fate, str]:
    item, target = each.item, meshing.target
    if item.thing == "remainder":
        return Fate.LOST, Carries(frozenset()).why_not("remainder")
    if item.thing == "units" and target.says_unit:
        told = meshing.model.unit_told
        return (
            (Fate.CARRIED, "") if told == target.unit else (Fate.ALTERED, f"it is written in {target.unit}")
        )
    if item.thing == "units":
        return Fate.LOST, f"{target.title} says no unit; its numbers are in {target.unit}"
    if isinstance(each.subject.it, Body):
        return _fate_of_body(meshing, each, each.subject.it)
    if item.aspect == "root":
        alone = (Fate.CARRIED, "") if _is_alone(meshing, each) else None
        return alone or (Fate.LOST, f"{target.title} has no components")
    if item.thing in ("structure", "placement"):
        why = "each part goes as it is" if target.each else "the place goes into the triangles"
        return Fate.LOST, f"{target.title} has no components; {why}"
    return Fate.LOST, NO_PLACE


def _is_alone(meshing: Meshing, each: Listed) -> bool:
    """Whether a product that stands on its own still does: a file of triangles is one thing."""
    model, product = meshing.model, each.subject.it
    return len(model.roots) == 1 and not product.occurrences and not meshing.target.each


def _fate_of_body(meshing: Meshing, each: Listed, body: Body) -> tuple[Fate, str]:
    if body.kind in (BodyKind.WIRE, BodyKind.POINT):
        return Fate.LOST, "a mesh has no curves and no points"
    kept, product = _kept(meshing, each), each.subject.holder
    if kept is None or not isinstance(product, Product):
        return Fate.LOST, NO_PLACE
    return kept.foresee(meshing, each.item, product, body)


def _kept(meshing: Meshing, each: Listed) -> InMesh | None:
    """How a target keeps an item of a body, None where it has no place for it."""
    mesh = each.aspect.mesh
    return mesh if mesh is not None and (not mesh.thing or mesh.thing in meshing.target.things) else None


@dataclass(frozen=True, slots=True)
class MeshFigures:
    """The worst figures measured on the triangles read back.

    Args:
        volume_error: of closed bodies, against their exact volumes, relative; shift: of the middle of the
            skin of a body against where it was written, mm. None where nothing was measured.
    """

    volume_error: float | None = None
    shift: float | None = None


def prove_meshes(
    model: Model, forecast: Forecast, meshed: list[Meshed], target: MeshTarget, measured: MeshFigures,
    unit: str = "",
) -> Proof:  # fmt: skip
    """The proof item by item, from what was read back.

    Args:
        unit: key of the unit that the file says, empty where it says none.
        meshed: every body that was written, once for each place it stands in.
    """
    pieces: dict[str, list[Meshed]] = {}
    for each in meshed:
        pieces.setdefault(each.body, []).append(each)
    meshing = Meshing(model, target, {})
    compared = [
        _unit_compared(model, each.item, unit) if each.item.thing == "units" and unit
        else _compared(meshing, each, pieces)
        for each in listed(model).values()
    ]  # fmt: skip
    largest = max((m.deviation for m in meshed if m.deviation is not None), default=None)
    figures = Proof(
        verdict=Verdict.UNPROVED, ledger=Ledger(()), max_deviation=largest,
        max_volume_error=measured.volume_error, max_shift=measured.shift, unannounced=(), false_alarms=(),
        method="middles of facets and of their edges measured from the faces they stand for; volume, area, "
        "extent and number of the facets read back compared with those of the bodies and as written",
    )  # fmt: skip
    return finish_proof(compared, forecast, figures, units=(model.unit_told or NO_UNIT, unit or "none"))


def _unit_compared(model: Model, item: Item, unit: str) -> Compared:
    """The unit that a file says against that of the model."""
    verdict = Verdict.CARRIED if unit == model.unit_told else Verdict.ALTERED
    return Compared(item, verdict, unit)


def _compared(meshing: Meshing, each: Listed, written: Mapping[str, list[Meshed]]) -> Compared:
    item, body = each.item, each.subject.it
    if isinstance(body, Body):
        pieces = written.get(body.id, [])
        if not pieces or not all(p.is_back for p in pieces):
            return Compared(item, Verdict.LOST, "", "it was not found in the file")
        kept = _kept(meshing, each)
        if kept is not None:
            return kept.compare(meshing, item, body, pieces)
    elif item.aspect == "root":
        alone = _is_alone(meshing, each)
        verdict = Verdict.CARRIED if alone else Verdict.LOST
        return Compared(item, verdict, item.text if alone else "", "", int(alone))
    return Compared(item, Verdict.LOST, "", "the file has none")
