"""Aspects that several kinds of subjects have: properties, and what is said of them in particulars."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from typing import TypeVar

from gondrel.core.carriage.aspects.base import Aspect, Pair, Statement, Subject, in_words
from gondrel.core.carriage.compare import compare_metadata
from gondrel.core.carriage.ledger import Compared
from gondrel.core.carriage.words import PARTICULAR, datum_text, ranked
from gondrel.core.model.carries import Carries
from gondrel.core.model.metadata import Metadatum
from gondrel.core.model.particulars import KINDS, Particular
from gondrel.core.model.verdicts import Fate

__all__ = ["data_statements", "hidden_of", "metadata_of", "particulars_of"]

S = TypeVar("S")


def data_statements(word: str, metadata: Iterable[Metadatum]) -> Iterator[Statement]:
    """Properties as statements compared by their texts, told apart by a word before their keys."""
    data = tuple(metadata)
    for aspect, datum in zip(ranked(datum.key for datum in data), data, strict=True):
        yield Statement(f"{word} {aspect}", datum_text(datum))


def hidden_of(read: Callable[[S], bool]) -> Aspect[S]:
    """That a subject is hidden."""

    def stated(subject: Subject[S]) -> Iterator[Statement]:
        if read(subject.it):
            yield Statement("hidden", "hidden", where="hidden")

    return Aspect("layers", stated)


def metadata_of(read: Callable[[S], tuple[Metadatum, ...]], *, of_component: bool = False) -> Aspect[S]:
    """The properties of a subject, each with its value, type and unit."""

    def stated(subject: Subject[S]) -> Iterator[Statement]:
        data = read(subject.it)
        for aspect, datum in zip(ranked(datum.key for datum in data), data, strict=True):
            yield Statement(aspect, datum_text(datum), where=datum.key, value=datum)

    def compared(pair: Pair[S]) -> Compared:
        return compare_metadata(pair.item, read(pair.ours), read(pair.theirs), pair.ids)

    def gained(ours: Subject[S], theirs: Subject[S]) -> Iterator[Statement]:
        """Keys that were not there, and further values of those that were."""
        left = Counter(datum.key for datum in read(ours.it))
        for datum in read(theirs.it):
            left[datum.key] -= 1
            if left[datum.key] < 0:
                yield Statement(datum.key, datum_text(datum))

    def foreseen(
        statement: Statement, subject: Subject[S], carries: Carries, title: str, unit: str
    ) -> tuple[Fate, str] | None:
        """Values that do not keep their place, their type or their unit."""
        datum: Metadatum = statement.value
        if of_component and not carries.occurrence_metadata:
            return Fate.LOST, f"{title} has no place for metadata of an occurrence"
        if datum.type not in carries.metadata_kinds:
            return Fate.ALTERED, f"{title} has no {datum.type} value; it is written as text"
        if datum.measure and not carries.measures:
            return Fate.ALTERED, f"{title} has no measures; the bare number is written"
        return None

    return Aspect("metadata", stated, compared, gained, foreseen)


def particulars_of(read: Callable[[S], Iterable[Particular]]) -> Aspect[S]:
    """What is said of a subject in particulars, each of the thing that its kind belongs to."""

    def stated(subject: Subject[S]) -> Iterator[Statement]:
        ordered = sorted(read(subject.it), key=lambda p: (p.kind, p.of, p.values))
        named = ranked(PARTICULAR + (f"{p.kind} of {p.of}" if p.of else p.kind) for p in ordered)
        for aspect, each in zip(named, ordered, strict=True):
            yield Statement(aspect, each.text, thing=KINDS[each.kind].thing)

    return Aspect("metadata", lambda subject: in_words(stated(subject)))
