"""What a register holds: items, revisions, uses, histories."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from typing import Any

from sqlalchemy import Connection, Row, Select, func, or_, select

from gondrel.core.errors import UsageError
from gondrel.core.model.registered import Event, Reach, Revision, RevisionName, State, Use, WhereUsed
from gondrel.core.register.names import name_of
from gondrel.core.register.tables import EVENT, ITEM, REVISION, USE

__all__ = [
    "children_of", "events_of", "latest_of", "listed", "product_of", "revision_named", "revision_of",
    "revisions_of", "revisions_of_item", "where_used",
]  # fmt: skip

_AT_ONCE = 500


def _revisions() -> Select[Any]:
    uses = select(func.count()).where(USE.c.parent == REVISION.c.id).scalar_subquery()
    columns = (REVISION, ITEM.c.number, uses.label("uses"))
    return select(*columns).join(ITEM, ITEM.c.id == REVISION.c.item)


def _made(row: Row[Any]) -> Revision:
    return Revision(
        row.id, row.item, RevisionName(row.number, row.major, row.minor), row.label, row.description,
        State(row.state), row.content, tuple(json.loads(row.bodies)), (row.made_at, row.made_by),
        (row.changed_at, row.changed_by), (row.source, row.source_sha256), row.remarks, row.uses,
        row.lineage, row.stamp,
    )  # fmt: skip


def listed(connection: Connection, reach: Reach) -> list[Revision]:
    """The latest revision of each item that is asked for, by number."""
    order = func.length(REVISION.c.major).desc(), REVISION.c.major.desc(), REVISION.c.minor.desc()
    place = func.row_number().over(partition_by=REVISION.c.item, order_by=order).label("place")
    newest = select(REVISION.c.id, place)
    matches = None
    if reach.text:  # only items any of whose revisions match need be ranked
        like = f"%{reach.text.replace('%', '').replace('_', chr(92) + '_')}%"
        matches = or_(ITEM.c.number.ilike(like, escape="\\"), REVISION.c.label.ilike(like, escape="\\"))
        some = select(REVISION.c.item).join(ITEM, ITEM.c.id == REVISION.c.item).where(matches)
        newest = newest.where(REVISION.c.item.in_(some))
    elif not reach.state:  # no item falls out
        newest = newest.where(
            REVISION.c.item.in_(select(ITEM.c.id).order_by(ITEM.c.number).limit(reach.most))
        )
    ranked = newest.subquery()
    query = _revisions().join(ranked, ranked.c.id == REVISION.c.id).where(ranked.c.place == 1)
    if matches is not None:
        query = query.where(matches)
    if reach.state:
        query = query.where(REVISION.c.state == reach.state)
    return [_made(row) for row in connection.execute(query.order_by(ITEM.c.number).limit(reach.most))]


def revisions_of(connection: Connection, number: str) -> list[Revision]:
    """All revisions of an item, in their order. Raises UsageError for an unknown number."""
    query = _revisions().where(ITEM.c.number == number)
    found = [_made(row) for row in connection.execute(query)]
    if not found:
        raise UsageError(f"the register has no item {number!r}")
    return sorted(found, key=lambda r: (len(r.name.major), r.name.major, r.name.minor))


def latest_of(connection: Connection, number: str) -> Revision | None:
    """The newest revision of an item; None where there is none."""
    try:
        return revisions_of(connection, number)[-1]
    except UsageError:
        return None


def revision_named(connection: Connection, text: str) -> Revision:
    """The revision of NUMBER/REVISION, or the newest of NUMBER. Raises UsageError where there is none."""
    number, parts = name_of(text)
    try:
        revisions = revisions_of(connection, number)
    except UsageError:
        if "/" not in number and parts is None:
            raise
        revisions = revisions_of(connection, text)  # a number may hold a stroke
        parts = None
    if parts is None:
        return revisions[-1]
    for revision in revisions:
        if (revision.name.major, revision.name.minor) == parts:
            return revision
    there = ", ".join(r.name.text for r in revisions)
    raise UsageError(f"{number} has no revision {parts[0]}.{parts[1]}", hint=f"there are {there}")


def revision_of(connection: Connection, key: str) -> Revision:
    """A revision by its id. Raises KeyError."""
    row = connection.execute(_revisions().where(REVISION.c.id == key)).first()
    if row is None:
        raise KeyError(key)
    return _made(row)


def revisions_of_item(connection: Connection, number: str) -> list[str]:
    """Ids of the revisions of an item, the one that was made last first; none for an unknown number."""
    query = select(REVISION.c.id).join(ITEM, ITEM.c.id == REVISION.c.item).where(ITEM.c.number == number)
    return list(connection.execute(query.order_by(REVISION.c.made_at.desc())).scalars())


def product_of(connection: Connection, key: str) -> str:
    """What a revision is, as JSON text. Raises NoResultFound."""
    return str(connection.execute(select(REVISION.c.product).where(REVISION.c.id == key)).scalar_one())


def children_of(connection: Connection, key: str) -> list[tuple[str, dict[str, Any]]]:
    """Revision ids and occurrences of what a revision uses, in their order."""
    query = select(USE.c.child, USE.c.occurrence).where(USE.c.parent == key).order_by(USE.c.position)
    return [(row.child, json.loads(row.occurrence)) for row in connection.execute(query)]


def events_of(connection: Connection, number: str) -> list[Event]:
    """What happened to an item, in its order."""
    query = (
        select(EVENT, ITEM.c.number, REVISION.c.major, REVISION.c.minor)
        .join(REVISION, REVISION.c.id == EVENT.c.revision)
        .join(ITEM, ITEM.c.id == REVISION.c.item)
        .where(ITEM.c.number == number)
        .order_by(EVENT.c.serial)
    )
    return [
        Event(RevisionName(row.number, row.major, row.minor), row.what, row.made_by, row.made_at)
        for row in connection.execute(query)
    ]


def _uses_of(connection: Connection, children: Sequence[str]) -> Iterator[Row[Any]]:
    child, item = REVISION.alias("c"), ITEM.alias("ci")
    for first in range(0, len(children), _AT_ONCE):
        query = (
            select(
                REVISION.c.id, ITEM.c.number, REVISION.c.major, REVISION.c.minor, REVISION.c.state,
                item.c.number.label("child_number"), child.c.major.label("child_major"),
                child.c.minor.label("child_minor"), func.count().label("times"),
            )
            .select_from(USE)
            .join(REVISION, REVISION.c.id == USE.c.parent)
            .join(ITEM, ITEM.c.id == REVISION.c.item)
            .join(child, child.c.id == USE.c.child)
            .join(item, item.c.id == child.c.item)
            .where(USE.c.child.in_(children[first : first + _AT_ONCE]))
            .group_by(
                REVISION.c.id, ITEM.c.number, REVISION.c.major, REVISION.c.minor, REVISION.c.state,
                item.c.number, child.c.major, child.c.minor,
            )
            .order_by(ITEM.c.number, REVISION.c.major, REVISION.c.minor)
        )  # fmt: skip
        yield from connection.execute(query)


def where_used(connection: Connection, key: str) -> list[WhereUsed]:
    """Every use of a revision, upward through all levels, each pair once."""
    found, seen = [], {key}
    front, level = [key], 0
    while front:
        level += 1
        above: list[str] = []
        for row in _uses_of(connection, front):
            child = RevisionName(row.child_number, row.child_major, row.child_minor)
            parent = RevisionName(row.number, row.major, row.minor)
            use = Use(parent, child, int(row.times), State(row.state))
            found.append(WhereUsed(use, level))
            if row.id not in seen:
                seen.add(row.id)
                above.append(row.id)
        front = above
    return found
