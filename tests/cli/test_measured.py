"""``gondrel measure`` on an outside file: the shape of the contract, and figures by other means."""

from __future__ import annotations

import json
import math
from typing import Any

import pytest

from gondrel.cli.main import main

pytestmark = pytest.mark.slow


def said(capsys: Any, *arguments: str) -> dict[str, Any]:
    assert main(["measure", *arguments, "--json"]) == 0
    made: dict[str, Any] = json.loads(capsys.readouterr().out)
    return made


def test_a_section_and_its_parts(as1: str, capsys: Any) -> None:
    section = said(capsys, as1, "--section", "25,0,0,1,0,0")["section"]
    parts = {part["path"].rsplit("/", 1)[-1]: part for part in section["parts"]}
    assert parts["ROD"]["area"] == pytest.approx(math.pi * 25, rel=1e-9), "a rod of 10 mm"
    assert parts["ROD"]["perimeter"] == pytest.approx(math.pi * 10, rel=1e-9)
    assert section["area"] == pytest.approx(sum(p["area"] for p in section["parts"]), rel=1e-12)
    assert section["refused"] == []
    half = said(capsys, as1, "--section", "25,0,0,1,0,0", "--section", "0,0,10,0,0,1")["section"]
    assert 0 < half["area"] != pytest.approx(section["area"])


def test_the_table_of_holes(as1: str, capsys: Any) -> None:
    """Counted by hand from the file: six holes in the plate, four in the bracket, one in the nut."""
    holes = said(capsys, as1, "--holes")["holes"]
    counts = {
        item: sum(h["count"] for h in holes if h["item"] == item) for item in ("plate", "l-bracket", "nut")
    }
    assert counts == {"plate": 6, "l-bracket": 4, "nut": 1}
    assert {h["item"] for h in holes} == counts.keys()
    assert all(h["through"] and h["diameter"] == pytest.approx(10.0, abs=1e-6) for h in holes)
    (plate,) = (h for h in holes if h["item"] == "plate")
    assert len(plate["axes"]) == 6 and plate["depth"] == pytest.approx(20.0, abs=1e-6)
    (nut,) = (h for h in holes if h["item"] == "nut")
    assert nut["placed"] == 8


def test_clearance_wall_and_mass(as1: str, capsys: Any) -> None:
    made = said(capsys, as1, "--clearance", "rod", "plate", "--thickness", "plate", "--mass")
    clearance = made["clearance"]
    assert clearance["distance"] == pytest.approx(math.dist(*clearance["points"]), rel=1e-12)
    assert clearance["distance"] == pytest.approx(35.0, rel=1e-9), "its axis stands 40 mm above"
    between = 15 * math.sqrt(3) - 10  # two holes of 10 mm on a circle of 30 mm, 120 degrees apart
    assert made["thickness"]["least"] == pytest.approx(between, rel=1e-9)
    assert made["thickness"]["item"] == "plate"
    assert made["mass"]["mass"] is None and len(made["mass"]["without_material"]) == 5
    assert made["mass"]["volume"] == pytest.approx(764518.0345, rel=1e-8)


def test_for_people(as1: str, capsys: Any) -> None:
    assert main(["measure", as1, "--holes", "--mass", "--section", "25,0,0,1,0,0"]) == 0
    shown = capsys.readouterr().out
    assert "78.5398 mm²" in shown and "11 holes" in shown and "mass not measured" in shown


@pytest.mark.parametrize(
    ("arguments", "why"),
    [
        ((), "nothing is asked for"),
        (("--section", "1,2,3"), "six numbers"),
        (("--section", "0,0,0,0,0,0"), "no length"),
        (("--clearance", "rod", "nobody"), "no item fits nobody"),
        (("--clearance", "rod", "rod"), "only one body"),
    ],
)
def test_wrong_calls_are_told(as1: str, capsys: Any, arguments: tuple[str, ...], why: str) -> None:
    assert main(["measure", as1, *arguments]) == 2
    told = capsys.readouterr().err
    assert why in told and len(told.splitlines()) <= 2
