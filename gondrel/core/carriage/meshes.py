"""Forecast and proof of a send as triangles: what of each item a mesh can keep, and whether it did."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from gondrel.core.carriage.aspects import FACEWISE
from gondrel.core.carriage.forecast import Forecast, Foreseen
from gondrel.core.carriage.inventory import NO_UNIT, Item, inventory
from gondrel.core.carriage.ledger import Compared, Ledger, Proof
from gondrel.core.carriage.proof import finish_proof
from gondrel.core.model.body import Body, BodyKind, Rgba
from gondrel.core.model.carries import Carries
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model

__all__ = ["MeshFigures", "MeshTarget", "Meshed", "foresee_meshes", "prove_meshes"]

_NO_PLACE = "a mesh file has no place for it"


@dataclass(frozen=True, slots=True)
class MeshTarget:
    """What a kind of mesh file keeps.

    Args:
        title: its name for people; things: of names, colours and layers those it has a place for.
        merges: whether all bodies become one mesh; each: whether parts go in files of their own.
    """

    title: str
    things: frozenset[str]
    merges: bool
    each: bool
    remarks: tuple[str, ...] = ()
    unit: str = "mm"


@dataclass(frozen=True, slots=True)
class Meshed:
    """One body as it was written, and what came back of it.

    Args:
        body: id in the model; deviation: how far its facets lie off its surfaces, mm; None for a body that
            is a mesh itself, which has no surfaces to lie off.
        name, colour, layers: as written; is_back: whether its facets were found in what was read back;
            back_name, back_colours (labels), back_layers: as read back.
    """

    body: str
    deviation: float | None
    name: str = ""
    colour: Rgba | None = None
    is_back: bool = False
    back_name: str = ""
    back_colours: frozenset[str] = frozenset()
    back_layers: tuple[str, ...] = ()


def foresee_meshes(model: Model, target: MeshTarget, deviations: Mapping[str, float]) -> Forecast:
    """What becomes of every item.

    Args:
        deviations: by body id, how far facets lie off surfaces, mm.
    """
    entries = [
        Foreseen(item, *_fate(model, target, deviations, item)) for item in inventory(model).values()
    ]
    return Forecast(target.title, tuple(entries), target.remarks, target.unit)


def _fate(model: Model, target: MeshTarget, deviations: Mapping[str, float], item: Item) -> tuple[str, str]:
    bodies = {body.id: (product, body) for product, body in model.bodies()}
    if item.thing == "remainder":
        return "lost", Carries(frozenset()).why_not("remainder")
    if item.thing == "units":
        return "lost", f"{target.title} says no unit; its numbers are in {target.unit}"
    if item.subject in bodies:
        return _fate_of_body(model, target, deviations, item, *bodies[item.subject])
    if item.aspect == "root":
        is_alone = len(model.roots) == 1 and not model.product(item.subject).occurrences and not target.each
        return ("carried", "") if is_alone else ("lost", f"{target.title} has no components")
    if item.thing in ("structure", "placement"):
        why = "each part goes as it is" if target.each else "the place goes into the triangles"
        return "lost", f"{target.title} has no components; {why}"
    return "lost", _NO_PLACE


def _fate_of_body(
    model: Model,
    target: MeshTarget,
    deviations: Mapping[str, float],
    item: Item,
    product: Product,
    body: Body,
) -> tuple[str, str]:
    if body.kind in (BodyKind.WIRE, BodyKind.POINT):
        return "lost", "a mesh has no curves and no points"
    is_merged = target.merges and sum(1 for _ in model.bodies()) > 1
    if item.aspect == "body":
        if is_merged:
            return "altered", "it becomes part of one mesh"
        return ("carried", "") if body.kind is BodyKind.MESH else ("altered", "it becomes a mesh")
    if item.aspect == "shape":
        if body.kind is BodyKind.MESH:
            return "carried", ""
        off = max(deviations.values(), default=0.0)
        return "altered", f"triangles, the furthest {off:.2g} mm off a surface"
    if item.thing not in target.things or _is_besides(item):
        return "lost", _NO_PLACE
    if item.aspect == "body name":
        spelled = " ".join(body.name.split())
        return ("carried", "") if spelled == body.name else ("altered", "blanks and line ends are made one")
    if item.thing == "layers" and any(c.isspace() for c in item.text):
        return "altered", "blanks in its name become underlines"
    if item.thing == "colours" and not target.each and _is_overruled(model, product):
        return "altered", "the colour of a component takes its place"
    return "carried", ""


def _is_besides(item: Item) -> bool:
    """Whether an item is said of a body or its faces in words that no mesh has a place for."""
    return item.aspect in FACEWISE or item.aspect == "hidden"


def _is_overruled(model: Model, product: Product) -> bool:
    """Whether an occurrence gives a product's bodies another colour."""
    return any(o.colour is not None and o.product == product.id for _, o in model.occurrences())


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
    model: Model, forecast: Forecast, meshed: list[Meshed], target: MeshTarget, measured: MeshFigures
) -> Proof:
    """The proof item by item, from what was read back.

    Args:
        meshed: every body that was written, once for each place it stands in.
    """
    found: dict[str, list[Meshed]] = {}
    for each in meshed:
        found.setdefault(each.body, []).append(each)
    compared = [_compared(model, target, item, found) for item in inventory(model).values()]
    worst = max((m.deviation for m in meshed if m.deviation is not None), default=None)
    figures = Proof(
        verdict="", ledger=Ledger(()), max_deviation=worst,
        max_volume_error=measured.volume_error, max_shift=measured.shift, unannounced=(), false_alarms=(),
        method="middles of facets and of their edges measured from the faces they stand for; volume, area, "
        "extent and number of the facets read back compared with those of the bodies and as written",
    )  # fmt: skip
    return finish_proof(compared, forecast, figures, units=(model.unit_told or NO_UNIT, "none"))


def _compared(model: Model, target: MeshTarget, item: Item, found: Mapping[str, list[Meshed]]) -> Compared:
    bodies = {body.id: body for _, body in model.bodies()}
    body = bodies.get(item.subject)
    if body is not None:
        pieces = found.get(body.id, [])
        if not pieces or not all(p.is_back for p in pieces):
            return Compared(item, "lost", "", "it was not found in the file")
        return _compared_body(model, target, item, body, pieces)
    if item.aspect == "root":
        alone = len(model.roots) == 1 and not model.product(item.subject).occurrences and not target.each
        return Compared(item, "carried" if alone else "lost", item.text if alone else "", "", int(alone))
    return Compared(item, "lost", "", "the file has none")


def _compared_body(
    model: Model, target: MeshTarget, item: Item, body: Body, pieces: list[Meshed]
) -> Compared:
    if item.aspect == "body":
        merged = target.merges and sum(1 for _ in model.bodies()) > 1
        same = body.kind is BodyKind.MESH and not merged
        return Compared(
            item, "carried" if same else "altered", "part of one mesh" if merged else "mesh", "", 1
        )
    if item.aspect == "shape":
        off = max((p.deviation for p in pieces if p.deviation is not None), default=None)
        verdict = "carried" if body.kind is BodyKind.MESH else "altered"
        return Compared(item, verdict, "" if off is None else f"within {off:.2g} mm", "triangles", 1)
    if item.thing not in target.things or _is_besides(item):
        return Compared(item, "lost", "", "the file has none")
    if item.aspect == "body name":
        return _told(item, pieces[0].back_name)
    if item.thing == "layers":
        kept = item.text in pieces[0].back_layers
        return _told(item, item.text if kept else ", ".join(pieces[0].back_layers))
    overruled = any(p.colour != body.colour for p in pieces)
    wanted = {item.text}
    if item.aspect == "face colours":
        wanted = {colour.label for _, colour in body.face_colours}
    missing = [p for p in pieces if not wanted <= p.back_colours]
    if not missing and not overruled:
        return Compared(item, "carried", item.text, "", item.weight)
    after = ", ".join(sorted(set().union(*(p.back_colours for p in pieces))))
    return Compared(item, "altered" if after else "lost", after, "", item.weight if after else 0)


def _told(item: Item, after: str) -> Compared:
    verdict = "carried" if after == item.text else "altered" if after else "lost"
    return Compared(item, verdict, after, "", int(bool(after)))
