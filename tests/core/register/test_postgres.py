"""The same register in a PostgreSQL database, started for the test where Debian's postgresql is there."""

from __future__ import annotations

import os
import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from multiprocessing import get_context
from pathlib import Path

import pytest

from gondrel.core.model.registered import State
from gondrel.core.model.store import BlobStore
from gondrel.core.register.errors import RuleBroken
from gondrel.core.register.keeping import Author, put_model
from gondrel.core.register.living import release
from gondrel.core.register.looking import revision_named, revisions_of, where_used
from gondrel.core.register.opening import open_register
from gondrel.core.register.repointing import repoint
from tests.core.register.gears import two_gears, with_pinion
from tests.core.register.test_register import IS_LONG, _work, soundness

pytestmark = pytest.mark.slow

PROGRAMS = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"))


@pytest.fixture(scope="module")
def address() -> Iterator[str]:
    """The address of a database of its own, on a socket."""
    if not PROGRAMS:
        pytest.skip("Debian's postgresql is not installed here")
    pytest.importorskip("psycopg", reason="the extra [team] is not installed here")
    programs = PROGRAMS[-1].parent
    folder = Path(tempfile.mkdtemp(prefix="gondrel-pg-"))
    as_who: list[str] = []
    if os.geteuid() == 0:  # the server refuses to run as root
        if shutil.which("runuser") is None:
            pytest.skip("the server can't be started as root, and there is no runuser")
        as_who = ["runuser", "-u", "postgres", "--"]
        shutil.chown(folder, "postgres")
    data = folder / "data"

    def run(*command: object) -> None:
        subprocess.run([*as_who, *map(str, command)], check=True, capture_output=True, cwd=folder)

    run(programs / "initdb", "-D", data, "-A", "trust", "-U", "gondrel", "--no-sync")
    options = f"-c listen_addresses= -c unix_socket_directories={folder} -c fsync=off"
    run(programs / "pg_ctl", "-D", data, "-w", "-l", folder / "log", "-o", options, "start")
    try:
        yield f"postgresql:///postgres?host={folder}&user=gondrel"
    finally:
        run(programs / "pg_ctl", "-D", data, "-m", "immediate", "stop")
        shutil.rmtree(folder, ignore_errors=True)


def test_the_story_in_a_database(address: str, tmp_path: Path) -> None:
    opened = open_register(address, str(tmp_path / "blobs"))
    store, anna = BlobStore(tmp_path / "made"), Author("anna")
    model = two_gears(store)
    with opened.writing() as connection:
        put_model(connection, opened.store, model, store, anna)
    with pytest.raises(RuleBroken, match="not released"), opened.writing() as connection:
        release(connection, "GN", anna)
    with opened.writing() as connection:
        release(connection, "GN", anna, with_all=True)
        put_model(connection, opened.store, with_pinion(model, store, 14), store, anna)
        changes = repoint(connection, "PI/A.1", "PI/A.2", anna)
    assert changes
    with opened.reading() as connection:
        assert revision_named(connection, "GN/A.1").state is State.RELEASED
        assert [str(r.name) for r in revisions_of(connection, "PI")] == ["PI/A.1", "PI/A.2"]
        assert where_used(connection, revision_named(connection, "PI/A.2").id)
    with pytest.raises(RuleBroken, match="in work"), opened.writing() as connection:
        connection.exec_driver_sql("UPDATE revision SET product = '{}' WHERE state = 'released'")
    opened.close()


def test_ten_processes_at_once_lose_nothing_in_a_database(address: str, tmp_path: Path) -> None:
    blobs = str(tmp_path / "blobs")
    open_register(address, blobs).close()
    jobs = [(address, str(tmp_path / f"s{n}"), n, 60.0 if IS_LONG else 12.0, blobs) for n in range(10)]
    with get_context("spawn").Pool(10) as pool:
        done = pool.starmap(_work, jobs)
    assert sum(done) > 20
    opened = open_register(address, blobs)
    with opened.reading() as connection:
        soundness(lambda sql: [tuple(row) for row in connection.exec_driver_sql(sql)])
    opened.close()
