"""Opening a register by its address: a file, or a database."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, create_engine, event
from sqlalchemy.exc import DBAPIError, SQLAlchemyError

from gondrel.core.errors import InputError, UsageError
from gondrel.core.model.store import BlobStore
from gondrel.core.register.errors import RegisterBusy, RuleBroken

__all__ = ["LATEST", "Opened", "open_register"]

LATEST = "v3"
_SUFFIX = ".blobs"
_PATIENCE = 30.0
_TRIES = 8


class Opened:
    """An open register: its database, and the folder of its bodies beside it."""

    def __init__(self, address: str, engine: Engine, store: BlobStore) -> None:
        self.address, self.engine, self.store = address, engine, store

    @contextmanager
    def reading(self) -> Iterator[Connection]:
        """A look at the register as it is at one moment. Raises RegisterBusy."""
        with _told(self.address), self.engine.connect() as connection:
            yield connection

    @contextmanager
    def writing(self) -> Iterator[Connection]:
        """A change that happens whole or not at all. Raises RegisterBusy, RuleBroken."""
        with _told(self.address), self.engine.connect() as connection:
            if connection.dialect.name == "sqlite":
                connection.exec_driver_sql("BEGIN IMMEDIATE")
            else:
                connection.exec_driver_sql("SET TRANSACTION ISOLATION LEVEL SERIALIZABLE")
            try:
                yield connection
            except BaseException:
                connection.rollback()
                raise
            connection.commit()

    def close(self) -> None:
        """Let go of the database."""
        self.engine.dispose()


@contextmanager
def _told(address: str) -> Iterator[None]:
    try:
        yield
    except DBAPIError as error:
        said = " ".join(str(error.orig).split())
        if "rule " in said:
            raise RuleBroken(
                said.partition("rule ")[2].partition(": ")[2].partition(" CONTEXT")[0]
            ) from None
        if any(word in said for word in ("locked", "serialize", "deadlock", "UNIQUE", "unique")):
            raise RegisterBusy(
                f"somebody else changed the register meanwhile ({said})", file=address
            ) from None
        raise InputError(f"the register can't be used: {said}", file=address) from None


def open_register(address: str, blobs: str = "") -> Opened:
    """Open a register; a file that is not there yet becomes an empty one, one of an earlier version is
    brought up to this one.

    Args:
        address: path of a file, or the address of a database (postgresql://...).
        blobs: folder of the bodies; beside the file without it.

    Raises:
        InputError: when it can't be opened, is no register, or is of a newer version. UsageError: for a
            database without a folder for its bodies.
    """
    if "://" in address:
        if not blobs:
            raise UsageError("a register in a database wants a folder for bodies", hint="--blobs FOLDER")
        url, folder = address.replace("postgresql://", "postgresql+psycopg://", 1), Path(blobs)
    else:
        path = Path(address)
        if path.exists() and not _is_database(path):
            raise InputError("is no register", file=address)
        if not path.parent.is_dir():
            raise InputError("can't be opened: the folder is not there", file=address)
        url, folder = f"sqlite:///{path}", Path(blobs) if blobs else path.with_name(path.name + _SUFFIX)
    try:
        engine = create_engine(url)
    except (SQLAlchemyError, ImportError) as error:
        raise InputError(f"can't be opened: {error}", file=address) from None
    if engine.dialect.name == "sqlite":
        event.listen(engine, "connect", _prepared)
        event.listen(engine, "begin", lambda _: None)
    try:
        _brought_up(engine, address)
    except SQLAlchemyError as error:
        engine.dispose()
        raise InputError(f"can't be opened: {' '.join(str(error).split())[:200]}", file=address) from None
    return Opened(address, engine, BlobStore(folder))


def _is_database(path: Path) -> bool:
    with path.open("rb") as stream:
        head = stream.read(16)
    return head in (b"", b"SQLite format 3\x00")


def _prepared(connection: sqlite3.Connection, _: Any) -> None:
    """Transactions are ours, references are kept, a busy file is waited for."""
    connection.isolation_level = None
    connection.execute("PRAGMA foreign_keys = ON")
    connection.execute(f"PRAGMA busy_timeout = {int(_PATIENCE * 1000)}")
    connection.execute("PRAGMA journal_mode = WAL")
    connection.execute("PRAGMA synchronous = FULL")


def _brought_up(engine: Engine, address: str) -> None:
    from alembic import command
    from alembic.config import Config
    from alembic.runtime.migration import MigrationContext
    from alembic.script import ScriptDirectory

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    known = {script.revision for script in ScriptDirectory.from_config(config).walk_revisions()}
    with engine.connect() as connection:
        if MigrationContext.configure(connection).get_current_revision() == LATEST:
            return
    with engine.connect() as connection:
        if connection.dialect.name == "sqlite":
            connection.exec_driver_sql("BEGIN IMMEDIATE")
        else:
            connection.exec_driver_sql("SELECT pg_advisory_xact_lock(740211)")
        now = MigrationContext.configure(connection).get_current_revision()
        if now is not None and now not in known:
            connection.rollback()
            raise InputError(f"the register is of a newer version ({now})", file=address)
        if now != LATEST:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
        connection.commit()
