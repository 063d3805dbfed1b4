"""What a step is, and how it finds the items that it is about."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from fnmatch import fnmatchcase
from typing import Any, Protocol

from gondrel.core.arrange.properties import Edit
from gondrel.core.errors import GondrelError, UsageError
from gondrel.core.kernel.derive import facts_of
from gondrel.core.model.body import Body, BodyFacts
from gondrel.core.model.product import Occurrence, Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["Context", "Items", "Kind", "NotApplicable", "Run", "Shape", "StepRecord", "kind_of_step"]

_SAME_SHAPE = 1e-4


class NotApplicable(GondrelError):
    """A step does not find what it is about; what comes after it can still be done."""

    code = "not-applicable"


@dataclass(frozen=True, slots=True)
class Shape:
    """A body by its figures, for finding it again whatever it is called: mm3 and mm2."""

    volume: float
    area: float


@dataclass(frozen=True, slots=True)
class Items:
    """Products by what they are. Everything that is given must hold; nothing given means all parts.

    Args:
        number, name: with * and ? as in file names, small or capital.
        like: the figures of the product's bodies together.
        inside: name or number of the assembly that their places are in.
        any_of: further descriptions, of which one must hold.
    """

    number: str = ""
    name: str = ""
    like: Shape | None = None
    inside: str = ""
    any_of: tuple[Items, ...] = ()

    def __str__(self) -> str:
        if self.any_of:
            listed = "; ".join(str(each) for each in self.any_of[:3])
            return listed + (f" and {len(self.any_of) - 3} more" if len(self.any_of) > 3 else "")
        said = [t for t in (self.number, self.name) if t]
        if self.like is not None:
            said.append(f"{self.like.volume:.6g} mm\u00b3")
        if self.inside:
            said.append(f"in {self.inside}")
        return ", ".join(said) or "everything"


@dataclass(slots=True)
class Context:
    """The model that a step is done to, and where bodies are kept."""

    model: Model
    store: BlobStore
    progress: Progress = SILENT
    told: list[str] = field(default_factory=list)

    def facts(self, body: Body) -> BodyFacts:
        """The measures of a body. Raises KernelRefused."""
        return facts_of(self.store, body.blob)

    def all_facts(self) -> dict[str, BodyFacts]:
        """The measures of all bodies, by hash. Raises KernelRefused."""
        return {blob: facts_of(self.store, blob) for blob in self.model.blobs()}

    def products(self, items: Items) -> list[Product]:
        """The products that are meant, in their order. Raises NotApplicable when there is none."""
        chosen = [p for p in self.model.products if not p.is_reference and self._is_meant(p, items)]
        if items.inside:
            within = {use.product for use in self._uses_inside(items.inside)}
            chosen = [p for p in chosen if p.id in within]
        if not chosen:
            raise NotApplicable(f"there is no item {items}")
        return chosen

    def _is_meant(self, product: Product, items: Items) -> bool:
        if items.any_of and not any(self._is_meant(product, each) for each in items.any_of):
            return False
        if items.number and not fnmatchcase(product.number.casefold(), items.number.casefold()):
            return False
        if items.name and not fnmatchcase(product.name.casefold(), items.name.casefold()):
            return False
        if items.like is None:
            return True
        if not product.bodies:
            return False
        facts = [self.facts(body) for body in product.bodies]
        pairs = (
            (sum(f.volume for f in facts), items.like.volume),
            (sum(f.area for f in facts), items.like.area),
        )
        return all(abs(a - b) <= _SAME_SHAPE * max(abs(a), abs(b)) for a, b in pairs)

    def _uses_inside(self, name: str) -> Iterator[Occurrence]:
        wanted = name.casefold()
        for parent, use in self.model.occurrences():
            if wanted in (parent.name.casefold(), parent.number.casefold()):
                yield use

    def uses(self, items: Items) -> list[Occurrence]:
        """The places of the products that are meant. Raises NotApplicable when they have none."""
        wanted = {p.id for p in self.products(items)}
        everywhere = (use for _, use in self.model.occurrences())
        inside = self._uses_inside(items.inside) if items.inside else everywhere
        chosen = [use for use in inside if use.product in wanted]
        if not chosen:
            raise NotApplicable(f"{items} is no component of anything")
        return chosen

    def single(self, items: Items) -> Product:
        """The one product that is meant. Raises NotApplicable when there are several."""
        products = self.products(items)
        if len(products) != 1:
            raise NotApplicable(f"{len(products)} items are {items}; the step is about one")
        return products[0]


class Run(Protocol):
    """A step with its values."""

    def run(self, context: Context, items: Items) -> Edit:
        """Do it. Raises NotApplicable, UsageError, KernelRefused."""
        ...


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of step.

    Args:
        key: what it is called in a steps file; title: what it does, for people.
        of: the dataclass of its values.
    """

    key: str
    title: str
    of: Callable[..., Run]


@dataclass(frozen=True, slots=True)
class StepRecord:
    """One step: what is done, to which items, with which values."""

    do: str
    items: Items = field(default_factory=Items)
    values: Any = None


def kind_of_step(kinds: dict[str, Kind], key: str) -> Kind:
    """A kind of step by its key. Raises UsageError for an unknown one."""
    if key not in kinds:
        raise UsageError(f"there is no step {key!r}", hint=", ".join(kinds))
    return kinds[key]
