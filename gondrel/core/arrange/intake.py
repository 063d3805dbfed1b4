"""Taking in what a file brought by the settings of the receive: kinds, layers, colours, structure, size."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from gondrel.core.arrange.placed import place_bodies
from gondrel.core.arrange.solids import solids_of_meshes
from gondrel.core.kernel.base.shape import moved_blob
from gondrel.core.model.body import Body, BodyKind
from gondrel.core.model.product import Occurrence, Product, Validation
from gondrel.core.model.provenance import Note
from gondrel.core.model.receiving import AS_SENT, ReceiveSettings
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.model.units import BY_KEY
from gondrel.core.work import SILENT, Progress

__all__ = ["take_in"]

_WORDS = {
    BodyKind.SOLID: "solids",
    BodyKind.SHEET: "sheets",
    BodyKind.WIRE: "wires",
    BodyKind.POINT: "points",
    BodyKind.MESH: "meshes",
}


def take_in(
    model: Model, settings: ReceiveSettings, store: BlobStore, *, progress: Progress = SILENT
) -> Model:
    """The model as the settings want it, with a note for everything they left out or changed.

    Raises:
        KernelRefused: when a body can't be scaled or placed.
    """
    if replace(settings, search=(), join=None) == AS_SENT:
        return model
    intake = _Intake(model, settings, store, progress)
    intake.size()
    intake.kinds()
    intake.colours()
    intake.solids()
    intake.flat()
    intake.parts()
    intake.names()
    return replace(intake.model, notes=(*model.notes, *intake.notes))


@dataclass(slots=True)
class _Intake:
    model: Model
    settings: ReceiveSettings
    store: BlobStore
    progress: Progress
    notes: list[Note]

    def __init__(
        self, model: Model, settings: ReceiveSettings, store: BlobStore, progress: Progress
    ) -> None:
        self.model, self.settings, self.store, self.progress = model, settings, store, progress
        self.notes = []

    def _each(self, change: Callable[[Product], Product]) -> None:
        self.model = replace(self.model, products=tuple(change(p) for p in self.model.products))

    def _note(self, text: str) -> None:
        self.notes.append(Note("taken-by-settings", text))

    # --- size ------------------------------------------------------------------------------

    def size(self) -> None:
        """Scale everything where another unit or a factor is asked for."""
        factor = self.settings.scale
        wanted = BY_KEY.get(self.settings.unit)
        if wanted is not None and wanted.key != self.model.units.key:
            factor *= wanted.mm / self.model.units.mm
            said = self.model.units.key
            self._note(f"the numbers were taken in {wanted.key}, not in {said} as the file says")
            self.model = replace(self.model, units=wanted)
        if factor == 1.0:
            return
        if self.settings.scale != 1.0:
            self._note(f"everything was made {self.settings.scale:.6g} times its size")
        matrix = (factor, 0, 0, 0, 0, factor, 0, 0, 0, 0, factor, 0, 0, 0, 0, 1)
        blobs = {
            key: self.store.put(moved_blob(self.store.get(key), matrix))
            for key in self.progress.each(self.model.blobs(), "Scaling bodies")
        }
        self._each(lambda product: _scaled(product, factor, blobs))

    # --- what is taken ---------------------------------------------------------------------

    def kinds(self) -> None:
        """Leave out kinds and layers that are not wanted, and parts that hold nothing then."""
        left: Counter[str] = Counter()
        emptied: set[str] = set()

        def wanted(product: Product) -> Product:
            kept = tuple(b for b in product.bodies if self._is_wanted(product, b, left))
            if product.bodies and not kept and not product.occurrences:
                emptied.add(product.id)
            return replace(product, bodies=kept)

        self._each(wanted)
        if left:
            leftovers = ", ".join(f"{count} {what}" for what, count in sorted(left.items()))
            self._note(f"left out by the settings: {leftovers}")
        if emptied and len(emptied) < len(self.model.products):
            self._drop(emptied)

    def _is_wanted(self, product: Product, body: Body, left: Counter[str]) -> bool:
        word = "reference" if product.is_reference else _WORDS[body.kind]
        if word not in self.settings.kinds:
            left[word] += 1
            return False
        layers = self.settings.layers
        if layers is not None and body.layers and not layers & set(body.layers):
            left[f"on layer {body.layers[0]}"] += 1
            return False
        return True

    def _drop(self, gone: set[str]) -> None:
        """Take out products, and those that hold nothing without them."""
        while gone:
            products = tuple(
                replace(p, occurrences=tuple(o for o in p.occurrences if o.product not in gone))
                for p in self.model.products
                if p.id not in gone
            )
            had = {p.id for p in self.model.products if p.occurrences}
            roots = tuple(r for r in self.model.roots if r not in gone)
            self.model = replace(self.model, products=products, roots=roots)
            gone = {p.id for p in products if p.id in had and not p.occurrences and not p.bodies}
            if len(gone) == len(products):
                return

    def colours(self) -> None:
        """Take no colours where none are wanted."""
        if self.settings.colours:
            return
        self._each(
            lambda p: replace(
                p,
                bodies=tuple(b.uncoloured() for b in p.bodies),
                occurrences=tuple(replace(o, colour=None, own_colours=()) for o in p.occurrences),
            )
        )
        self._note("colours were not taken")

    # --- what becomes of it ----------------------------------------------------------------

    def solids(self) -> None:
        """Make solids of meshes where asked for."""
        if self.settings.facets == "mesh":
            return
        shaped = self.settings.facets == "shaped"
        made = solids_of_meshes(self.model, self.store, shaped=shaped, progress=self.progress)
        self.model = made.model
        self.notes += made.notes()

    def flat(self) -> None:
        """Everything in one part where asked for."""
        if self.settings.structure != "flat" or not any(p.occurrences for p in self.model.products):
            return
        count = len(self.model.products)
        placed = place_bodies(self.model, self.store, progress=self.progress)
        bodies = [
            replace(product.bodies[0], name=product.bodies[0].name or product.label)
            for product in placed.model.products
        ]
        root = self.model.product(self.model.roots[0])
        whole = replace(root, bodies=tuple(bodies), occurrences=(), validation=None)
        self.model = replace(self.model, products=(whole,), roots=(whole.id,))
        self._note(f"{count} products were put in one part of {len(bodies)} bodies")

    def parts(self) -> None:
        """A part for each body where asked for."""
        if self.settings.loose != "each":
            return
        products: list[Product] = []
        made = 0
        for product in self.model.products:
            if len(product.bodies) < 2:
                products.append(product)
                continue
            uses = list(product.occurrences)
            parts = []
            for number, body in enumerate(product.bodies, 1):
                name = body.name or f"{product.label} {number}"
                apart = product.is_reference
                part = Product(f"{product.id}#{number}", "", name, bodies=(body,), is_reference=apart)
                parts.append(part)
                uses.append(Occurrence(f"{product.id}#{number}", part.id, name))
            made += len(parts)
            products += [replace(product, bodies=(), occurrences=tuple(uses), validation=None), *parts]
        if made:
            self.model = replace(self.model, products=tuple(products))
            self._note(f"{made} bodies became parts of their own")

    def names(self) -> None:
        """Name products by their number or the file where asked for."""
        if self.settings.names == "number":
            self._each(lambda p: replace(p, name=p.number or p.name))
        elif self.settings.names == "file" and self.model.provenance is not None:
            stem = Path(self.model.provenance.file.path).stem
            roots = set(self.model.roots)
            self._each(lambda p: replace(p, name=stem) if p.id in roots and not p.is_reference else p)


def _scaled(product: Product, factor: float, blobs: dict[str, str]) -> Product:
    uses = []
    for occurrence in product.occurrences:
        place = list(occurrence.placement)
        for at in (3, 7, 11):
            place[at] *= factor
        uses.append(replace(occurrence, placement=tuple(place)))
    bodies = tuple(replace(b, blob=blobs[b.blob]) for b in product.bodies)
    said = product.validation
    if said is not None:
        said = Validation(
            said.volume * factor**3 if said.volume is not None else None,
            said.area * factor**2 if said.area is not None else None,
            (said.centroid[0] * factor, said.centroid[1] * factor, said.centroid[2] * factor)
            if said.centroid is not None
            else None,
            said.occurrences,
            said.bodies,
        )
    return replace(product, bodies=bodies, occurrences=tuple(uses), validation=said)
