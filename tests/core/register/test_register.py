"""A register: what is put in, the order of release, repointing, and what the database itself refuses."""

from __future__ import annotations

import os
import random
import re
import sqlite3
import subprocess
import sys
from dataclasses import replace
from multiprocessing import get_context
from pathlib import Path

import pytest

from gondrel.core.errors import GondrelError, InputError, UsageError
from gondrel.core.model.registered import Reach, State
from gondrel.core.model.store import BlobStore
from gondrel.core.register.errors import RegisterBusy, RuleBroken
from gondrel.core.register.keeping import Author, put_model, take_out
from gondrel.core.register.living import release, remark, withdraw
from gondrel.core.register.looking import events_of, listed, revision_named, revisions_of, where_used
from gondrel.core.register.names import Scheme, first_major, following_major, name_of, revision_parts
from gondrel.core.register.opening import LATEST, open_register
from gondrel.core.register.repointing import repoint
from gondrel.core.register.scheme import choose_scheme, scheme_of
from tests.conftest import ROOT
from tests.core.register.gears import assembly, two_gears, with_pinion

ANNA = Author("anna")
OTTO = Author("otto")
IS_LONG = bool(os.environ.get("GONDREL_LONG"))
"""Whether crowds work for a full minute and are killed a hundred times."""


@pytest.fixture
def store(store_folder: str) -> BlobStore:
    return BlobStore(Path(store_folder))


@pytest.fixture
def register(tmp_path: Path):
    opened = open_register(str(tmp_path / "reg.sqlite"))
    yield opened
    opened.close()


def put(register, store, model, **how):
    with register.writing() as connection:
        return {
            str(p.name): p.what for p in put_model(connection, register.store, model, store, ANNA, **how)
        }


def names(register, text=""):
    with register.reading() as connection:
        return [str(r.name) for r in listed(connection, Reach(text))]


def test_names() -> None:
    assert [following_major(m) for m in ("A", "Z", "AZ", "ZZ")] == ["B", "AA", "BA", "AAA"]
    assert revision_parts("B") == ("B", 1) and revision_parts("c.12") == ("C", 12)
    assert revision_parts("version 0") is None and revision_parts("7") is None
    assert name_of("PG-101/B.2") == ("PG-101", ("B", 2)) and name_of("PG-101") == ("PG-101", None)
    assert [following_major(m, Scheme.CLEAR_LETTERS) for m in ("A", "H", "N", "Y", "AY")] == [
        "B", "J", "P", "AA", "BA",
    ]  # fmt: skip
    assert following_major("9", Scheme.NUMBERS) == "10" and first_major(Scheme.NUMBERS) == "1"
    assert revision_parts("07", Scheme.NUMBERS) == ("7", 1) and revision_parts("B", Scheme.NUMBERS) is None
    assert name_of("PG-101/7.2") == ("PG-101", ("7", 2))
    with pytest.raises(UsageError):
        name_of("PG-101/7.2.1")


def test_the_scheme_is_chosen_while_it_is_empty(register, store) -> None:
    with register.writing() as connection:
        assert scheme_of(connection) is Scheme.LETTERS
        choose_scheme(connection, "numbers")
    model = two_gears(store)
    assert set(put(register, store, model).values()) == {"new item"}
    assert names(register, "PI") == ["PI/1.1"]
    assert put(register, store, with_pinion(model, store, 12), next_major=True)["PI/2.1"]
    assert names(register, "PI") == ["PI/2.1"]
    with register.reading() as connection:
        assert revision_named(connection, "PI/1.1").name.major == "1"
    with pytest.raises(RuleBroken, match="called by numbers already"), register.writing() as connection:
        choose_scheme(connection, "letters")
    with pytest.raises(UsageError, match="no scheme"), register.writing() as connection:
        choose_scheme(connection, "roman")


def test_what_is_there_is_recognised_and_what_changed_is_a_new_revision(register, store) -> None:
    model = two_gears(store)
    first = put(register, store, model)
    assert set(first.values()) == {"new item"} and len(first) == 6 and "PI/A.1" in first
    assert set(put(register, store, model).values()) == {"recognised"}
    other = put(register, store, with_pinion(model, store, 12))
    assert other["PI/A.2"] == other["SS/A.2"] == other["GN/A.2"] == "new minor revision"
    assert other["CASE/A.1"] == other["SH/A.1"] == "recognised"
    major = put(register, store, with_pinion(model, store, 14), next_major=True)
    assert major["PI/B.1"] == "new major revision"
    back = put(register, store, model)
    assert back["PI/A.1"] == "recognised" and back["GN/A.1"] == "recognised"
    with register.reading() as connection:
        assert [str(r.name) for r in revisions_of(connection, "PI")] == ["PI/A.1", "PI/A.2", "PI/B.1"]


def test_a_revision_comes_out_as_it_went_in(register, store) -> None:
    model = two_gears(store)
    put(register, store, model)
    with register.reading() as connection:
        out = take_out(connection, revision_named(connection, "GN").id)
    assert {(p.number, p.revision) for p in out.products} == {
        (n, "A.1") for n in ("GN", "SS", "SH", "PI", "CASE")
    }
    top = out.product(out.roots[0])
    assert [u.placement for u in top.occurrences] == [u.placement for u in model.product("GN").occurrences]
    pinion = next(p for p in out.products if p.number == "PI")
    assert register.store.get(pinion.bodies[0].blob) == store.get(model.product("PI").bodies[0].blob)
    assert set(put(register, register.store, out).values()) == {"recognised"}


def test_the_order_of_release(register, store) -> None:
    put(register, store, two_gears(store))
    with (
        pytest.raises(RuleBroken, match=re.escape("SH/A.1, PI/A.1, SS/A.1, CASE/A.1")),
        register.writing() as connection,
    ):
        release(connection, "GN", ANNA)
    with register.writing() as connection:
        done = [str(r.name) for r in release(connection, "GN", ANNA, with_all=True)]
    assert done == ["SH/A.1", "PI/A.1", "SS/A.1", "CASE/A.1", "GN/A.1"]
    with pytest.raises(RuleBroken, match="already"), register.writing() as connection:
        release(connection, "GN", ANNA)
    with pytest.raises(RuleBroken, match=re.escape("is used in SS/A.1")), register.writing() as connection:
        withdraw(connection, "PI", ANNA)
    with register.writing() as connection:
        for name in ("GN", "GS", "SS", "PI"):
            withdraw(connection, name, ANNA)
        assert revision_named(connection, "PI").state is State.WITHDRAWN
        remark(connection, "PI", "worn teeth", Author("otto"))
        history = [(e.what, e.who) for e in events_of(connection, "PI")]
    assert history == [
        ("made", "anna"),
        ("released", "anna"),
        ("withdrawn", "anna"),
        ("remarked on", "otto"),
    ]


def test_repointing_one_gear_and_not_the_other(register, store) -> None:
    model = two_gears(store)
    put(register, store, model)
    with register.writing() as connection:
        release(connection, "GN", ANNA, with_all=True)
        release(connection, "GS", ANNA, with_all=True)
    bigger = with_pinion(model, store, 14)
    alone = replace(bigger, products=(bigger.product("PI"),), roots=("PI",))
    assert put(register, store, alone, next_major=True) == {"PI/B.1": "new major revision"}
    with register.reading() as connection:
        seen = repoint(connection, "PI/A.1", "PI/B.1", ANNA, within=["GN"], preview=True)
    assert [(str(c.assembly), str(c.becomes), len(c.components)) for c in seen] == [
        ("SS/A.1", "SS/A.2", 2), ("GN/A.1", "GN/A.2", 1),
    ]  # fmt: skip
    assert names(register, "SS") == ["SS/A.1"]  # a look changes nothing
    with register.writing() as connection:
        repoint(connection, "PI/A.1", "PI/B.1", ANNA, within=["GN"])
    with register.reading() as connection:
        north, south = (take_out(connection, revision_named(connection, n).id) for n in ("GN", "GS"))
        used = where_used(connection, revision_named(connection, "PI/B.1").id)
        old = where_used(connection, revision_named(connection, "PI/A.1").id)
    assert {p.revision for p in north.products if p.number == "PI"} == {"B.1"}
    assert {p.revision for p in south.products if p.number == "PI"} == {"A.1"}
    assert [(str(w.use.parent), w.use.count, w.level) for w in used] == [("SS/A.2", 2, 1), ("GN/A.2", 1, 2)]
    assert {str(w.use.parent) for w in old} == {"SS/A.1", "GN/A.1", "GS/A.1"}
    placed = [u.placement for p in north.products if p.number == "SS" for u in p.occurrences]
    assert placed == [u.placement for u in model.product("SS").occurrences]


def test_what_is_in_work_and_used_by_nothing_else_is_changed_in_place(register, store) -> None:
    model = two_gears(store)
    put(register, store, model)
    put(register, store, replace(with_pinion(model, store, 14), roots=("GN",)), next_major=False)
    with register.writing() as connection:
        changes = repoint(connection, "PI/A.1", "PI/A.2", ANNA)
    assert [(str(c.assembly), c.assembly == c.becomes) for c in changes] == [
        ("SS/A.1", True), ("GN/A.1", True), ("GS/A.1", True),
    ]  # fmt: skip
    bigger = put(register, store, with_pinion(model, store, 14))
    assert set(bigger.values()) == {"recognised"}  # contents followed the change


def test_chosen_components_alone_are_repointed(register, store) -> None:
    model = two_gears(store)
    put(register, store, model)
    put(register, store, with_pinion(model, store, 14), next_major=True)
    with register.reading() as connection:
        seen = repoint(connection, "PI/A.1", "PI/B.1", ANNA, only={"SS/A.1": [3]}, preview=True)
    assert (str(seen[0].assembly), seen[0].components) == ("SS/A.1", ((3, "PI 2"),))
    with register.writing() as connection:
        repoint(connection, "PI/A.1", "PI/B.1", ANNA, only={"SS/A.1": [3]})
        out = take_out(connection, revision_named(connection, "SS/A.1").id)
        above = take_out(connection, revision_named(connection, "GN/A.1").id)
    uses = [(u.name, out.product(u.product).revision) for u in out.product(out.roots[0]).occurrences]
    assert uses == [("SH 0", "A.1"), ("PI 1", "A.1"), ("PI 2", "B.1")]
    assert {p.revision for p in above.products if p.number == "PI"} == {"A.1", "B.1"}
    for places, word in (([1], "component 1 of SS/A.1 is not PI/A.1"), ([9], "component 9")):
        with pytest.raises(UsageError, match=word), register.writing() as connection:
            repoint(connection, "PI/A.1", "PI/B.1", ANNA, only={"SS/A.1": places})
    with pytest.raises(UsageError, match="not used"), register.writing() as connection:
        repoint(connection, "PI/A.1", "PI/B.1", ANNA, only={"SS/A.1": []})


def test_what_was_changed_since_one_looked_is_not_overwritten(register, store) -> None:
    model = two_gears(store)
    put(register, store, model)
    put(register, store, with_pinion(model, store, 14), next_major=True)
    with register.reading() as connection:
        stamps = {str(r.name): r.stamp for n in ("PI", "SS") for r in revisions_of(connection, n)}
        changes = repoint(connection, "PI/A.1", "PI/B.1", ANNA, within=["SS/A.1"], preview=True)
    assert [str(c.assembly) for c in changes] == ["SS/A.1"]
    with register.writing() as connection:
        release(connection, "PI/A.1", OTTO)
    for act in (
        lambda c: withdraw(c, "PI/A.1", ANNA, seen=stamps),
        lambda c: release(c, "PI/A.1", ANNA, seen=stamps),
        lambda c: remark(c, "PI/A.1", "mine", ANNA, seen=stamps),
        lambda c: repoint(c, "PI/A.1", "PI/B.1", ANNA, within=["SS/A.1"], seen=stamps),
    ):
        with (
            pytest.raises(RegisterBusy, match=r"PI/A.1 was released by otto at 20\d\d-.* UTC, after"),
            register.writing() as connection,
        ):
            act(connection)
    with register.reading() as connection:
        fresh = {**stamps, "PI/A.1": revision_named(connection, "PI/A.1").stamp}
    with pytest.raises(RegisterBusy, match=r"GN/A.1 uses"), register.writing() as connection:
        repoint(connection, "PI/A.1", "PI/B.1", ANNA, seen=fresh)  # more than was looked at
    with register.writing() as connection:
        repoint(connection, "PI/A.1", "PI/B.1", ANNA, within=["SS/A.1"], seen=fresh)


def test_who_puts_in_beside_another_is_told(register, store) -> None:
    model = two_gears(store)
    pinion = replace(model, products=(model.product("PI"),), roots=("PI",))

    def changed(radius: float, revision: str):
        other = with_pinion(model, store, radius).product("PI")
        return replace(pinion, products=(replace(other, revision=revision),))

    put(register, store, pinion)
    with register.writing() as connection:
        put_model(connection, register.store, changed(11, "A.1"), store, OTTO)
    assert put(register, store, changed(12, "A.1")) == {
        "PI/A.3": "new minor revision, beside A.2 by otto"
    }  # fmt: skip


def test_two_revisions_of_one_item_in_one_assembly(register, store) -> None:
    model = two_gears(store)
    one, other = model.product("PI"), with_pinion(model, store, 14).product("PI")
    both = replace(
        model,
        products=(
            assembly("GX", "PI", "P2"),
            replace(one, revision="A"),
            replace(other, id="P2", revision="B"),
        ),
        roots=("GX",),
    )
    assert set(put(register, store, both)) == {"PI/A.1", "PI/B.1", "GX/A.1"}
    with register.reading() as connection:
        out = take_out(connection, revision_named(connection, "GX").id)
    assert sorted(p.revision for p in out.products if p.number == "PI") == ["A.1", "B.1"]


def test_a_cycle_and_other_nonsense_are_refused(register, store) -> None:
    put(register, store, two_gears(store))
    with pytest.raises(RuleBroken, match="contain itself"), register.writing() as connection:
        repoint(connection, "PI/A.1", "SS/A.1", ANNA)
    for act in (
        lambda c: repoint(c, "GN", "GS", ANNA), lambda c: repoint(c, "PI", "PI", ANNA),
        lambda c: revision_named(c, "NONE"), lambda c: revision_named(c, "PI/Z.9"),
        lambda c: repoint(c, "PI", "SH", ANNA, within=["CASE"]),
    ):  # fmt: skip
        with pytest.raises(GondrelError), register.writing() as connection:
            act(connection)


@pytest.mark.parametrize(
    "statement",
    [
        "UPDATE revision SET product = '{}' WHERE label = 'Pinion'",
        "UPDATE revision SET state = 'in work'", "DELETE FROM \"use\"", "DELETE FROM revision",
        "UPDATE \"use\" SET child = parent",
        "INSERT INTO \"use\" SELECT parent, 9, child, occurrence FROM \"use\"",
        "UPDATE revision SET height = 0 WHERE label = 'GN'",
    ],
)  # fmt: skip
def test_the_database_keeps_what_is_released(register, store, statement) -> None:
    """Whoever writes past our code is refused by the database."""
    put(register, store, two_gears(store))
    with register.writing() as connection:
        release(connection, "GN", ANNA, with_all=True)
    direct = sqlite3.connect(register.address)
    with pytest.raises(sqlite3.DatabaseError):
        direct.execute("PRAGMA foreign_keys = ON")
        direct.execute(statement)
    direct.close()


def test_a_register_of_the_first_version_is_brought_up(tmp_path: Path) -> None:
    """The file was made by this program's first migration, with two items in it."""
    stored = Path(__file__).parent / "register-v1.sql"
    path = tmp_path / "old.sqlite"
    database = sqlite3.connect(path)
    database.executescript(stored.read_text("utf-8"))
    assert database.execute("SELECT version_num FROM alembic_version").fetchone() == ("v1",)
    database.close()
    opened = open_register(str(path))
    with opened.writing() as connection:
        assert [str(r.name) for r in listed(connection, Reach())] == ["PG-1/A.1", "PG-2/B.3"]
        assert revision_named(connection, "PG-2").remarks == ""
        remark(connection, "PG-2", "new", ANNA)
    opened.close()
    database = sqlite3.connect(path)
    assert database.execute("SELECT version_num FROM alembic_version").fetchone() == (LATEST,)
    database.close()


def test_what_is_no_register_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "a.sqlite"
    path.write_text("no register at all")
    with pytest.raises(InputError, match="no register"):
        open_register(str(path))
    assert path.read_text() == "no register at all"
    with pytest.raises(InputError, match="folder"):
        open_register(str(tmp_path / "nowhere" / "a.sqlite"))
    newer = open_register(str(tmp_path / "b.sqlite"))
    with newer.writing() as connection:
        connection.exec_driver_sql("UPDATE alembic_version SET version_num = 'v99'")
    newer.close()
    with pytest.raises(InputError, match="newer"):
        open_register(str(tmp_path / "b.sqlite"))
    with pytest.raises(UsageError, match="folder for bodies"):
        open_register("postgresql://somebody@nowhere/none")


def _work(address: str, folder: str, seed: int, seconds: float, blobs: str = "") -> int:
    """Puts, releases and repoints at random; returns how many changes went through."""
    import time

    chance, store, done = random.Random(seed), BlobStore(Path(folder)), 0
    opened = open_register(address, blobs)
    end = time.monotonic() + seconds
    models = [two_gears(store, 8 + n / 4) for n in range(6)]
    while time.monotonic() < end:
        model = chance.choice(models)
        try:
            with opened.writing() as connection:
                act = chance.randrange(4)
                if act == 0:
                    put_model(connection, opened.store, model, store, Author(f"w{seed}"))
                elif act == 1:
                    release(
                        connection,
                        chance.choice(["PI", "SS", "GN", "GS"]),
                        Author(f"w{seed}"),
                        with_all=True,
                    )
                else:
                    revisions = revisions_of(connection, "PI")
                    one, other = chance.choice(revisions), chance.choice(revisions)
                    repoint(connection, str(one.name), str(other.name), Author(f"w{seed}"))
            done += 1
        except (RuleBroken, RegisterBusy, UsageError):
            continue
    opened.close()
    return done


def soundness(rows) -> None:
    """An independent look, in SQL alone, at what must hold."""
    assert rows('SELECT count(*) FROM "use" WHERE parent NOT IN (SELECT id FROM revision) '
                "OR child NOT IN (SELECT id FROM revision)") == [(0,)]  # fmt: skip
    assert rows("SELECT count(*) FROM revision WHERE item NOT IN (SELECT id FROM item)") == [(0,)]
    assert rows('SELECT count(*) FROM "use" u JOIN revision p ON p.id = u.parent JOIN revision c '
                "ON c.id = u.child WHERE c.height >= p.height") == [(0,)]  # fmt: skip
    assert rows('SELECT count(*) FROM "use" u JOIN revision p ON p.id = u.parent JOIN revision c '
                "ON c.id = u.child WHERE p.state = 'released' "
                "AND c.state <> 'released'") == [(0,)]  # fmt: skip
    assert (
        rows("SELECT item, major, minor FROM revision GROUP BY item, major, minor HAVING count(*) > 1")
        == []
    )
    # every change left its mark: a stamp of n has n events
    assert rows("SELECT count(*) FROM revision r WHERE r.stamp <> "
                "(SELECT count(*) FROM event e WHERE e.revision = r.id)") == [(0,)]  # fmt: skip


@pytest.mark.slow
def test_ten_processes_at_once_lose_nothing(tmp_path: Path) -> None:
    address = str(tmp_path / "reg.sqlite")
    open_register(address).close()
    with get_context("spawn").Pool(10) as pool:
        done = pool.starmap(
            _work, [(address, str(tmp_path / f"s{n}"), n, 60.0 if IS_LONG else 12.0) for n in range(10)]
        )
    assert sum(done) > 20
    database = sqlite3.connect(address)
    soundness(lambda sql: database.execute(sql).fetchall())
    assert database.execute("SELECT count(*) FROM revision").fetchone()[0] > 10
    database.close()


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(100 if IS_LONG else 12))
def test_killed_while_writing_it_is_whole(tmp_path: Path, seed) -> None:
    address = str(tmp_path / "reg.sqlite")
    open_register(address).close()
    code = (
        "import sys; sys.path.insert(0, sys.argv[1])\n"
        "from tests.core.register.test_register import _work\n"
        "_work(sys.argv[2], sys.argv[3], int(sys.argv[4]), 60)\n"
    )
    command = [sys.executable, "-c", code, str(ROOT), address, str(tmp_path / "s"), str(seed)]
    process = subprocess.Popen(command, stderr=subprocess.DEVNULL)
    try:
        process.wait(3.0 + random.Random(seed).uniform(0, 3))
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()
    database = sqlite3.connect(address)
    assert database.execute("PRAGMA integrity_check").fetchone() == ("ok",)
    soundness(lambda sql: database.execute(sql).fetchall())
    database.close()
    opened = open_register(address)
    with opened.reading() as connection:
        for revision in listed(connection, Reach()):
            for key in take_out(connection, revision.id).blobs():
                assert opened.store.has(key)
    opened.close()
