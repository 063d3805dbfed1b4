"""The register, crates and gathering on the command line: the life of a pinion, and what is refused."""

from __future__ import annotations

import json
import sqlite3
import zipfile
from pathlib import Path
from typing import Any

import pytest

from gondrel.cli.main import main

pytestmark = pytest.mark.slow

PINION, SHAFTS, GEAR, SECOND = "PG-202", "PG-200", "PG-000", "PG-900"


class Said:
    """Commands of one register, and what they answer."""

    def __init__(self, folder: Path, capsys: Any) -> None:
        self.folder, self.capsys = folder, capsys
        self.address = str(folder / "team.sqlite")

    def __call__(self, *arguments: str, status: int = 0) -> Any:
        known = ("register", "crate")
        ours = arguments[0] in known and arguments[1] not in ("verify",)
        where = ("--register", self.address) if ours else ()
        assert main([*arguments, *where, "--json"]) == status, self.capsys.readouterr().err
        return json.loads(self.capsys.readouterr().out)

    def refused(self, *arguments: str) -> str:
        assert main([*arguments, "--register", self.address]) == 2
        return str(self.capsys.readouterr().err)

    def steps(self, text: str, source: str, out: str) -> str:
        path, target = self.folder / "steps.toml", str(self.folder / out)
        path.write_text(f"version = 1\n{text}", "utf-8")
        arguments = [
            "arrange",
            source,
            "--steps",
            str(path),
            "--out",
            target,
            "--as",
            "step-ap242",
            "--json",
        ]
        assert main(arguments) == 0, self.capsys.readouterr().err
        self.capsys.readouterr()
        return target

    def rows(self) -> tuple[set[Any], set[Any]]:
        """Revisions and uses as the file holds them, by SQL alone: names, states and contents; who uses
        which revision where."""
        named = (
            "SELECT r.id, i.number || '/' || r.major || '.' || r.minor AS name FROM revision r "
            "JOIN item i ON i.id = r.item"
        )
        database = sqlite3.connect(self.address)
        revisions = database.execute(
            f"SELECT n.name, r.state, r.content, r.product, r.bodies FROM revision r JOIN ({named}) n "
            "ON n.id = r.id"
        ).fetchall()
        uses = database.execute(
            f'SELECT p.name, u.position, c.name, u.occurrence FROM "use" u JOIN ({named}) p '
            f"ON p.id = u.parent JOIN ({named}) c ON c.id = u.child"
        ).fetchall()
        database.close()
        return (
            {
                (name, state, content, plain(product), bodies)
                for name, state, content, product, bodies in revisions
            },
            {(parent, place, child, plain(use)) for parent, place, child, use in uses},
        )


def plain(text: str) -> str:
    """JSON with its keys in order."""
    return json.dumps(json.loads(text), sort_keys=True)


def copied(name: str) -> str:
    """What a revision is called as a copy."""
    number, _, revision = name.rpartition("/")
    return f"{number}-COPY/{revision}"


def test_the_life_of_a_pinion(demo_file: str, tmp_path: Path, capsys: Any) -> None:
    said = Said(tmp_path, capsys)
    put = said("register", "add", demo_file)["put"]
    assert len(put) == 32 and {each["what"] for each in put} == {"new item"}
    second = said.steps(
        f'[[step]]\ndo = "set"\nitems = {{ number = "{GEAR}" }}\nfield = "number"\nvalue = "{SECOND}"\n',
        demo_file, "second.stp",
    )  # fmt: skip
    put = said("register", "add", second)["put"]
    assert [each["name"] for each in put if each["what"] != "recognised"] == [f"{SECOND}/B.1"]

    # one length of the pinion is changed: 50 mm become 48
    pinion = str(tmp_path / "pinion.stp")
    proof = said("register", "take", PINION, "--out", pinion, "--as", "step-ap242")["proof"]
    assert proof["unannounced_losses"] == 0
    shorter = said.steps(
        '[[step]]\ndo = "cut"\nat = [0, 0, 48]\nnormal = [0, 0, 1]\n', pinion, "shorter.stp"
    )
    put = said("register", "add", shorter, "--next-major")["put"]
    assert put == [{"name": f"{PINION}/D.1", "what": "new major revision"}]
    one, other = f"{PINION}/C.1", f"{PINION}/D.1"
    differing = said("register", "compare", one, other)
    hub = said("measure", pinion, "--section", "0,0,49,0,0,1")["section"]["area"]
    assert differing["material"]["removed"] == pytest.approx(2 * hub, rel=1e-6)  # it is a prism there

    # the order of release
    message = said.refused("register", "release", f"{GEAR}/B.1")
    assert "not released" in message and "release these first" in message and "--all" in message
    done = said("register", "release", f"{GEAR}/B.1", "--all")["released"]
    assert done[-1] == f"{GEAR}/B.1" and done.index(f"{SHAFTS}/B.1") > done.index(one)
    said("register", "release", SECOND)
    assert "already" in said.refused("register", "release", SECOND)
    assert "is used in" in said.refused("register", "withdraw", one)
    assert "contain itself" in said.refused("register", "repoint", one, f"{SHAFTS}/B.1")

    # repointed in one gear and not in the other
    arguments = ("register", "repoint", one, other, "--in", GEAR)
    preview = said(*arguments, "--preview")
    assert [(c["assembly"], c["becomes"], c["in_place"]) for c in preview["changes"]] == [
        (f"{SHAFTS}/B.1", f"{SHAFTS}/B.2", False), (f"{GEAR}/B.1", f"{GEAR}/B.2", False),
    ]  # fmt: skip
    assert preview["difference"]["material"]["removed"] == pytest.approx(differing["material"]["removed"])
    assert said("register", "show", GEAR)["revision"]["revision"] == "B.1"
    seen = [text for name, stamp in preview["seen"].items() for text in ("--seen", f"{name}={stamp}")]
    said("register", "remark", one, "Wears at the rack")
    assert "after you looked" in said.refused(*arguments, *seen)
    said(*arguments)
    used = {(u["assembly"], u["uses"]) for u in said("register", "where-used", other)["uses"]}
    assert used == {(f"{SHAFTS}/B.2", other), (f"{GEAR}/B.2", f"{SHAFTS}/B.2")}
    left = {u["assembly"] for u in said("register", "where-used", one)["uses"]}
    assert f"{SECOND}/B.1" in left and f"{GEAR}/B.2" not in left
    message = said.refused("register", "release", GEAR)
    assert f"{other}, {SHAFTS}/B.2" in message
    for name in (other, f"{SHAFTS}/B.2", f"{GEAR}/B.2"):
        said("register", "release", name)

    # both packed, and taken in as a copy: all of it is there, under other numbers
    crate = str(tmp_path / "gears.crate")
    packed = said("crate", "pack", GEAR, SECOND, "--out", crate)
    assert len(packed["items"]) == 33 and len(packed["revisions"]) == 36
    assert said("crate", "verify", crate)["ok"]
    revisions, uses = said.rows()
    said("crate", "unpack", crate, "--as-copy")
    all_revisions, all_uses = said.rows()
    assert revisions <= all_revisions and uses <= all_uses
    copies = {(copied(name), *rest) for name, *rest in revisions}
    assert all_revisions - revisions == copies
    assert all_uses - uses == {
        (copied(parent), n, copied(child), placed) for parent, n, child, placed in uses
    }
    lineage = said("register", "show", f"{GEAR}-COPY/B.2")["revision"]["lineage"]
    assert lineage
    for revision in ("B.1", "B.2"):
        same = said("register", "compare", f"{GEAR}/{revision}", f"{GEAR}-COPY/{revision}")
        assert same["material"]["added"] == same["material"]["removed"] == 0 and same["moved"] == []
        assert same["unannounced_losses"] == 0 or same["verdict"] != "carried"  # numbers differ

    # and again as the same items: nothing changes
    again = said("crate", "unpack", crate)["put"]
    assert {each["what"] for each in again} == {"recognised"}
    assert said.rows() == (all_revisions, all_uses)


def test_files_are_gathered(as1: str, tmp_path: Path, capsys: Any) -> None:
    said = Said(tmp_path, capsys)
    (tmp_path / "sent").mkdir()
    linked = str(tmp_path / "sent" / "as1.stp")
    said("send", as1, "--out", linked, "--as", "step-ap242", "--set", "files=nested")
    out = tmp_path / "files"
    found = said("gather", linked, "--out", str(out))
    assert found["missing"] == [] and {f["state"] for f in found["files"]} == {"as it was"}
    there = {p.relative_to(out).as_posix() for p in out.rglob("*") if p.is_file()}
    assert there == {"list.csv", *(f["file"] for f in found["files"])}
    assert "received/l-bracket-assembly/nut-bolt-assembly/bolt.stp" in there
    whole = said("inspect", as1)["totals"]
    gathered = said("inspect", str(out / "received" / "as1.stp"))
    assert gathered["totals"]["placed_volume"] == pytest.approx(whole["placed_volume"], rel=1e-12)
    assert gathered["missing_files"] == []

    said("register", "add", linked)
    (tmp_path / "sent" / "plate.stp").unlink()
    archive = str(tmp_path / "files.zip")
    assert said("gather", linked, "--out", archive, status=1)["missing"] == ["plate.stp"]
    with zipfile.ZipFile(archive) as held:
        assert "plate.stp" not in " ".join(held.namelist()) and b"missing" in held.read("list.csv")
    kept = said("register", "gather", "as1", "--out", str(tmp_path / "kept"))
    assert kept["missing"] == [] and len({f["file"] for f in kept["files"]}) == 6
    assert main(["gather", linked, "--out", str(out)]) == 2
    assert "something already" in capsys.readouterr().err
