"""Putting models into a register and taking revisions out of it."""

from __future__ import annotations

import getpass
import hashlib
import json
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, insert, select, update

from gondrel.core.errors import UsageError
from gondrel.core.model.codec import from_plain, to_plain
from gondrel.core.model.product import Occurrence, Product
from gondrel.core.model.registered import Put, RevisionName, State
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.register.looking import children_of, latest_of, product_of, revision_of, revisions_of
from gondrel.core.register.names import first_major, following_major, revision_parts
from gondrel.core.register.recognising import SameBody, alike_revision
from gondrel.core.register.scheme import scheme_of
from gondrel.core.register.tables import EVENT, ITEM, REVISION, USE
from gondrel.core.work import SILENT, Progress

__all__ = [
    "SOURCE",
    "Author",
    "Entry",
    "content_of",
    "new_id",
    "new_revision",
    "noted",
    "number_of",
    "plain_product",
    "put_model",
    "revision_row",
    "take_out",
    "use_rows",
]

SOURCE = "source"
"""The kind under which received files lie beside the bodies, by their SHA-256."""
PREVIEW = "preview"
"""The kind of a revision's picture, by the revision's content."""


@dataclass(frozen=True, slots=True)
class Author:
    """Who changes the register, and when it was; empty for the one who runs the program, now."""

    name: str = ""
    when: str = ""

    @property
    def stamp(self) -> tuple[str, str]:
        """When, UTC to the microsecond so that an order stays, and who."""
        when = self.when or f"{datetime.now(UTC):%Y-%m-%dT%H:%M:%S.%f}Z"
        return when, self.name or getpass.getuser()


@dataclass(frozen=True, slots=True)
class Entry:
    """A revision to be made.

    Args:
        product: what it is, as plain JSON, without ids, number and revision; uses: ids of revisions and
            occurrences as plain JSON.
        referred: places and hashes of files that the source refers to.
    """

    label: str
    description: str
    product: Mapping[str, Any]
    bodies: tuple[str, ...]
    uses: tuple[tuple[str, Mapping[str, Any]], ...]
    content: str
    height: int
    source: tuple[str, str] = ("", "")
    lineage: str = ""
    remarks: str = ""
    referred: tuple[tuple[str, str], ...] = ()


def new_id() -> str:
    """An identity that no other register makes."""
    return str(uuid.uuid4())


def content_of(product: Mapping[str, Any], uses: Sequence[tuple[str, Mapping[str, Any]]]) -> str:
    """SHA-256 of what a product is: its plain JSON, and contents and occurrences of what it uses."""
    plain = json.dumps([product, uses], sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(plain.encode()).hexdigest()


def noted(connection: Connection, revision: str, what: str, author: Author) -> None:
    """Write down what happened to a revision."""
    when, who = author.stamp
    connection.execute(insert(EVENT).values(revision=revision, what=what, made_by=who, made_at=when))


def revision_row(
    key: str, item: str, parts: tuple[str, int], entry: Entry, stamp: tuple[str, str]
) -> dict[str, Any]:
    """A new revision, in work, as its table keeps it.

    Args:
        parts: major and minor; stamp: when, and by whom.
    """
    when, who = stamp
    return {
        "id": key, "item": item, "major": parts[0], "minor": parts[1], "state": str(State.IN_WORK),
        "label": entry.label, "description": entry.description, "content": entry.content,
        "product": json.dumps(entry.product, separators=(",", ":")), "bodies": json.dumps(entry.bodies),
        "height": entry.height, "made_at": when, "made_by": who, "changed_at": when, "changed_by": who,
        "stamp": 1, "source": entry.source[0], "source_sha256": entry.source[1], "lineage": entry.lineage,
        "remarks": entry.remarks, "referred": json.dumps(entry.referred),
    }  # fmt: skip


def use_rows(parent: str, uses: Sequence[tuple[str, Mapping[str, Any]]]) -> list[dict[str, Any]]:
    """What a revision uses, as its table keeps it."""
    return [
        {"parent": parent, "position": place, "child": child,
         "occurrence": json.dumps(use, separators=(",", ":"))}
        for place, (child, use) in enumerate(uses)
    ]  # fmt: skip


def new_revision(
    connection: Connection, number: str, parts: tuple[str, int], entry: Entry, author: Author
) -> str:
    """Make a revision, and its item where there is none; returns its id. The database refuses one that is
    there already."""
    when, who = author.stamp
    item = connection.execute(select(ITEM.c.id).where(ITEM.c.number == number)).scalar()
    if item is None:
        item = new_id()
        connection.execute(
            insert(ITEM).values(id=item, number=number, made_at=when, made_by=who, lineage="")
        )
    key = new_id()
    row = revision_row(key, item, parts, entry, author.stamp)
    connection.execute(insert(REVISION).values(row))
    if entry.uses:
        connection.execute(insert(USE), use_rows(key, entry.uses))
    noted(connection, key, "made", author)
    return key


def put_model(
    connection: Connection, blobs: BlobStore, model: Model, store: BlobStore, author: Author, *,
    next_major: bool = False, same: SameBody = lambda one, other: one == other,
    progress: Progress = SILENT,
) -> tuple[Put, ...]:  # fmt: skip
    """Put every product of a model in: what is there by content is recognised, what is other becomes a new
    revision, what has no item yet becomes one.

    Args:
        next_major: whether what changed becomes the next major revision, not the next minor one.
        same: whether a body of the register and one of the model are the same shape, though their hashes
            differ.

    Raises:
        UsageError: when shapes are not loaded, or two products of one number and revision differ.
    """
    if model.unloaded:
        raise UsageError("not all shapes are loaded: load them before the model is put in")
    source, referred = _sources_kept(model, blobs)
    made: dict[str, tuple[str, str, int]] = {}
    taken: dict[RevisionName, str] = {}
    told = []
    for product in progress.each(list(reversed(model.downwards)), "Putting in"):
        if product.is_reference:
            continue
        plain = plain_product(product)
        uses = [use for use in product.occurrences if use.product in made]
        occurrences = [_plain_use(use) for use in uses]
        contents = [(made[u.product][1], o) for u, o in zip(uses, occurrences, strict=True)]
        content = content_of(plain, contents)
        entry = Entry(
            product.label, product.description, plain, tuple(body.blob for body in product.bodies),
            tuple((made[u.product][0], o) for u, o in zip(uses, occurrences, strict=True)), content,
            1 + max((made[u.product][2] for u in uses), default=-1), source,
            referred=referred,
        )  # fmt: skip
        number = number_of(product)
        key, put, content = _put(connection, number, product.revision, entry, author, next_major, same)
        if put.what != "recognised":
            for body in product.bodies:
                if not blobs.has(body.blob):
                    blobs.put(store.get(body.blob))
        if taken.setdefault(put.name, content) != content:
            raise UsageError(f"two products are {put.name} and differ: give one another number or revision")
        made[product.id] = key, content, entry.height
        told.append(put)
    return tuple(told)


def _sources_kept(model: Model, blobs: BlobStore) -> tuple[tuple[str, str], tuple[tuple[str, str], ...]]:
    """Name and hash of the file a model was read from, and of what that refers to; each is kept where it is
    still the same."""
    if model.provenance is None:
        return ("", ""), ()
    places = model.provenance.places()
    for _, path, key in places:
        if key and not blobs.has(key, SOURCE):
            try:
                data = Path(path).read_bytes()
            except OSError:
                continue
            if hashlib.sha256(data).hexdigest() == key:
                blobs.put_as(key, SOURCE, data)
    (name, _, key), *others = places
    return (name, key), tuple((place, digest) for place, _, digest in others)


def _put(
    connection: Connection, number: str, revision: str, entry: Entry, author: Author, next_major: bool,
    same: SameBody,
) -> tuple[str, Put, str]:  # fmt: skip
    query = (
        select(REVISION.c.id, REVISION.c.major, REVISION.c.minor)
        .join(ITEM, ITEM.c.id == REVISION.c.item)
        .where(ITEM.c.number == number, REVISION.c.content == entry.content)
        .order_by(REVISION.c.made_at.desc())
    )
    scheme = scheme_of(connection)
    told = revision_parts(revision, scheme)
    known = connection.execute(query).all()
    for row in known:
        if told is None or (row.major, row.minor) == told or row is known[-1]:
            return row.id, Put(RevisionName(number, row.major, row.minor), "recognised"), entry.content
    alike = alike_revision(connection, number, entry.product, entry.uses, same)
    if alike is not None:
        found = revision_of(connection, alike)
        return alike, Put(found.name, "recognised"), found.content
    latest = latest_of(connection, number)
    if latest is None:
        parts, what = told or (first_major(scheme), 1), "new item"
    elif next_major:
        parts, what = (following_major(latest.name.major, scheme), 1), "new major revision"
    else:
        there = {(r.name.major, r.name.minor) for r in revisions_of(connection, number)}
        is_free = told is not None and told not in there
        parts = told if told is not None and is_free else (latest.name.major, latest.name.minor + 1)
        is_known = parts[0] in {major for major, _ in there}
        what = "new minor revision" if is_known else "new major revision"
        if told in there and told != (latest.name.major, latest.name.minor):
            what = f"{what}, beside {latest.name.text} by {latest.made[1]}"
    key = new_revision(connection, number, parts, entry, author)
    return key, Put(RevisionName(number, *parts), what), entry.content


def number_of(product: Product) -> str:
    """The number of the item that a product becomes."""
    return product.number.strip() or product.label


def plain_product(product: Product) -> dict[str, Any]:
    """A product as plain JSON, without what the register keeps beside it."""
    bare = replace(product, id="", number="", revision="", occurrences=(), unread=None)
    plain: dict[str, Any] = to_plain(from_plain(to_plain(bare), Product))  # numbers as they are read back
    for number, body in enumerate(plain["bodies"]):
        body["id"] = f"b{number}"
    return plain


def _plain_use(use: Occurrence) -> dict[str, Any]:
    bare = replace(use, id="", product="", own_colours=())
    plain: dict[str, Any] = to_plain(from_plain(to_plain(bare), Occurrence))
    return plain


def take_out(connection: Connection, key: str) -> Model:
    """A revision with all it uses, as a model; ids are those of the revisions, so that two revisions of one
    item stay apart. Raises KeyError."""
    products: dict[str, Product] = {}
    waiting = [key]
    while waiting:
        current = waiting.pop()
        if current in products:
            continue
        revision = revision_of(connection, current)
        product = from_plain(json.loads(product_of(connection, current)), Product)
        uses = []
        for place, (child, plain) in enumerate(children_of(connection, current)):
            use = from_plain(plain, Occurrence)
            uses.append(replace(use, id=f"{current}:{place}", product=child))
            waiting.append(child)
        bodies = tuple(replace(body, id=f"{current}:{body.id}") for body in product.bodies)
        products[current] = replace(
            product, id=current, number=revision.name.number, revision=revision.name.text, bodies=bodies,
            occurrences=tuple(uses),
        )  # fmt: skip
    order = list(products)
    return Model(products=tuple(products[each] for each in order), roots=(key,))


def changed_now(connection: Connection, key: str, stamp: int, author: Author, **values: Any) -> bool:
    """Change a revision as it was seen; False where somebody changed it meanwhile."""
    when, who = author.stamp
    done = connection.execute(
        update(REVISION)
        .where(REVISION.c.id == key, REVISION.c.stamp == stamp)
        .values(**values, changed_at=when, changed_by=who, stamp=stamp + 1)
    )
    return bool(done.rowcount == 1)
