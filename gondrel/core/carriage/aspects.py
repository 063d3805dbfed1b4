"""Aspects of items that are compared by their texts: each is declared once, for all that is done with it.

Products, bodies, components and the model as a whole are said to have them by a thing of the ledger, the
aspect and a text. Colours, shapes, places and figures are compared by rules of their own elsewhere.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from gondrel.core.model.appearance import BACK, REFLECTANCE
from gondrel.core.model.body import Body
from gondrel.core.model.carries import EDGE_COLOURS, FILE_DESCRIPTION
from gondrel.core.model.metadata import Metadatum
from gondrel.core.model.particulars import ADMINISTRATIVE, KINDS, Particular
from gondrel.core.model.product import Occurrence, Product, Reference
from gondrel.core.model.snapshot import Model

__all__ = [
    "FACEWISE", "Said", "datum_text", "is_of_its_own", "of_body",
    "of_faces", "of_model", "of_product", "of_use", "ranked", "shown",
]  # fmt: skip

FACEWISE = {
    "face names": "names", "face layers": "layers", "face properties": "metadata",
    f"face {BACK}": "colours", f"face {REFLECTANCE}": "colours", EDGE_COLOURS: "colours",
}  # fmt: skip
"""Aspects of single faces and edges, compared where those lie, with their thing."""

_PLACES = 6
_LOOKS = (BACK, REFLECTANCE)
_SAID = "said: "
"""How aspects of particulars begin, so that no property of a user's is taken for one."""


@dataclass(frozen=True, slots=True)
class Said:
    """Something said of an item: the thing it belongs to, the aspect, its value for people."""

    thing: str
    aspect: str
    text: str


def datum_text(datum: Metadatum) -> str:
    """A property's value, unit and kind for people."""
    return f"{datum.text} ({datum.kind})"


def of_product(product: Product) -> Iterator[Said]:
    """Particulars, reference geometry and further properties of the material."""
    yield from _particulars(product.particulars)
    named = ranked(f"{_WORDS[each.kind]} {each.name}".strip() for each in product.references)
    for aspect, each in zip(named, product.references, strict=True):
        yield Said("geometry", aspect, _reference_text(each))
    if product.material is not None:
        yield from _data("materials", "material", product.material.properties)


def of_use(use: Occurrence) -> Iterator[Said]:
    """Particulars of a component, the layers it is on itself, and that it is hidden."""
    yield from _particulars(use.particulars)
    for layer in use.layers:
        yield Said("layers", f"on layer {layer}", layer)
    if use.hidden:
        yield Said("layers", "hidden", "hidden")


def of_body(body: Body) -> Iterator[Said]:
    """Properties and further looks of a body, and that it is hidden."""
    yield from _data("metadata", "property", body.metadata)
    for look in body.looks:
        yield Said("colours", look.aspect, look.value)
    if body.hidden:
        yield Said("layers", "hidden", "hidden")


def of_faces(body: Body) -> dict[str, Mapping[int, str]]:
    """What is said of the faces and edges of a body: by aspect, the texts of each."""
    found: dict[str, Mapping[int, str]] = {}
    for aspect, pairs in (
        ("face names", body.face_names),
        ("face layers", body.face_layers),
        ("face properties", [(n, f"{d.key}: {datum_text(d)}") for n, d in body.face_metadata]),
        *((f"face {a}", [(n, k.value) for n, k in body.face_appearance if k.aspect == a]) for a in _LOOKS),
        (EDGE_COLOURS, [(n, colour.label) for n, colour in body.edge_colours]),
    ):
        texts: defaultdict[int, list[str]] = defaultdict(list)
        for face, text in pairs:
            texts[face].append(text)
        if texts:
            found[aspect] = {face: "; ".join(sorted(several)) for face, several in texts.items()}
    return found


def of_model(model: Model) -> Iterator[Said]:
    """What is said of layers, in so far as something is on them, and of the file as a whole."""
    used = {layer for _, body in model.bodies() for layer in body.layers}
    used |= {layer for _, body in model.bodies() for _, layer in body.face_layers}
    used |= {layer for _, use in model.occurrences() for layer in use.layers}
    for each in model.particulars:
        layer, *rest = each.values
        if layer in used:
            text = rest[0] if rest else "hidden"
            yield Said(KINDS[each.kind].thing, f"{each.kind} {layer}", text)
    source = model.provenance
    if source is not None and source.file.written_by.description:
        yield Said("metadata", FILE_DESCRIPTION, source.file.written_by.description)


def ranked(names: Iterable[str]) -> Iterator[str]:
    """Names that may recur as aspects that do not: each with its rank among its like."""
    seen: Counter[str] = Counter()
    for name in names:
        seen[name] += 1
        yield f"{name}#{seen[name]}"


def shown(aspect: str) -> str:
    """An aspect in the words people read."""
    return aspect.removeprefix(_SAID).partition("#")[0]


def is_of_its_own(aspect: str) -> bool:
    """Whether a writer adds such a particular of its own accord, as a protocol demands."""
    said = aspect.removeprefix(_SAID)
    return said != aspect and said.partition(" of ")[0].partition("#")[0] in ADMINISTRATIVE


def _particulars(particulars: Iterable[Particular]) -> Iterator[Said]:
    ordered = sorted(particulars, key=lambda p: (p.kind, p.of, p.values))
    named = ranked(_SAID + (f"{p.kind} of {p.of}" if p.of else p.kind) for p in ordered)
    for aspect, each in zip(named, ordered, strict=True):
        yield Said(KINDS[each.kind].thing, aspect, each.text)


def _data(thing: str, word: str, metadata: tuple[Metadatum, ...]) -> Iterator[Said]:
    for aspect, datum in zip(ranked(datum.key for datum in metadata), metadata, strict=True):
        yield Said(thing, f"{word} {aspect}", datum_text(datum))


_WORDS = {"system": "coordinate system", "axis": "axis", "plane": "plane", "point": "point"}


def _reference_text(each: Reference) -> str:
    matrix = np.asarray(each.placement).reshape(4, 4)
    at = ", ".join(f"{v:.4f}" for v in matrix[:3, 3] + 0.0)
    if each.kind == "point":
        return f"at ({at}) mm"
    along = ", ".join(f"{v:.{_PLACES}f}" for v in np.round(matrix[:3, 2], _PLACES) + 0.0)
    text = f"at ({at}) mm along ({along})"
    if each.kind == "system":
        across = ", ".join(f"{v:.{_PLACES}f}" for v in np.round(matrix[:3, 0], _PLACES) + 0.0)
        text += f", x along ({across})"
    return text
