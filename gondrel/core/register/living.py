"""The life of revisions: released in the right order, withdrawn, repointed."""

from __future__ import annotations

import json
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace as with_changes
from types import MappingProxyType

from sqlalchemy import Connection, delete, insert, select, update

from gondrel.core.errors import UsageError
from gondrel.core.model.registered import Change, Revision, State
from gondrel.core.register.errors import RegisterBusy, RuleBroken
from gondrel.core.register.keeping import Author, Entry, changed_now, content_of, new_revision, noted
from gondrel.core.register.looking import (
    children_of,
    events_of,
    latest_of,
    revision_named,
    revision_of,
    where_used,
)
from gondrel.core.register.tables import REVISION, USE

__all__ = ["release", "remark", "repoint", "unreleased", "withdraw"]

_SHOWN = 8
_UNSEEN: Mapping[str, int] = MappingProxyType({})
_EVERY: Mapping[str, Collection[int]] = MappingProxyType({})


def _changed(
    connection: Connection, revision: Revision, author: Author, what: str, **values: object
) -> None:
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


def _as_seen(connection: Connection, revision: Revision, seen: Mapping[str, int]) -> None:
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
    seen: Mapping[str, int] = _UNSEEN,
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
    _as_seen(connection, revision, seen)
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
        _changed(connection, each, author, "released", state=str(State.RELEASED))
    return [with_changes(each, state=State.RELEASED) for each in order]


def withdraw(
    connection: Connection, text: str, author: Author, *, seen: Mapping[str, int] = _UNSEEN
) -> Revision:
    """Withdraw a revision: it is not to be used any more.

    Raises:
        RuleBroken: while something uses it. RegisterBusy: as release.
    """
    revision = revision_named(connection, text)
    _as_seen(connection, revision, seen)
    if revision.state is State.WITHDRAWN:
        raise RuleBroken(f"{revision.name} is withdrawn already")
    using = [w.use for w in where_used(connection, revision.id) if w.level == 1
             and w.use.state is not State.WITHDRAWN]  # fmt: skip
    if using:
        named = ", ".join(str(use.parent) for use in using[:_SHOWN])
        raise RuleBroken(
            f"{revision.name} is used in {named}", hint="repoint these to another revision first"
        )
    _changed(connection, revision, author, "withdrawn", state=str(State.WITHDRAWN))
    return with_changes(revision, state=State.WITHDRAWN)


def remark(
    connection: Connection, text: str, remarks: str, author: Author, *, seen: Mapping[str, int] = _UNSEEN
) -> None:
    """Write a remark on a revision, whatever its state. Raises RegisterBusy as release."""
    revision = revision_named(connection, text)
    _as_seen(connection, revision, seen)
    _changed(connection, revision, author, "remarked on", remarks=remarks)


def repoint(
    connection: Connection, old: str, new: str, author: Author, *, within: Sequence[str] = (),
    only: Mapping[str, Collection[int]] = _EVERY, preview: bool = False, seen: Mapping[str, int] = _UNSEEN,
) -> list[Change]:  # fmt: skip
    """Use another revision where one is used, and make the assemblies new that must be for it, upward in
    one step: what is in work and used by nothing beside is changed in place, all else becomes a new minor
    revision.

    Args:
        within: assemblies by name, in which alone it happens, at any level; everywhere without any.
        only: places of components, from 1, by the name of the assembly they are in: of these assemblies no
            other component changes; none where there are none.
        preview: whether it is only said.
        seen: stamps of the two and of assemblies when they were looked at, by name.

    Raises:
        UsageError: when the old one is not used there, or a place is none of its. RuleBroken: when the new
            one is withdrawn, or it would contain itself. RegisterBusy: as release, and when more or other
            assemblies would change than were looked at.
    """
    one, other = revision_named(connection, old), revision_named(connection, new)
    for each in (one, other):
        _as_seen(connection, each, seen)
    if one.id == other.id:
        raise UsageError(f"{one.name} is the same as itself")
    if other.state is State.WITHDRAWN:
        raise RuleBroken(f"{other.name} is withdrawn", hint="choose another revision")
    chosen = _chosen(connection, one, only)
    affected = _affected(connection, one.id, [revision_named(connection, w).id for w in within], chosen)
    if not affected:
        where = f" in {', '.join(within)}" if within else ""
        raise UsageError(f"{one.name} is not used{where}")
    if other.id in affected:
        raise RuleBroken(f"{other.name} uses {one.name} itself: it would contain itself")
    moving = {one.id: other.id}
    changes = []
    for key in affected:
        revision = revision_of(connection, key)
        if seen and str(revision.name) not in seen:
            raise RegisterBusy(
                f"{revision.name} uses {one.name} since you looked", hint="nothing was done: look again"
            )
        _as_seen(connection, revision, seen)
        uses = children_of(connection, key)
        pointed = {
            place for place, (child, _) in enumerate(uses, 1)
            if child in moving and (child != one.id or key not in chosen or place in chosen[key])
        }  # fmt: skip
        renewed = [
            (moving[child] if place in pointed else child, use)
            for place, (child, use) in enumerate(uses, 1)
        ]
        if revision.state is State.IN_WORK and _is_alone(connection, key, affected):
            name = revision.name
            if not preview:
                _in_place(connection, revision, renewed, author)
        else:
            latest = latest_of(connection, revision.name.number)
            assert latest is not None
            name = with_changes(latest.name, minor=latest.name.minor + 1)
            if not preview:
                moving[key] = _again(connection, revision, name.minor, name.major, renewed, author)
            else:
                moving[key] = key
        components = tuple((place, str(uses[place - 1][1].get("name", ""))) for place in sorted(pointed))
        direct = frozenset(place for place in pointed if uses[place - 1][0] == one.id)
        changes.append(Change(revision.name, name, components, direct))
    return changes


def _chosen(
    connection: Connection, one: Revision, only: Mapping[str, Collection[int]]
) -> dict[str, frozenset[int]]:
    """Places by the id of the assembly they are in. Raises UsageError for a place that is none."""
    chosen = {}
    for name, places in only.items():
        assembly = revision_named(connection, name)
        uses = children_of(connection, assembly.id)
        there = {place for place, (child, _) in enumerate(uses, 1) if child == one.id}
        wrong = sorted(set(places) - there)
        if wrong:
            hint = f"it uses it at {', '.join(map(str, sorted(there)))}" if there else ""
            raise UsageError(f"component {wrong[0]} of {assembly.name} is not {one.name}", hint=hint)
        chosen[assembly.id] = frozenset(places)
    return chosen


def _affected(
    connection: Connection, key: str, roots: Sequence[str], chosen: Mapping[str, Collection[int]]
) -> list[str]:
    """Assemblies that use a revision at any level, lower before higher; in some roots only, if any.

    Args:
        chosen: places of components that count, by the assembly that uses it directly.
    """
    parents: set[str] = set()
    front = [key]
    while front:
        current = front.pop()
        query = select(USE.c.parent).where(USE.c.child == current).distinct()
        for parent in connection.execute(query).scalars():
            is_left = current == key and parent in chosen and not chosen[parent]
            if parent not in parents and not is_left:
                parents.add(parent)
                front.append(parent)
    states = {p: revision_of(connection, p) for p in parents}
    affected = {p for p, r in states.items() if r.state is not State.WITHDRAWN}
    if roots:
        beneath: set[str] = set()
        waiting = list(roots)
        while waiting:
            current = waiting.pop()
            if current not in beneath:
                beneath.add(current)
                waiting += [child for child, _ in children_of(connection, current)]
        affected &= beneath
    heights = {
        p: int(connection.execute(select(REVISION.c.height).where(REVISION.c.id == p)).scalar_one())
        for p in affected
    }
    order = sorted(affected, key=lambda p: (heights[p], str(states[p].name)))
    return order


def _is_alone(connection: Connection, key: str, affected: Collection[str]) -> bool:
    """Whether everything that uses a revision is to change with it."""
    query = select(USE.c.parent).where(USE.c.child == key).distinct()
    return set(connection.execute(query).scalars()) <= set(affected)


def _height(connection: Connection, children: Collection[str]) -> int:
    query = select(REVISION.c.height).where(REVISION.c.id.in_(set(children)))
    return 1 + max(connection.execute(query).scalars(), default=-1)


def _content(connection: Connection, key: str, uses: Sequence[tuple[str, dict[str, object]]]) -> str:
    text = connection.execute(select(REVISION.c.product).where(REVISION.c.id == key)).scalar_one()
    query = select(REVISION.c.id, REVISION.c.content).where(REVISION.c.id.in_({c for c, _ in uses}))
    contents = {row.id: row.content for row in connection.execute(query)}
    return content_of(json.loads(text), [(contents[child], use) for child, use in uses])


def _in_place(
    connection: Connection,
    revision: Revision,
    uses: Sequence[tuple[str, dict[str, object]]],
    author: Author,
) -> None:
    height = _height(connection, [child for child, _ in uses])
    content = _content(connection, revision.id, uses)
    _lift(connection, revision.id, height)
    connection.execute(delete(USE).where(USE.c.parent == revision.id))
    connection.execute(
        insert(USE),
        [{"parent": revision.id, "position": n, "child": child, "occurrence": json.dumps(use)}
         for n, (child, use) in enumerate(uses)],
    )  # fmt: skip
    _changed(connection, revision, author, "repointed", content=content)


def _lift(connection: Connection, key: str, height: int) -> None:
    """Make a revision stand at least so high, and what uses it above."""
    now = int(connection.execute(select(REVISION.c.height).where(REVISION.c.id == key)).scalar_one())
    if height <= now:
        return
    for parent in connection.execute(select(USE.c.parent).where(USE.c.child == key).distinct()).scalars():
        _lift(connection, parent, height + 1)
    connection.execute(update(REVISION).where(REVISION.c.id == key).values(height=height))


def _again(
    connection: Connection, revision: Revision, minor: int, major: str,
    uses: Sequence[tuple[str, dict[str, object]]], author: Author,
) -> str:  # fmt: skip
    text = connection.execute(select(REVISION.c.product).where(REVISION.c.id == revision.id)).scalar_one()
    entry = Entry(
        revision.label, revision.description, json.loads(text), revision.bodies, tuple(uses),
        _content(connection, revision.id, uses), _height(connection, [child for child, _ in uses]),
        revision.source,
    )  # fmt: skip
    return new_revision(connection, revision.name.number, (major, minor), entry, author)
