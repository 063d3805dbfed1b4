"""Objects of the command line as lines for people: what matters is said, long lists are cut and counted."""

from __future__ import annotations

from typing import Any

from gondrel.cli.text import check_lines, forecast_lines, inspect_lines, mend_lines, proof_lines

FILE = {
    "path": "gate.stp", "bytes": 2_340_000, "format": "step", "schema": "AP242", "length_unit": "mm",
    "written_by": {"system": "", "translator": "", "author": "", "organisation": "", "date": "2026-01-02"},
}  # fmt: skip


def _body(volume: float) -> dict[str, Any]:
    return {"name": "", "kind": "solid", "volume": volume}


def test_inspect_shows_the_tree_with_how_often_and_how_much() -> None:
    children = [{"product": 1, "name": "left"}, {"product": 1, "name": "right"}, {"product": 2, "name": ""}]
    result = {
        "file": FILE,
        "products": [
            {"number": "G-1", "name": "Gate", "revision": "C", "bodies": [], "children": children},
            {"number": "G-3", "name": "Pin", "revision": "", "bodies": [_body(1000.0)], "children": []},
            {"number": "G-9", "name": "", "revision": "A", "bodies": [_body(1.5), _body(2.0)],
             "children": []},
        ],
        "roots": [0],
        "totals": {"products": 3, "occurrences": 3, "solids": 3, "placed_solids": 4, "sheets": 0,
                   "placed_volume": 2003.5, "placed_area": 5.0},
        "census": {"carried": 4, "serving": 90, "remainder": 6, "all": 100, "noun": "records"},
        "remainder": [{"kind": "saved views", "type": "CAMERA_MODEL_D3", "count": 6, "where": []}],
        "notes": [{"code": "x", "text": "odd", "where": "Pin"}, {"code": "y", "text": "old", "where": ""}],
    }  # fmt: skip
    lines = inspect_lines(result)
    assert lines[0] == "gate.stp"
    assert "AP242, mm, 2.34 MB, written by an unnamed system 2026-01-02" in lines[1]
    assert "3 solids (4 placed)" in lines[2] and "volume 2,003.500 mm3" in lines[3]
    tree = lines[5:8]
    assert tree == [
        "  Gate  rev C", "    Pin  1 body, 1,000.000 mm3  x 2", "    G-9  rev A  2 bodies, 3.500 mm3",
    ]  # fmt: skip
    assert lines[8:10] == [
        "100 records: 4 read, 90 serving them, 6 in the remainder",
        "  remainder: saved views: 6 CAMERA_MODEL_D3",
    ]
    assert lines[10:] == ["note: Pin: odd", "note: old"]


def test_check_counts_cuts_and_places() -> None:
    found = [
        {"number": n, "code": "G301", "title": "Edge too short", "severity": "doubt", "product": "Pin",
         "body": "Pin", "text": f"it is 0.00{n} mm long", "where": {"point": [1.0, 2.0, n]}}
        for n in range(1, 11)
    ]  # fmt: skip
    found.append({"number": 11, "code": "M601", "title": "No name", "severity": "note", "product": "",
                  "body": "", "text": "it has none", "where": {}})  # fmt: skip
    result = {
        "file": FILE, "findings": found, "counts": {"fault": 0, "doubt": 10, "note": 1}, "bodies_clean": 0,
        "bodies_with_findings": 1, "examined": 1234, "not_run": [{"code": "G407", "why": "it failed"}],
    }  # fmt: skip
    lines = check_lines(result)
    assert "0 faults, 10 doubts, 1 notes" in lines[1] and "1,234 faces" in lines[1]
    assert lines[2] == "  ? G301 Edge too short: 10"
    assert lines[3] == "      #1 Pin: it is 0.001 mm long at (1.000, 2.000, 1.000)"
    assert "      and 2 more" in lines and "  . M601 No name: 1" in lines
    assert lines[-1] == "  not run: G407 it failed"


def test_mend_tells_only_figures_that_changed() -> None:
    mend = {
        "code": "R104",
        "title": "Close open rims",
        "product": "Box",
        "outcome": "mended",
        "why": "well",
    }
    before = {"volume": 4800.0, "area": 2000.0, "faces": 5.0}
    counts = {"fault": 1, "doubt": 0, "note": 0}
    result = {
        "mends": [
            {**mend, "before": before, "after": {"volume": 6000.0, "area": 2000.0, "faces": 6.0}},
            {**mend, "outcome": "refused", "why": "it would make things worse", "before": before,
             "after": before},
        ],
        "check_before": counts, "check_after": {**counts, "fault": 0},
    }  # fmt: skip
    lines = mend_lines(result)
    assert lines[0] == "  + R104 Close open rims: Box: mended, well"
    assert lines[1] == "      volume 4,800 to 6,000, faces 5 to 6"
    assert lines[2].startswith("  - R104") and "worse" in lines[2]
    assert lines[-2:] == ["  before: 1 faults, 0 doubts", "  after: 0 faults, 0 doubts"]
    assert mend_lines({**result, "mends": []})[0] == "  nothing to mend"


def test_the_forecast_says_why() -> None:
    lost = {"thing": "colours", "fate": "lost", "count": 4, "why": "no place for them", "items": []}
    kept = {"thing": "bodies", "fate": "carried", "count": 2, "why": "", "items": []}
    lines = forecast_lines({"forecast": [kept, lost], "remarks": ["read by all"]})
    assert lines == ["Forecast:", "  - colours: 4 lost: no place for them", "  read by all"]
    assert forecast_lines({"forecast": [kept]}) == ["Forecast: everything is carried"]


def test_the_proof_shouts_what_was_not_announced() -> None:
    item = {
        "path": "Pin",
        "aspect": "colour",
        "before": "#ff0000",
        "after": "",
        "verdict": "lost",
        "detail": "",
    }
    ledger = [
        {"thing": "bodies", "before": "2", "after": "2", "verdict": "carried", "items": [
            {**item, "verdict": "carried"}]},
        {"thing": "colours", "before": "9", "after": "0", "verdict": "lost", "items": [item] * 9},
        {"thing": "layers", "before": "0", "after": "0", "verdict": "unproved", "items": []},
    ]  # fmt: skip
    proof = {"verdict": "lost", "ledger": ledger, "max_deviation": 1.25e-4, "max_volume_error": 2e-9,
             "unannounced_losses": 0}  # fmt: skip
    lines = proof_lines(proof)
    assert lines[0] == "Proof: lost" and not any("layers" in line for line in lines)
    assert lines[3] == "      Pin: colour: #ff0000 > nothing" and "      and 1 more" in lines
    assert "largest deviation 0.00013 mm, volume error 2e-09 relative" in lines[-1]
    assert "3 LOSSES WERE NOT ANNOUNCED" in proof_lines({**proof, "unannounced_losses": 3})[-1]
