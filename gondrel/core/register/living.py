"""The life of revisions: released in the right order, withdrawn, remarked on."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace as with_changes
from types import MappingProxyType

from sqlalchemy import Connection

from gondrel.core.model.registered import Revision, State
from gondrel.core.register.errors import RegisterBusy, RuleBroken
from gondrel.core.register.keeping import Author, changed_now, noted
from gondrel.core.register.looking import (
    children_of,
    events_of,
    revision_named,
    revision_of,
    where_used,
)

__all__ = ["UNSEEN", "as_seen", "changed", "release", "remark", "unreleased", "withdraw"]

_SHOWN = 8
UNSEEN: Mapping[str, int] = MappingProxyType({})
"""Nobody says what was looked at."""


def changed(
    connection: Connection, revision: Revision, author: Author, what: str, **values: object
) -> None:
    """Change a revision as it was read, and note it. Raises RegisterBusy."""
    if not changed_now(connection, revision.id, revision.stamp, author, **values):
        raise _changed_meanwhile(connection, revision)
    noted(connection, revision.id, what, author)


def _changed_meanwhile(connection: Connection, revision: Revision) -> RegisterBusy:
    now = revision_of(connection, revision.id)
    own = [e for e in events_of(connection, now.name.number) if e.revision == now.name]
    what = own[-1].what if own else "changed"
    when = now.changed[0][:19].replace("T", " ")
    return RegisterBusy(
        f"{now.name} was {what} by {now.changed[1]} at {when} UTC, after you looked at it",
        hint="nothing was done: look at it again",
    )


def as_seen(connection: Connection, revision: Revision, seen: Mapping[str, int]) -> None:
    """Raises RegisterBusy where a revision is not any more as it was looked at."""
    if seen.get(str(revision.name), revision.stamp) != revision.stamp:
        raise _changed_meanwhile(connection, revision)


def unreleased(connection: Connection, key: str) -> list[Revision]:
    """What a revision uses, at any level, that is not released, in the order to release it."""
    order: list[Revision] = []
    seen: set[str] = set()

    def look(current: str) -> None:
        for child, _ in children_of(connection, current):
            if child not in seen:
                seen.add(child)
                look(child)
                revision = revision_of(connection, child)
                if revision.state is not State.RELEASED:
                    order.append(revision)

    look(key)
    return order


def release(
    connection: Connection, text: str, author: Author, *, with_all: bool = False,
    seen: Mapping[str, int] = UNSEEN,
) -> list[Revision]:  # fmt: skip
    """Release a revision; it is fixed from then on.

    Args:
        with_all: whether all that it uses and that is in work is released before it.
        seen: stamps of revisions when they were looked at, by name.

    Returns: what was released, in its order.

    Raises:
        RuleBroken: when it is not in work, or uses something that is not released, naming what is missing.
        RegisterBusy: when it is not any more as it was looked at, saying who changed what.
    """
    revision = revision_named(connection, text)
    as_seen(connection, revision, seen)
    if revision.state is not State.IN_WORK:
        raise RuleBroken(f"{revision.name} is {revision.state} already")
    missing = unreleased(connection, revision.id)
    gone = [each for each in missing if each.state is State.WITHDRAWN]
    if gone or (missing and not with_all):
        named = ", ".join(str(each.name) for each in (gone or missing)[:_SHOWN])
        more = len(gone or missing) - _SHOWN
        rest = f" and {more} more" if more > 0 else ""
        hint = "repoint it to another revision" if gone else "release these first, in this order, or --all"
        state = "withdrawn" if gone else "not released"
        raise RuleBroken(f"{revision.name} uses what is {state}: {named}{rest}", hint=hint)
    order = [*missing, revision]
    for each in order:
        changed(connection, each, author, "released", state=str(State.RELEASED))
    return [with_changes(each, state=State.RELEASED) for each in order]


def withdraw(
    connection: Connection, text: str, author: Author, *, seen: Mapping[str, int] = UNSEEN
) -> Revision:
    """Withdraw a revision: it is not to be used any more.

    Raises:
        RuleBroken: while something uses it. RegisterBusy: as release.
    """
    revision = revision_named(connection, text)
    as_seen(connection, revision, seen)
    if revision.state is State.WITHDRAWN:
        raise RuleBroken(f"{revision.name} is withdrawn already")
    using = [w.use for w in where_used(connection, revision.id) if w.level == 1
             and w.use.state is not State.WITHDRAWN]  # fmt: skip
    if using:
        named = ", ".join(str(use.parent) for use in using[:_SHOWN])
        raise RuleBroken(
            f"{revision.name} is used in {named}", hint="repoint these to another revision first"
        )
    changed(connection, revision, author, "withdrawn", state=str(State.WITHDRAWN))
    return with_changes(revision, state=State.WITHDRAWN)


def remark(
    connection: Connection, text: str, remarks: str, author: Author, *, seen: Mapping[str, int] = UNSEEN
) -> None:
    """Write a remark on a revision, whatever its state. Raises RegisterBusy as release."""
    revision = revision_named(connection, text)
    as_seen(connection, revision, seen)
    changed(connection, revision, author, "remarked on", remarks=remarks)
