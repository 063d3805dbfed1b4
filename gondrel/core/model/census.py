"""The census of a file: every record accounted for.

A record is of a thing that was read into the model, or only serves one, or stands in the remainder.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass

__all__ = ["MOST_PLACES", "Census", "Remainder", "merged", "summed"]

MOST_PLACES = 5
"""How many places of one kind and type are named."""


@dataclass(frozen=True, slots=True)
class Remainder:
    """Records that no thing of the ledger covers.

    Args:
        kind: what they are, in plain words; type: the format's own word for the record.
        count: how many records.
        where: what they hang on, where that can be said: products, bodies, components by their names.
    """

    kind: str
    type: str
    count: int
    where: tuple[str, ...] = ()

    @property
    def aspect(self) -> str:
        """Kind and type in one, as items of the ledger are told apart."""
        return f"{self.kind}: {self.type}"


@dataclass(frozen=True, slots=True)
class Census:
    """How many records of a file are what; carried, serving and remainder add up to all.

    Args:
        carried: of a thing that was read; serving: geometry, units, contexts and the like of those.
        rest: the remainder by kind and type, heads of a kind before what they refer to.
        noun: what the format's records are called, in the plural.
        besides: what records that were read say in attributes that no model holds; type is the attribute,
            count how often. These are no records, so they count in none of the figures.
        waiting: which records were accounted for so far, packed, while shapes wait to be loaded.
    """

    all: int
    carried: int
    serving: int
    rest: tuple[Remainder, ...] = ()
    noun: str = "records"
    besides: tuple[Remainder, ...] = ()
    waiting: str = ""

    @property
    def remainder(self) -> int:
        """How many records are in the remainder."""
        return sum(each.count for each in self.rest)

    def kinds(self) -> dict[str, list[Remainder]]:
        """The remainder by its kinds."""
        kinds: dict[str, list[Remainder]] = {}
        for each in (*self.rest, *self.besides):
            kinds.setdefault(each.kind, []).append(each)
        return kinds


def merged(censuses: Iterable[Census | None]) -> Census | None:
    """The censuses of several files of one model as one; None when one of them was not taken."""
    known = list(censuses)
    if not known or any(each is None for each in known):
        return None
    whole = [each for each in known if each is not None]
    return Census(
        sum(c.all for c in whole), sum(c.carried for c in whole), sum(c.serving for c in whole),
        summed(r for c in whole for r in c.rest), whole[0].noun,
        summed(r for c in whole for r in c.besides),
    )  # fmt: skip


def summed(several: Iterable[Remainder], most: int | None = None) -> tuple[Remainder, ...]:
    """Remainders of one kind and type as one, in the order they first come.

    Args:
        most: how many places are kept; all when not given.
    """
    counts: Counter[tuple[str, str]] = Counter()
    where: dict[tuple[str, str], dict[str, None]] = {}
    for each in several:
        counts[each.kind, each.type] += each.count
        where.setdefault((each.kind, each.type), {}).update(dict.fromkeys(each.where))
    return tuple(Remainder(*key, count, tuple(where[key])[:most]) for key, count in counts.items())
