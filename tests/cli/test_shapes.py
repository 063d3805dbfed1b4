"""Every object of the command line has the shape that other tools rely on, whatever the file."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from gondrel.cli.main import main
from gondrel.demo.planted import make_planted
from tests.cli.shapes import CHECK, ERROR, INSPECT, MEND, PROVE, SEND, unlike
from tests.conftest import outside

pytestmark = pytest.mark.slow

PLANTED = ("face-missing-planted.stp", "sliver-planted.x_t", "high-degree-iges-planted.igs",
           "overlap-planted.stp", "no-name-planted.stp", "left-over-planted.stp")  # fmt: skip


@pytest.fixture(scope="module")
def files(tmp_path_factory, as1: str, demo_file: str) -> dict[str, str]:
    """Files of every format there is to read, sound ones and some with defects."""
    folder = tmp_path_factory.mktemp("files")
    make_planted(folder / "planted", str(folder / "store"))
    found = {name: str(folder / "planted" / name) for name in PLANTED}
    found |= {
        "as1": as1,
        "demo": demo_file,
        "hammer": str(outside("usr/share/opencascade/data/iges/hammer.iges")),
    }
    for kind, name in (("stl", "pins.stl"), ("obj", "pins.obj"), ("xt-binary", "pins.x_b")):
        found[name] = str(folder / name)
        assert main(["send", found["overlap-planted.stp"], "--as", kind, "--out", found[name]]) in (0, 1)
    return found


HAMMER = "usr/share/opencascade/data/iges/hammer.iges"


def _said(capsys, *arguments: str) -> tuple[int, Any]:
    capsys.readouterr()
    status = main([*arguments, "--json"])
    return status, json.loads(capsys.readouterr().out)


@pytest.mark.parametrize("name", ["no-name-planted.stp", "demo", "hammer", "pins.obj", "pins.x_b"])
def test_inspect(name, files, capsys) -> None:
    status, found = _said(capsys, "inspect", files[name])
    assert status == 0 and list(unlike(INSPECT, found)) == []
    totals, products = found["totals"], found["products"]
    assert totals["products"] == len(products)
    assert totals["bodies"] == sum(len(p["bodies"]) for p in products)
    for product in products:
        assert all(len(b["centroid"]) == 3 and len(b["bbox"]) == 6 for b in product["bodies"])
        assert all(len(c["placement"]) == 16 for c in product["children"])
        assert all(0 <= c["product"] < len(products) for c in product["children"])
    assert all(0 <= root < len(products) for root in found["roots"])
    assert found["file"]["bytes"] == Path(files[name]).stat().st_size


@pytest.mark.parametrize("name", ["sliver-planted.x_t", "left-over-planted.stp", "as1", "pins.stl"])
def test_check(name, files, capsys) -> None:
    status, found = _said(capsys, "check", files[name])
    assert list(unlike(CHECK, found)) == []
    counts = found["counts"]
    assert status == (1 if counts["fault"] + counts["doubt"] else 0)
    for severity, count in counts.items():
        assert sum(f["severity"] == severity for f in found["findings"]) == count
    assert all(len(f["where"].get("point", (0, 0, 0))) == 3 for f in found["findings"])
    assert found["examined"] > 0, "never clean by examining nothing"


@pytest.mark.parametrize("name", ["face-missing-planted.stp", "high-degree-iges-planted.igs"])
def test_mend(name, files, capsys, tmp_path) -> None:
    out = str(tmp_path / "mended.stp")
    status, found = _said(capsys, "mend", files[name], "--out", out)
    assert list(unlike(MEND, found)) == []
    assert [s["bytes"] for s in found["sent"]] == [Path(s["path"]).stat().st_size for s in found["sent"]]
    left = found["check_after"]["fault"] + found["check_after"]["doubt"]
    assert status == (1 if left else 0)


@pytest.mark.parametrize(
    ("name", "kind"),
    [("as1", "step-ap203"), ("overlap-planted.stp", "obj"), ("pins.stl", "xt-text"),
     ("pins.x_b", "iges-surface")],
)  # fmt: skip
def test_send_and_prove(name, kind, files, capsys, tmp_path) -> None:
    """What is sent is proved with the forecast; prove alone knows of none."""
    suffix = {"step-ap203": "stp", "iges-surface": "igs", "xt-text": "x_t", "obj": "obj"}[kind]
    out = str(tmp_path / f"out.{suffix}")
    settings = () if kind == "obj" or not name.endswith("stl") else ("--set", "receive.facets=solid")
    status, found = _said(capsys, "send", files[name], "--as", kind, "--out", out, *settings)
    assert list(unlike(SEND, found)) == []
    assert found["proof"]["unannounced_losses"] == 0 and status == 0
    for told in found["forecast"]:
        assert (told["why"] != "") == (told["fate"] != "carried") and told["items"]
    if kind == "obj":
        return  # triangles against faces are compared when they are sent
    _, proof = _said(capsys, "prove", files[name], out)
    assert list(unlike(PROVE, proof)) == []
    assert all(entry["announced"] is None for entry in proof["ledger"])


@pytest.mark.parametrize(
    "arguments",
    [
        ("inspect", "{folder}"), ("check", "{empty}"), ("check", "{as1}", "--set", "gap=wide"),
        ("mend", "{as1}", "--out", "{folder}/x.stp", "--only", "Q1"),
        ("mend", "{as1}", "--out", "{folder}/x.doc"), ("prove", "{as1}", "{empty}"), (),
    ],
    ids=lambda a: " ".join(a)[:40],
)  # fmt: skip
def test_errors(arguments, as1, capsys, tmp_path) -> None:
    empty = tmp_path / "empty.stp"
    empty.write_bytes(b"")
    given = [a.format(as1=as1, folder=tmp_path, empty=empty) for a in arguments] or ["inspect"]
    status, found = _said(capsys, *given)
    assert status == 2 and list(unlike(ERROR, found)) == []
    assert found["error"]["message"]
    assert {p.name for p in tmp_path.iterdir()} <= {"empty.stp", "state", "config"}


def test_the_comparison_itself_finds_what_is_otherwise() -> None:
    good = {"error": {"code": "A", "message": "m", "file": "", "where": ""}}
    assert list(unlike(ERROR, good)) == []
    assert list(unlike(ERROR, {"error": {**good["error"], "code": 3}})) == [".error.code: 3 is no str"]
    assert list(unlike(ERROR, {})) == [".error is missing"]
    assert list(unlike([{"a", "b"}], ["a", "c"])) == ["[1]: 'c' is not one of ['a', 'b']"]
    assert list(unlike({"n": (int, None)}, {"n": True})) == [".n: True"]
    assert list(unlike({"n?": int}, {})) == [] and list(unlike({"n": [int]}, {"n": 3}))
