"""What a recipient will keep of a file, item by item: the forecast with the limits of their card in it."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace

from gondrel.core.carriage.forecast import Forecast, Foreseen
from gondrel.core.carriage.items import Item
from gondrel.core.errors import UsageError
from gondrel.core.formats.registry import target
from gondrel.core.formats.settings import LINKED, SendSettings
from gondrel.core.model.body import BodyFacts, BodyKind
from gondrel.core.model.detail import Complexity
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.verdicts import Fate, gravest
from gondrel.core.recipients.card import Card

__all__ = ["as_received_by", "harm_of"]

_SWITCHES = {
    "layers": "layers", "names": "names", "numbers": "numbers", "revisions": "revisions",
    "materials": "materials", "metadata": "metadata", "validation": "check figures",
}  # fmt: skip
_BODY_THINGS = ("bodies", "geometry", "colours", "layers")
_XT = re.compile(r"SCH_\d+_(\d+)")
_FLAT = "they take no assemblies: every body stands where it is, in one part"


def as_received_by(
    card: Card, model: Model, facts: Mapping[str, BodyFacts], kind: str, settings: SendSettings,
    forecast: Forecast, complexity: Callable[[str], Complexity],
) -> Forecast:  # fmt: skip
    """The forecast of a file and of what its recipient then makes of it.

    Args:
        kind: of the target; settings: it is sent with.
        forecast: of the file alone; complexity: of a body by its hash.

    Raises:
        UsageError: when it goes as files that refer to each other, which they do not take.
    """
    if settings.files in LINKED and not card.reads.external:
        raise UsageError(
            f"{card.name} take no files that refer to each other",
            hint="send one file, or change their card",
        )
    expecting = _Expecting(card, model, facts, kind, settings, complexity)
    entries = (*map(expecting.entry, forecast.entries), *expecting.besides())
    remarks = (*forecast.remarks, *expecting.remarks())
    return replace(forecast, target=f"{forecast.target}, {card.name}", entries=entries, remarks=remarks)


def harm_of(card: Card, forecast: Forecast) -> dict[str, Fate]:
    """The gravest fate of each thing that matters to the recipient, where anything happens to it."""
    harm: dict[str, Fate] = {}
    for entry in forecast.entries:
        if entry.fate is not Fate.CARRIED and entry.item.thing not in card.indifferent:
            worst = gravest((entry.fate, harm.get(entry.item.thing, Fate.CARRIED)))
            harm[entry.item.thing] = Fate(worst) if worst else entry.fate
    return harm


def _placed_subjects(model: Model) -> Iterator[str]:
    """Ids of what something is still said of when every body stands on its own: the bodies that stand
    anywhere, and the products they are of."""
    for identity in {place.product for place in model.walk()}:
        product = model.product(identity)
        if product.bodies:
            yield identity
            yield from (body.id for body in product.bodies)


class _Expecting:
    def __init__(
        self, card: Card, model: Model, facts: Mapping[str, BodyFacts], kind: str, settings: SendSettings,
        complexity: Callable[[str], Complexity],
    ) -> None:  # fmt: skip
        self.card, self.kind, self.settings = card, kind, settings
        self.model, self.complexity = model, complexity
        self.unit = target(kind)[1].unit or settings.unit.key
        self.placed = set(_placed_subjects(model))
        self.bodies = {body.id: body for _, body in model.bodies()}
        self.facts = facts
        self.refused = dict(self._refused(model))
        self.uses = {use.id: use for _, use in model.occurrences()}

    def _refused(self, model: Model) -> Iterator[tuple[str, str]]:
        """Bodies that do not come in, with why."""
        limits = self.card.limits
        for _, body in model.bodies():
            facts = self.facts.get(body.blob)
            is_sheet = body.kind is BodyKind.SOLID and self.settings.bodies == "surfaces"
            kind = BodyKind.SHEET if is_sheet else body.kind
            if limits.closed and kind is not BodyKind.SOLID:
                yield body.id, f"they take closed solids only, it is a {kind.value}"
            elif limits.tolerance and facts is not None and facts.tolerance > limits.tolerance:
                text = f"it gapes by up to {facts.tolerance:.3g} mm, they take {limits.tolerance:g} mm"
                yield body.id, text
            elif not limits.cavities and kind is BodyKind.SOLID and self.complexity(body.blob).shells > 1:
                yield body.id, "they take no hollow solids"
            elif limits.degree and (degree := self.complexity(body.blob).degree) > limits.degree:
                yield body.id, f"it has a spline of degree {degree}, they take {limits.degree}"

    @property
    def is_scaled(self) -> bool:
        """Whether their numbers become other lengths."""
        limits = self.card.limits
        return not limits.trusts_unit and bool(limits.unit) and limits.unit != self.unit

    def entry(self, entry: Foreseen) -> Foreseen:
        """An entry of the forecast as it is at the recipient's."""
        if entry.fate is Fate.LOST:
            return entry
        fate, why = self._fate(entry.item)
        if fate is Fate.CARRIED or (fate is Fate.ALTERED and entry.fate is Fate.ALTERED):
            return entry
        return Foreseen(entry.item, fate, why, 0 if fate is Fate.LOST else entry.more)

    def _fate(self, item: Item) -> tuple[Fate, str]:
        card, keeps = self.card, self.card.keeps
        if card.reads.kinds and self.kind not in card.reads.kinds:
            return Fate.LOST, f"they can't read {self.kind}"
        if why := self._too_new():
            return Fate.LOST, why
        if not keeps.structure and self._is_dropped(item):
            return Fate.LOST, _FLAT
        if item.subject in self.refused and item.thing in ("bodies", "geometry"):
            return Fate.LOST, self.refused[item.subject]
        if item.subject in self.refused:
            return Fate.LOST, "its body does not come in"
        if item.thing in _SWITCHES and not getattr(keeps, item.thing):
            return Fate.LOST, f"they keep no {_SWITCHES[item.thing]}"
        if item.thing == "colours":
            return self._colour(item)
        if item.thing == "names":
            return self._name(item)
        if self.is_scaled and self._is_length(item):
            return Fate.ALTERED, f"they take every number for {card.limits.unit}"
        body = self.bodies.get(item.subject)
        if card.limits.surfaces and body is not None and body.kind is BodyKind.SOLID:
            if (item.thing, item.aspect) == ("bodies", "body"):
                return Fate.ALTERED, "they take surfaces only: it comes in as a sheet"
            if item.thing == "geometry" and item.aspect == "shape":
                return Fate.ALTERED, "it encloses nothing: its volume is not told any more"
        return Fate.CARRIED, ""

    def _too_new(self) -> str:
        """Why a Parasolid file is too new for them, empty where it is not."""
        newest, chosen = self.card.limits.xt, target(self.kind)[1]
        version = _XT.match(chosen.schema)
        if newest and version is not None and int(version[1]) > newest:
            return f"the file is of version {version[1]}, they read up to {newest}"
        return ""

    def _is_dropped(self, item: Item) -> bool:
        """Whether nothing of an item is left when bodies stand on their own."""
        if item.thing == "validation":
            return True
        return bool(item.subject) and item.subject not in self.placed

    def _is_length(self, item: Item) -> bool:
        """Whether an item is other when all numbers are of another unit."""
        if item.thing == "geometry":
            return True
        use = self.uses.get(item.subject)
        return item.thing == "placement" and use is not None and any(use.placement[i] for i in (3, 7, 11))

    def besides(self) -> Iterator[Foreseen]:
        """What the ledger tells of besides the items of the model."""
        if self.is_scaled:
            why = f"they take every number for {self.card.limits.unit}"
            yield Foreseen(Item("units", "", "size", "the whole", "as it is"), Fate.ALTERED, why)

    def _colour(self, item: Item) -> tuple[Fate, str]:
        keeps = self.card.keeps
        if keeps.colours == "none":
            return Fate.LOST, "they keep no colours"
        if keeps.colours == "bodies" and item.aspect != "body colour":
            return Fate.LOST, "they keep one colour for each body"
        return Fate.CARRIED, ""

    def _name(self, item: Item) -> tuple[Fate, str]:
        keeps = self.card.keeps
        if keeps.name_length and len(item.text) > keeps.name_length:
            return Fate.ALTERED, f"they cut names at {keeps.name_length} characters"
        if keeps.ascii and not item.text.isascii():
            return Fate.ALTERED, "their names are of plain ASCII"
        return Fate.CARRIED, ""

    def remarks(self) -> Iterator[str]:
        """What to know of them besides."""
        if self.card.remarks:
            yield self.card.remarks
        if self.is_scaled:
            yield f"They do not look at the unit: send it in {self.card.limits.unit}."
        yield from self._lacking()

    def _lacking(self) -> Iterator[str]:
        """What they ask for of every part and parts do not have, or not as it must be."""
        for required in self.card.required:
            lacking, wrong = [], []
            for product in self.model.products:
                if not product.bodies:
                    continue
                value = _said_of(product, required.key)
                if not value:
                    lacking.append(product.label)
                elif not re.fullmatch(required.pattern, value):
                    wrong.append(f"{product.label} ({value})")
            if lacking:
                yield f"They ask for {required.key} of every part; {_listed(lacking)} without it."
            if wrong:
                yield f"They ask for {required.key} as {required.pattern}; it is not of {_listed(wrong)}."


_PLAIN = ("number", "name", "revision", "description")


def _said_of(product: Product, key: str) -> str:
    """What a product says of a property, by its key or one of number, name, revision, description,
    material; empty where it says nothing."""
    word = key.casefold()
    if word in _PLAIN:
        return str(getattr(product, word))
    if word == "material":
        return product.material.name if product.material is not None else ""
    return next((str(d.value) for d in product.metadata if d.key.casefold() == word), "")


def _listed(names: list[str]) -> str:
    more = f" and {len(names) - 3} more" if len(names) > 3 else ""
    return f"{', '.join(names[:3])}{more}"
