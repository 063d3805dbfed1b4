"""What an aspect is declared by."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any, Generic, TypeVar

from gondrel.core.carriage.compare import compare_text
from gondrel.core.carriage.items import Item
from gondrel.core.carriage.ledger import Compared
from gondrel.core.carriage.words import shown
from gondrel.core.model.carries import Carries
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.verdicts import Fate

if TYPE_CHECKING:  # sides measure with the kernel, which forecasts do without
    from gondrel.core.carriage.aspects.meshed import InMesh
    from gondrel.core.carriage.sides import Sides

__all__ = ["Aspect", "Pair", "Statement", "Subject", "gains_nothing", "in_words", "text_of"]

S = TypeVar("S")


@dataclass(frozen=True, slots=True)
class Statement:
    """What a subject has of one aspect.

    Args:
        aspect: its key, which is the aspect's name but where there are several of a kind.
        text: the value for people; weight: how many countable things it stands for.
        thing: the thing it belongs to, where that is not the aspect's; where: what its path ends with, the
            aspect in words where it has a path of its own; value: what is behind it.
    """

    aspect: str
    text: str
    weight: int = 1
    thing: str = ""
    where: str = ""
    value: Any = None


@dataclass(frozen=True, slots=True)
class Subject(Generic[S]):
    """Something that has aspects, and where it stands.

    Args:
        it: a model, product, body or occurrence; holder: the product it is in, itself for a product.
        id: what items call it, "" for the model; path: where it is, for people; products: ids concerned.
    """

    model: Model
    it: S
    id: str
    path: str
    holder: Product | None = None
    products: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Pair(Generic[S]):
    """A subject that was meant and the one that came back of it."""

    sides: Sides
    item: Item
    ours: S
    theirs: S
    ids: tuple[str, ...] = ()


Read = Callable[[Subject[S]], Iterable[Statement]]
Compare = Callable[[Pair[S]], Compared]
Gain = Callable[[Subject[S], Subject[S]], Iterable[Statement]]
Foresee = Callable[[Statement, Subject[S], Carries, str, str], tuple[Fate, str] | None]


@dataclass(frozen=True, slots=True)
class Aspect(Generic[S]):
    """One way in which subjects of a kind carry a thing.

    Args:
        thing: the thing of the ledger; read: what a subject has of it.
        compare: the verdict on one item; by its text where none is given.
        gain: what came back and was not sent; what was not stated before where none is given.
        foresee: fate and why of one statement where a target's kinds of values matter, by its capabilities,
            its title and the unit written; None where it fares as its thing does.
        mesh: what triangles keep of it; nothing where it is None.
    """

    thing: str
    read: Read[S]
    compare: Compare[S] | None = None
    gain: Gain[S] | None = None
    foresee: Foresee[S] | None = None
    mesh: InMesh | None = None

    def items(self, subject: Subject[S]) -> Iterator[tuple[Statement, Item]]:
        """The items that a subject has of this aspect."""
        for each in self.read(subject):
            path = ": ".join(part for part in (subject.path, each.where) if part)
            yield each, Item(
                each.thing or self.thing, subject.id, each.aspect, path, each.text, each.weight,
                subject.products,
            )  # fmt: skip

    def compared(self, pair: Pair[S], theirs: Subject[S]) -> Compared:
        """The verdict on an item of this aspect."""
        return self.compare(pair) if self.compare is not None else self._by_text(pair, theirs)

    def _by_text(self, pair: Pair[S], theirs: Subject[S]) -> Compared:
        wanted = pair.item.thing, pair.item.aspect
        theirs_said = (s.text for s in self.read(theirs) if (s.thing or self.thing, s.aspect) == wanted)
        return compare_text(pair.item, next(theirs_said, ""), pair.ids)

    def gained(self, ours: Subject[S], theirs: Subject[S]) -> Iterator[tuple[str, Statement]]:
        """What came back and was not sent, each with its thing."""
        if self.gain is not None:
            for each in self.gain(ours, theirs):
                yield each.thing or self.thing, each
            return
        known = {(s.thing or self.thing, s.aspect) for s in self.read(ours)}
        for each in self.read(theirs):
            if (each.thing or self.thing, each.aspect) not in known:
                yield each.thing or self.thing, each


def gains_nothing(ours: Subject[S], theirs: Subject[S]) -> Iterable[Statement]:
    """For what is told otherwise when it came back and was not sent: as a whole, or not at all."""
    return ()


def text_of(thing: str, aspect: str, read: Callable[[S], str], **more: Any) -> Aspect[S]:
    """An aspect that is one text, stated where it is not empty and compared as it is."""

    def stated(subject: Subject[S]) -> Iterator[Statement]:
        if text := read(subject.it):
            yield Statement(aspect, text)

    return Aspect(thing, stated, **more)


def in_words(statements: Iterable[Statement]) -> Iterator[Statement]:
    """Statements whose path ends with the aspect in words."""
    return (replace(each, where=shown(each.aspect)) for each in statements)
