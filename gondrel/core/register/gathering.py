"""Many revisions at once: read with all they use, and made."""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, TypeVar

from sqlalchemy import Connection, Row, insert, select

from gondrel.core.model.registered import RevisionName
from gondrel.core.register.keeping import Author, Entry, new_id, revision_row, use_rows
from gondrel.core.register.tables import EVENT, ITEM, REVISION, USE

__all__ = [
    "Gathered",
    "NewRevision",
    "events_of_items",
    "gathered",
    "known_keys",
    "make_revisions",
    "revisions_by_name",
]

T = TypeVar("T")
_AT_ONCE = 500


@dataclass(frozen=True, slots=True)
class Gathered:
    """A revision as it is kept, with its number and item, and what it uses in order."""

    row: Row[Any]
    uses: tuple[tuple[str, dict[str, Any]], ...]


@dataclass(frozen=True, slots=True)
class NewRevision:
    """A revision to be made, with its identity, and the lineage of its item where that is new."""

    key: str
    name: RevisionName
    entry: Entry
    item_lineage: str = ""


def _chunks(items: Sequence[T]) -> Iterator[Sequence[T]]:
    for first in range(0, len(items), _AT_ONCE):
        yield items[first : first + _AT_ONCE]


def _loaded(connection: Connection, keys: Sequence[str]) -> Iterator[Gathered]:
    columns = (REVISION, ITEM.c.number, ITEM.c.lineage.label("item_lineage"))
    for some in _chunks(keys):
        uses: defaultdict[str, list[tuple[str, dict[str, Any]]]] = defaultdict(list)
        beneath = select(USE).where(USE.c.parent.in_(some)).order_by(USE.c.parent, USE.c.position)
        for use in connection.execute(beneath):
            uses[use.parent].append((use.child, json.loads(use.occurrence)))
        query = select(*columns).join(ITEM, ITEM.c.id == REVISION.c.item).where(REVISION.c.id.in_(some))
        for row in connection.execute(query):
            yield Gathered(row, tuple(uses[row.id]))


def gathered(connection: Connection, keys: Iterable[str], *, all_revisions: bool) -> list[Gathered]:
    """Revisions with everything they use, what is used before what uses it.

    Args:
        all_revisions: whether every revision of each item goes along.
    """
    found: dict[str, Gathered] = {}
    front, items = list(dict.fromkeys(keys)), set[str]()
    while front:
        fresh = list(_loaded(connection, front))
        found |= {each.row.id: each for each in fresh}
        wanted = {child for each in fresh for child, _ in each.uses}
        if all_revisions:
            new = {each.row.item for each in fresh} - items
            items |= new
            for some in _chunks(sorted(new)):
                query = select(REVISION.c.id).where(REVISION.c.item.in_(some))
                wanted |= set(connection.execute(query).scalars())
        front = sorted(wanted - set(found))
    rows = found.values()
    return sorted(
        rows, key=lambda g: (g.row.height, g.row.number, len(g.row.major), g.row.major, g.row.minor)
    )


def events_of_items(connection: Connection, numbers: Sequence[str]) -> Iterator[dict[str, str]]:
    """What happened to items, item by item, each in its order."""
    columns = (EVENT, ITEM.c.number, REVISION.c.major, REVISION.c.minor)
    for some in _chunks(numbers):
        query = (
            select(*columns)
            .join(REVISION, REVISION.c.id == EVENT.c.revision)
            .join(ITEM, ITEM.c.id == REVISION.c.item)
            .where(ITEM.c.number.in_(some))
            .order_by(ITEM.c.number, EVENT.c.serial)
        )
        for row in connection.execute(query):
            name = str(RevisionName(row.number, row.major, row.minor))
            yield {"revision": name, "what": row.what, "who": row.made_by, "when": row.made_at}


def revisions_by_name(connection: Connection, numbers: Iterable[str]) -> dict[RevisionName, Row[Any]]:
    """All revisions of some items by their names."""
    found = {}
    for some in _chunks(sorted(set(numbers))):
        query = select(REVISION, ITEM.c.number).join(ITEM, ITEM.c.id == REVISION.c.item)
        for row in connection.execute(query.where(ITEM.c.number.in_(some))):
            found[RevisionName(row.number, row.major, row.minor)] = row
    return found


def known_keys(connection: Connection, keys: Sequence[str]) -> set[str]:
    """Which identities are here already."""
    found: set[str] = set()
    for some in _chunks(keys):
        query = select(REVISION.c.id).where(REVISION.c.id.in_(some))
        found |= set(connection.execute(query).scalars())
    return found


def make_revisions(connection: Connection, new: Sequence[NewRevision], author: Author) -> None:
    """Make revisions, in work, and the items that are not there yet. What is used must come before."""
    if not new:
        return
    when, who = author.stamp
    items = dict[str, str]()
    for some in _chunks(sorted({each.name.number for each in new})):
        query = select(ITEM.c.number, ITEM.c.id).where(ITEM.c.number.in_(some))
        items |= {row.number: row.id for row in connection.execute(query)}
    fresh = {each.name.number: each.item_lineage for each in new if each.name.number not in items}
    if fresh:
        rows = [
            {"id": new_id(), "number": number, "made_at": when, "made_by": who, "lineage": lineage}
            for number, lineage in fresh.items()
        ]
        connection.execute(insert(ITEM), rows)
        items |= {row["number"]: row["id"] for row in rows}
    revisions = [
        revision_row(
            each.key, items[each.name.number], (each.name.major, each.name.minor), each.entry, (when, who)
        )
        for each in new
    ]
    connection.execute(insert(REVISION), revisions)
    uses = [row for each in new for row in use_rows(each.key, each.entry.uses)]
    if uses:
        connection.execute(insert(USE), uses)
    made = [{"revision": each.key, "what": "made", "made_by": who, "made_at": when} for each in new]
    connection.execute(insert(EVENT), made)
