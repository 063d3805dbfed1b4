"""What triangles keep of an aspect of a body: foreseen, and compared with what was read back."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from gondrel.core.carriage.items import Item
from gondrel.core.carriage.ledger import Compared
from gondrel.core.model.body import Body, BodyKind, Rgba
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.verdicts import Fate, Verdict

__all__ = [
    "BODY",
    "COLOURS",
    "LAYERS",
    "NAME",
    "NO_PLACE",
    "SHAPE",
    "InMesh",
    "MeshTarget",
    "Meshed",
    "Meshing",
]

NO_PLACE = "a mesh file has no place for it"


@dataclass(frozen=True, slots=True)
class MeshTarget:
    """What a kind of mesh file keeps.

    Args:
        title: its name for people; things: of names, colours and layers those it has a place for.
        merges: whether all bodies become one mesh; each: whether parts go in files of their own.
        unit: key of the unit its numbers are in; says_unit: whether the file says so.
    """

    title: str
    things: frozenset[str]
    merges: bool
    each: bool
    remarks: tuple[str, ...] = ()
    unit: str = "mm"
    says_unit: bool = False


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


@dataclass(frozen=True, slots=True)
class Meshing:
    """What is sent as triangles.

    Args:
        deviations: by body id, how far facets lie off surfaces, mm.
    """

    model: Model
    target: MeshTarget
    deviations: Mapping[str, float]

    @property
    def is_merged(self) -> bool:
        """Whether several bodies become one mesh."""
        return self.target.merges and sum(1 for _ in self.model.bodies()) > 1

    def is_overruled(self, product: Product) -> bool:
        """Whether a component gives a product's bodies another colour."""
        return any(o.colour is not None and o.product == product.id for _, o in self.model.occurrences())


@dataclass(frozen=True, slots=True)
class InMesh:
    """What triangles keep of an aspect of a body.

    Args:
        foresee: its fate and why; compare: the verdict by the pieces that were written of the body.
        thing: the thing that a target must have a place for, empty where every mesh keeps it.
    """

    foresee: Callable[[Meshing, Item, Product, Body], tuple[Fate, str]]
    compare: Callable[[Meshing, Item, Body, list[Meshed]], Compared]
    thing: str = ""


_CARRIED = (Fate.CARRIED, "")


def _body_fate(meshing: Meshing, item: Item, product: Product, body: Body) -> tuple[Fate, str]:
    if meshing.is_merged:
        return Fate.ALTERED, "it becomes part of one mesh"
    return _CARRIED if body.kind is BodyKind.MESH else (Fate.ALTERED, "it becomes a mesh")


def _body_back(meshing: Meshing, item: Item, body: Body, pieces: list[Meshed]) -> Compared:
    merged = meshing.is_merged
    same = body.kind is BodyKind.MESH and not merged
    verdict = Verdict.CARRIED if same else Verdict.ALTERED
    return Compared(item, verdict, "part of one mesh" if merged else "mesh", "", 1)


def _shape_fate(meshing: Meshing, item: Item, product: Product, body: Body) -> tuple[Fate, str]:
    if body.kind is BodyKind.MESH:
        return _CARRIED
    off = max(meshing.deviations.values(), default=0.0)
    return Fate.ALTERED, f"triangles, the furthest {off:.2g} mm off a surface"


def _shape_back(meshing: Meshing, item: Item, body: Body, pieces: list[Meshed]) -> Compared:
    off = max((p.deviation for p in pieces if p.deviation is not None), default=None)
    verdict = Verdict.CARRIED if body.kind is BodyKind.MESH else Verdict.ALTERED
    return Compared(item, verdict, "" if off is None else f"within {off:.2g} mm", "triangles", 1)


def _name_fate(meshing: Meshing, item: Item, product: Product, body: Body) -> tuple[Fate, str]:
    spelled = " ".join(body.name.split())
    return _CARRIED if spelled == body.name else (Fate.ALTERED, "blanks and line ends are made one")


def _name_back(meshing: Meshing, item: Item, body: Body, pieces: list[Meshed]) -> Compared:
    return _by_text(item, pieces[0].back_name)


def _layer_fate(meshing: Meshing, item: Item, product: Product, body: Body) -> tuple[Fate, str]:
    if any(c.isspace() for c in item.text):
        return Fate.ALTERED, "blanks in its name become underlines"
    return _CARRIED


def _layer_back(meshing: Meshing, item: Item, body: Body, pieces: list[Meshed]) -> Compared:
    kept = item.text in pieces[0].back_layers
    return _by_text(item, item.text if kept else ", ".join(pieces[0].back_layers))


def _colour_fate(meshing: Meshing, item: Item, product: Product, body: Body) -> tuple[Fate, str]:
    if not meshing.target.each and meshing.is_overruled(product):
        return Fate.ALTERED, "the colour of a component takes its place"
    return _CARRIED


def _colour_back(meshing: Meshing, item: Item, body: Body, pieces: list[Meshed]) -> Compared:
    overruled = any(p.colour != body.colour for p in pieces)
    wanted = {item.text}
    if item.aspect == "face colours":
        wanted = {colour.label for _, colour in body.face_colours}
    missing = [p for p in pieces if not wanted <= p.back_colours]
    if not missing and not overruled:
        return Compared(item, Verdict.CARRIED, item.text, "", item.weight)
    after = ", ".join(sorted(set().union(*(p.back_colours for p in pieces))))
    verdict = Verdict.ALTERED if after else Verdict.LOST
    return Compared(item, verdict, after, "", item.weight if after else 0)


def _by_text(item: Item, after: str) -> Compared:
    verdict = Verdict.CARRIED if after == item.text else Verdict.ALTERED if after else Verdict.LOST
    return Compared(item, verdict, after, "", int(bool(after)))


BODY = InMesh(_body_fate, _body_back)
SHAPE = InMesh(_shape_fate, _shape_back)
NAME = InMesh(_name_fate, _name_back, "names")
LAYERS = InMesh(_layer_fate, _layer_back, "layers")
COLOURS = InMesh(_colour_fate, _colour_back, "colours")
