"""Repointing: another revision used where one is used, and made new what must be for it, upward."""

from __future__ import annotations

import json
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from dataclasses import replace as with_changes
from types import MappingProxyType
from typing import Any

from sqlalchemy import Connection, delete, insert, select, update

from gondrel.core.errors import UsageError
from gondrel.core.model.registered import Change, Revision, RevisionName, State
from gondrel.core.register.errors import RegisterBusy, RuleBroken
from gondrel.core.register.keeping import Author, Entry, content_of, new_revision, use_rows
from gondrel.core.register.living import UNSEEN, as_seen, changed
from gondrel.core.register.looking import (
    children_of,
    latest_of,
    product_of,
    revision_named,
    revision_of,
)
from gondrel.core.register.tables import REVISION, USE

__all__ = ["repoint"]

_EVERY: Mapping[str, Collection[int]] = MappingProxyType({})

Uses = Sequence[tuple[str, dict[str, Any]]]


def repoint(
    connection: Connection, old: str, new: str, author: Author, *, within: Sequence[str] = (),
    only: Mapping[str, Collection[int]] = _EVERY, preview: bool = False, seen: Mapping[str, int] = UNSEEN,
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
        as_seen(connection, each, seen)
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
    at_work = _Repointing(connection, author, one, {one.id: other.id}, chosen, affected, seen, preview)
    return [at_work.change(key) for key in affected]


@dataclass
class _Repointing:
    """A repointing at work: lower assemblies are changed before those that use them.

    Args:
        moving: what is used instead, by what was used; chosen: places that count, by assembly.
        minors: the newest minor revision of each number and major that this has made.
    """

    connection: Connection
    author: Author
    one: Revision
    moving: dict[str, str]
    chosen: Mapping[str, Collection[int]]
    affected: Sequence[str]
    seen: Mapping[str, int]
    preview: bool
    minors: dict[tuple[str, str], int] = field(default_factory=dict)

    def change(self, key: str) -> Change:
        """Change one assembly, or say what would be changed."""
        revision = revision_of(self.connection, key)
        if self.seen and str(revision.name) not in self.seen:
            raise RegisterBusy(
                f"{revision.name} uses {self.one.name} since you looked",
                hint="nothing was done: look again",
            )
        as_seen(self.connection, revision, self.seen)
        uses = children_of(self.connection, key)
        pointed = {place for place, (child, _) in enumerate(uses, 1) if self._is_pointed(key, place, child)}
        renewed = [
            (self.moving[child] if place in pointed else child, use)
            for place, (child, use) in enumerate(uses, 1)
        ]
        name = revision.name
        if revision.state is State.IN_WORK and _is_alone(self.connection, key, self.affected):
            if not self.preview:
                _in_place(self.connection, revision, renewed, self.author)
        else:
            name = self._next(revision)
            self.moving[key] = key if self.preview else self._again(revision, name, renewed)
        components = tuple((place, str(uses[place - 1][1].get("name", ""))) for place in sorted(pointed))
        direct = frozenset(place for place in pointed if uses[place - 1][0] == self.one.id)
        return Change(revision.name, name, components, direct)

    def _is_pointed(self, key: str, place: int, child: str) -> bool:
        is_meant = child != self.one.id or key not in self.chosen or place in self.chosen[key]
        return child in self.moving and is_meant

    def _next(self, revision: Revision) -> RevisionName:
        """The next minor revision, after those that were made, or would be, by this."""
        latest = latest_of(self.connection, revision.name.number)
        assert latest is not None
        major = latest.name.number, latest.name.major
        self.minors[major] = max(latest.name.minor, self.minors.get(major, 0)) + 1
        return with_changes(latest.name, minor=self.minors[major])

    def _again(self, revision: Revision, name: RevisionName, uses: Uses) -> str:
        product = json.loads(product_of(self.connection, revision.id))
        query = select(REVISION.c.referred).where(REVISION.c.id == revision.id)
        referred = json.loads(self.connection.execute(query).scalar_one())
        entry = Entry(
            revision.label, revision.description, product, revision.bodies, tuple(uses),
            _content(self.connection, product, uses),
            _height(self.connection, [child for child, _ in uses]), revision.source,
            referred=tuple(map(tuple, referred)),
        )  # fmt: skip
        return new_revision(self.connection, name.number, (name.major, name.minor), entry, self.author)


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
    return sorted(affected, key=lambda p: (_height_of(connection, p), str(states[p].name)))


def _is_alone(connection: Connection, key: str, affected: Collection[str]) -> bool:
    """Whether everything that uses a revision is to change with it."""
    query = select(USE.c.parent).where(USE.c.child == key).distinct()
    return set(connection.execute(query).scalars()) <= set(affected)


def _height_of(connection: Connection, key: str) -> int:
    return int(connection.execute(select(REVISION.c.height).where(REVISION.c.id == key)).scalar_one())


def _height(connection: Connection, children: Collection[str]) -> int:
    query = select(REVISION.c.height).where(REVISION.c.id.in_(set(children)))
    return 1 + max(connection.execute(query).scalars(), default=-1)


def _content(connection: Connection, product: Mapping[str, Any], uses: Uses) -> str:
    query = select(REVISION.c.id, REVISION.c.content).where(REVISION.c.id.in_({c for c, _ in uses}))
    contents = {row.id: row.content for row in connection.execute(query)}
    return content_of(product, [(contents[child], use) for child, use in uses])


def _in_place(connection: Connection, revision: Revision, uses: Uses, author: Author) -> None:
    height = _height(connection, [child for child, _ in uses])
    content = _content(connection, json.loads(product_of(connection, revision.id)), uses)
    _lift(connection, revision.id, height)
    connection.execute(delete(USE).where(USE.c.parent == revision.id))
    connection.execute(insert(USE), use_rows(revision.id, uses))
    changed(connection, revision, author, "repointed", content=content)


def _lift(connection: Connection, key: str, height: int) -> None:
    """Make a revision stand at least so high, and what uses it above."""
    if height <= _height_of(connection, key):
        return
    for parent in connection.execute(select(USE.c.parent).where(USE.c.child == key).distinct()).scalars():
        _lift(connection, parent, height + 1)
    connection.execute(update(REVISION).where(REVISION.c.id == key).values(height=height))
