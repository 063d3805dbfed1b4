"""Taking a crate in: as the same items, or as an independent copy."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from cattrs.errors import BaseValidationError
from sqlalchemy import Connection, insert, select, update

from gondrel.core.errors import MalformedFile, UsageError
from gondrel.core.model.codec import from_plain
from gondrel.core.model.product import Occurrence, Product
from gondrel.core.model.registered import Put, RevisionName, State
from gondrel.core.model.store import BlobStore
from gondrel.core.register.crates import Crate, verify
from gondrel.core.register.errors import ContentConflict
from gondrel.core.register.keeping import Author, Entry, content_of, new_id, new_revision, noted
from gondrel.core.register.tables import EVENT, ITEM, REVISION, USE

__all__ = ["RESOLVES", "Conflict", "conflicts_of", "unpack"]

RESOLVES = ("ours", "theirs")
"""What becomes of a conflict: what is here is used, or theirs comes in as a new minor revision."""


@dataclass(frozen=True, slots=True)
class Conflict:
    """A revision that comes in and is here with another content.

    Args:
        ours, theirs: labels, contents and states of both.
    """

    name: RevisionName
    ours: tuple[str, str, str]
    theirs: tuple[str, str, str]


def _checked(crate: Crate) -> None:
    """Raises MalformedFile for the first of what is not right."""
    problems = verify(crate)
    if problems:
        more = f", and {len(problems) - 1} more" if len(problems) > 1 else ""
        raise MalformedFile(f"{problems[0].piece} {problems[0].what}{more}; nothing was taken in")
    for row in crate.revisions:
        try:
            from_plain(row["product"], Product)
            for use in row["uses"]:
                from_plain(use["occurrence"], Occurrence)
        except (BaseValidationError, KeyError, TypeError, ValueError) as error:
            name = f"{row['number']}/{row['major']}.{row['minor']}"
            raise MalformedFile(
                f"{name} can't be read ({type(error).__name__}); nothing was taken in"
            ) from None


def conflicts_of(connection: Connection, crate: Crate) -> list[Conflict]:
    """Revisions of a crate whose names are taken here by another content. Raises MalformedFile."""
    _checked(crate)
    found = []
    for row in crate.revisions:
        here = _here(connection, row["number"], row["major"], row["minor"])
        if here is not None and here.content != row["content"]:
            name = RevisionName(row["number"], row["major"], row["minor"])
            theirs = row["label"], row["content"], row["state"]
            found.append(Conflict(name, (here.label, here.content, here.state), theirs))
    return found


def _here(connection: Connection, number: str, major: str, minor: int):  # type: ignore[no-untyped-def]
    query = (
        select(REVISION)
        .join(ITEM, ITEM.c.id == REVISION.c.item)
        .where(ITEM.c.number == number, REVISION.c.major == major, REVISION.c.minor == minor)
    )
    return connection.execute(query).first()


def unpack(
    connection: Connection, blobs: BlobStore, crate: Crate, author: Author, *, as_copy: str = "",
    resolved: Mapping[str, str] | None = None,
) -> list[Put]:  # fmt: skip
    """Take a crate in, whole or not at all.

    Args:
        as_copy: a rule for the numbers of an independent copy, as {number}-COPY; empty for the same items.
        resolved: for NUMBER/REVISION of a conflict, one of RESOLVES.

    Raises:
        MalformedFile: when anything of it is not right. ContentConflict: for a conflict that is not
            resolved. UsageError: for a rule that makes numbers that are taken.
    """
    _checked(crate)
    if as_copy:
        return _as_copy(connection, blobs, crate, author, as_copy)
    chosen = dict(resolved or {})
    open_ones = [c for c in conflicts_of(connection, crate) if str(c.name) not in chosen]
    if open_ones:
        named = ", ".join(str(c.name) for c in open_ones[:8])
        verb = "is" if len(open_ones) == 1 else "are"
        raise ContentConflict(
            f"{named} {verb} here with another content; nothing was taken in",
            hint="resolve each: ours keeps what is here, theirs comes in as a new minor revision",
        )
    told, ids, contents = [], dict[str, str](), dict[str, str]()
    states: list[tuple[str, str]] = []
    for row in crate.revisions:
        name = RevisionName(row["number"], row["major"], row["minor"])
        uses = [(ids[use["revision"]], use["occurrence"]) for use in row["uses"]]
        content = content_of(
            row["product"], [(contents[u["revision"]], u["occurrence"]) for u in row["uses"]]
        )
        here = _here(connection, *_parts(name))
        if here is not None and (here.content == content or chosen.get(str(name)) == "ours"):
            ids[row["id"]], contents[row["id"]] = here.id, here.content
            if here.content == content and here.state == State.IN_WORK and row["state"] != State.IN_WORK:
                states.append((here.id, row["state"]))
            told.append(Put(name, "recognised" if here.content == content else "ours is kept"))
            continue
        what = "taken in"
        if here is not None:
            name, what = _free(connection, name), "taken in as a new minor revision"
        _keep_bodies(blobs, crate, row["bodies"])
        entry = _entry(connection, row, uses, content, row["lineage"])
        key = _free_id(connection, row["id"])
        new_revision(connection, name.number, (name.major, name.minor), entry, author, key=key,
                     item_lineage=row["item_lineage"])  # fmt: skip
        ids[row["id"]], contents[row["id"]] = key, content
        states.append((key, row["state"]))
        told.append(Put(name, what))
    staying = _with_states(connection, states)
    told = [_told(connection, put, staying) for put in told]
    _with_events(connection, crate, {p.name for p in told if p.what.startswith("taken in")})
    return told


def _told(connection: Connection, put: Put, staying: set[str]) -> Put:
    here = _here(connection, *_parts(put.name))
    if here is None or here.id not in staying:
        return put
    return Put(put.name, f"{put.what}, in work: what is here of what it uses is not released")


def _parts(name: RevisionName) -> tuple[str, str, int]:
    return name.number, name.major, name.minor


def _free(connection: Connection, name: RevisionName) -> RevisionName:
    minor = name.minor
    while _here(connection, name.number, name.major, minor) is not None:
        minor += 1
    return RevisionName(name.number, name.major, minor)


def _free_id(connection: Connection, key: str) -> str:
    taken = connection.execute(select(REVISION.c.id).where(REVISION.c.id == key)).first()
    return new_id() if taken is not None else key


def _keep_bodies(blobs: BlobStore, crate: Crate, keys: list[str]) -> None:
    for key in keys:
        if not blobs.has(key):
            blobs.put(crate.piece(key))


def _entry(  # type: ignore[no-untyped-def]
    connection: Connection, row, uses: list[tuple[str, Mapping[str, object]]], content: str, lineage: str
) -> Entry:
    children = {child for child, _ in uses}
    query = select(REVISION.c.height).where(REVISION.c.id.in_(children))
    height = 1 + max(connection.execute(query).scalars(), default=-1)
    source = row["source"]["name"], row["source"]["sha256"]
    return Entry(
        row["label"], row["description"], row["product"], tuple(row["bodies"]), tuple(uses), content,
        height, source, lineage, row["remarks"],
    )  # fmt: skip


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


def _with_events(
    connection: Connection, crate: Crate, names: set[RevisionName], renamed: Mapping[str, str] | None = None
) -> None:
    """Write the histories of what came in."""
    query = select(REVISION.c.id, ITEM.c.number, REVISION.c.major, REVISION.c.minor)
    query = query.join(ITEM, ITEM.c.id == REVISION.c.item)
    ids = {str(RevisionName(r.number, r.major, r.minor)): r.id for r in connection.execute(query)}
    wanted = {str(name) for name in names}
    for each in crate.manifest["events"]:
        number, _, rest = each["revision"].rpartition("/")
        name = f"{(renamed or {}).get(number, number)}/{rest}"
        if name in wanted and name in ids:
            connection.execute(
                insert(EVENT).values(
                    revision=ids[name], what=each["what"], made_by=each["who"], made_at=each["when"]
                )
            )


def _as_copy(
    connection: Connection, blobs: BlobStore, crate: Crate, author: Author, rule: str
) -> list[Put]:
    numbers = {row["number"] for row in crate.revisions}
    try:
        renamed = {number: rule.format(number=number) for number in numbers}
    except (KeyError, IndexError, ValueError):
        raise UsageError(f"a rule for numbers knows {{number}} only (got {rule!r})") from None
    if len(set(renamed.values())) != len(renamed):
        raise UsageError(f"the rule {rule!r} gives two items one number")
    query = select(ITEM.c.number).where(ITEM.c.number.in_(set(renamed.values())))
    taken = sorted(connection.execute(query).scalars())
    if taken:
        raise UsageError(f"{taken[0]} is here already", hint="choose another rule for numbers")
    told, ids, contents = [], dict[str, str](), dict[str, str]()
    states: list[tuple[str, str]] = []
    for row in crate.revisions:
        uses = [(ids[use["revision"]], use["occurrence"]) for use in row["uses"]]
        content = content_of(
            row["product"], [(contents[u["revision"]], u["occurrence"]) for u in row["uses"]]
        )
        name = RevisionName(renamed[row["number"]], row["major"], row["minor"])
        _keep_bodies(blobs, crate, row["bodies"])
        key = new_revision(
            connection, name.number, (name.major, name.minor),
            _entry(connection, row, uses, content, row["id"]), author, item_lineage=row["item"],
        )  # fmt: skip
        ids[row["id"]], contents[row["id"]] = key, content
        states.append((key, row["state"]))
        noted(connection, key, f"copied from {row['number']}/{row['major']}.{row['minor']}", author)
        told.append(Put(name, "copied"))
    _with_states(connection, states)
    _with_events(connection, crate, {put.name for put in told}, renamed)
    return told
