"""Taking a crate in: as the same items, or as an independent copy."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Row, insert, select, update

from gondrel.core.errors import MalformedFile, UsageError
from gondrel.core.model.registered import Put, RevisionName, State
from gondrel.core.model.store import BlobStore
from gondrel.core.register.crates import Crate, verify
from gondrel.core.register.errors import ContentConflict
from gondrel.core.register.gathering import NewRevision, known_keys, make_revisions, revisions_by_name
from gondrel.core.register.keeping import SOURCE, Author, Entry, content_of, new_id, noted
from gondrel.core.register.tables import EVENT, REVISION, USE
from gondrel.core.work.files import private_folder

__all__ = ["RESOLVES", "Checked", "Conflict", "checked", "conflicts_of", "unpack"]

RESOLVES = ("ours", "theirs")
"""What becomes of a conflict: what is here is used, or theirs comes in as a new minor revision."""


@dataclass(frozen=True, slots=True)
class Conflict:
    """A revision that comes in and is here with another content.

    Args:
        ours, theirs: labels, contents and states of both; our_id, their_id: identities of both.
    """

    name: RevisionName
    our_id: str
    their_id: str
    ours: tuple[str, str, str]
    theirs: tuple[str, str, str]


@dataclass(frozen=True, slots=True)
class Checked:
    """A crate that was looked at whole and is right; pieces that are not here yet lie in a folder."""

    crate: Crate
    pieces: Mapping[str, Path]


@contextmanager
def checked(crate: Crate, blobs: BlobStore) -> Iterator[Checked]:
    """Look at every piece of a crate, once, and lay out beside the bodies what is not among them.

    Raises:
        MalformedFile: for the first of what is not right.
    """
    pieces: dict[str, Path] = {}
    bodies: set[str] = set()
    with private_folder(blobs.folder) as folder:

        def keep(key: str) -> Path | None:
            if not bodies:  # not before the list was found sound
                bodies.update(key for row in crate.revisions for key in row["bodies"])
            if blobs.has(key, "brep" if key in bodies else SOURCE):
                return None
            return pieces.setdefault(key, folder / key)

        problems = verify(crate, keep)
        if problems:
            more = f", and {len(problems) - 1} more" if len(problems) > 1 else ""
            raise MalformedFile(f"{problems[0].piece} {problems[0].what}{more}; nothing was taken in")
        yield Checked(crate, pieces)


def conflicts_of(connection: Connection, crate: Crate) -> list[Conflict]:
    """Revisions of a crate that was found right whose names are taken here by another content."""
    return _conflicts(crate, revisions_by_name(connection, _numbers(crate)))


def _numbers(crate: Crate) -> set[str]:
    return {row["number"] for row in crate.revisions}


def _name(row: Mapping[str, Any]) -> RevisionName:
    return RevisionName(row["number"], row["major"], row["minor"])


def _conflicts(crate: Crate, here: Mapping[RevisionName, Row[Any]]) -> list[Conflict]:
    found = []
    for row in crate.revisions:
        ours = here.get(_name(row))
        if ours is not None and ours.content != row["content"]:
            theirs = row["label"], row["content"], row["state"]
            found.append(
                Conflict(_name(row), ours.id, row["id"], (ours.label, ours.content, ours.state), theirs)
            )
    return found


def unpack(
    connection: Connection, blobs: BlobStore, looked_at: Checked, author: Author, *, as_copy: str = "",
    resolved: Mapping[str, str] | None = None,
) -> list[Put]:  # fmt: skip
    """Take a crate in, whole or not at all.

    Args:
        as_copy: a rule for the numbers of an independent copy, as {number}-COPY; empty for the same items.
        resolved: for NUMBER/REVISION of a conflict, one of RESOLVES.

    Raises:
        ContentConflict: for a conflict that is not resolved. UsageError: for a rule that makes numbers that
            are taken.
    """
    crate = looked_at.crate
    taking = _Taking(connection, blobs, looked_at)
    if as_copy:
        taking.copies(_renamed(connection, crate, as_copy))
    else:
        chosen = dict(resolved or {})
        open_ones = [c for c in _conflicts(crate, taking.here) if str(c.name) not in chosen]
        if open_ones:
            named = ", ".join(str(c.name) for c in open_ones[:8])
            verb = "is" if len(open_ones) == 1 else "are"
            raise ContentConflict(
                f"{named} {verb} here with another content; nothing was taken in",
                hint="resolve each: ours keeps what is here, theirs comes in as a new minor revision",
            )
        taking.same(chosen)
    return taking.made(author)


class _Taking:
    """A crate that is being taken in: what is to be made, and what it becomes here."""

    def __init__(self, connection: Connection, blobs: BlobStore, looked_at: Checked) -> None:
        self.connection, self.blobs = connection, blobs
        self.crate, self.pieces = looked_at.crate, looked_at.pieces
        crate = self.crate
        self.here = revisions_by_name(connection, _numbers(crate))
        self.new: list[NewRevision] = []
        self.told: list[Put] = []
        self.states: list[tuple[str, str]] = []
        self.renamed: Mapping[str, str] = {}
        self.notes: list[tuple[str, str]] = []
        self._ids: dict[str, tuple[str, str, int]] = {}
        self._theirs = {row["id"]: row["content"] for row in crate.revisions}
        self._named = {_name(row) for row in crate.revisions}
        self._keys = known_keys(connection, [row["id"] for row in crate.revisions])

    def same(self, chosen: Mapping[str, str]) -> None:
        """As the same items: what is there by content is recognised."""
        for row in self.crate.revisions:
            name, content = _name(row), self._content(row)
            ours = self.here.get(name)
            if ours is not None and (ours.content == content or chosen.get(str(name)) == "ours"):
                is_same = ours.content == content
                if is_same and ours.state == State.IN_WORK and row["state"] != State.IN_WORK:
                    self.states.append((ours.id, row["state"]))
                self._ids[row["id"]] = ours.id, ours.content, ours.height
                self.told.append(Put(name, "recognised" if is_same else "ours is kept"))
                continue
            what = "taken in"
            if ours is not None:
                taken = {*self.here, *self._named, *(each.name for each in self.new)}
                while name in taken:
                    name = RevisionName(name.number, name.major, name.minor + 1)
                what = "taken in as a new minor revision"
            key = new_id() if row["id"] in self._keys else row["id"]
            self._add(row, name, key, content, row["lineage"], row["item_lineage"])
            self.told.append(Put(name, what))

    def copies(self, renamed: Mapping[str, str]) -> None:
        """As an independent copy, under other numbers."""
        self.renamed = renamed
        for row in self.crate.revisions:
            name = RevisionName(renamed[row["number"]], row["major"], row["minor"])
            key = new_id()
            self._add(row, name, key, self._content(row), row["id"], row["item"])
            self.notes.append((key, f"copied from {_name(row)}"))
            self.told.append(Put(name, "copied"))

    def _content(self, row: Mapping[str, Any]) -> str:
        """What it is here: the same, unless something it uses became another."""
        if all(self._ids[use["revision"]][1] == self._theirs[use["revision"]] for use in row["uses"]):
            return str(row["content"])
        uses = [(self._ids[use["revision"]][1], use["occurrence"]) for use in row["uses"]]
        return content_of(row["product"], uses)

    def _add(
        self, row: Mapping[str, Any], name: RevisionName, key: str, content: str, lineage: str, item: str
    ) -> None:
        uses = tuple((self._ids[use["revision"]][0], use["occurrence"]) for use in row["uses"])
        height = 1 + max((self._ids[use["revision"]][2] for use in row["uses"]), default=-1)
        source = row["source"]["name"], row["source"]["sha256"]
        entry = Entry(
            row["label"], row["description"], row["product"], tuple(row["bodies"]), uses, content, height,
            source, lineage, row["remarks"], tuple(map(tuple, row["source"].get("files", ()))),
        )  # fmt: skip
        self.new.append(NewRevision(key, name, entry, item))
        self._ids[row["id"]] = key, content, height
        self.states.append((key, row["state"]))

    def made(self, author: Author) -> list[Put]:
        """Make it all: bodies first, then the rows, states and histories."""
        bodies = {body for each in self.new for body in each.entry.bodies}
        sources = {each.entry.source[1] for each in self.new}
        sources |= {key for each in self.new for _, key in each.entry.referred}
        for key, file in self.pieces.items():
            if key in bodies or key in sources:
                self.blobs.adopt(key, "brep" if key in bodies else SOURCE, file)
        make_revisions(self.connection, self.new, author)
        staying = _with_states(self.connection, self.states)
        for key, what in self.notes:
            noted(self.connection, key, what, author)
        self._histories()
        names = {each.name for each in self.new if each.key in staying}
        late = "in work: what is here of what it uses is not released"
        return [Put(p.name, f"{p.what}, {late}") if p.name in names else p for p in self.told]

    def _histories(self) -> None:
        ids = {str(each.name): each.key for each in self.new}
        rows = []
        for each in self.crate.manifest["events"]:
            number, _, rest = each["revision"].rpartition("/")
            key = ids.get(f"{self.renamed.get(number, number)}/{rest}")
            if key is not None:
                rows.append(
                    {"revision": key, "what": each["what"], "made_by": each["who"], "made_at": each["when"]}
                )
        if rows:
            self.connection.execute(insert(EVENT), rows)


def _with_states(connection: Connection, states: list[tuple[str, str]]) -> set[str]:
    """Bring what came in to its states: released from beneath, withdrawn from above.

    Returns: ids of what has to stay in work, since ours that it uses is not released.
    """
    staying = set()
    for key, state in states:
        if state != State.RELEASED:
            continue
        query = select(REVISION.c.id).join(USE, USE.c.child == REVISION.c.id)
        query = query.where(USE.c.parent == key, REVISION.c.state != str(State.RELEASED))
        if connection.execute(query).first() is not None:
            staying.add(key)
        else:
            connection.execute(update(REVISION).where(REVISION.c.id == key).values(state=state))
    for key, state in reversed(states):
        if state == State.WITHDRAWN:
            connection.execute(update(REVISION).where(REVISION.c.id == key).values(state=state))
    return staying


def _renamed(connection: Connection, crate: Crate, rule: str) -> dict[str, str]:
    """The numbers of a copy by the crate's own. Raises UsageError."""
    try:
        renamed = {number: rule.format(number=number) for number in _numbers(crate)}
    except (KeyError, IndexError, ValueError):
        raise UsageError(f"a rule for numbers knows {{number}} only (got {rule!r})") from None
    if len(set(renamed.values())) != len(renamed):
        raise UsageError(f"the rule {rule!r} gives two items one number")
    taken = sorted({name.number for name in revisions_by_name(connection, renamed.values())})
    if taken:
        raise UsageError(f"{taken[0]} is here already", hint="choose another rule for numbers")
    return renamed
