"""Objects of the command line as lines for people: what matters is said, long lists are cut and counted."""

from __future__ import annotations

from collections.abc import Iterable
from io import StringIO
from typing import Any

from gondrel.cli.console import console
from gondrel.cli.text import card_view, check_view, forecast_view, inspect_view, mend_view, proof_view
from gondrel.core.model.provenance import FileFacts, Writer

FILE = {
    "path": "gate.stp", "bytes": 2_340_000, "format": "step", "schema": "AP242", "length_unit": "mm",
    "written_by": {"system": "", "translator": "", "author": "", "organisation": "", "date": "2026-01-02"},
}  # fmt: skip


def lines_of(view: Iterable[Any]) -> list[str]:
    """What is printed to a pipe, without blanks at the ends of lines."""
    stream = StringIO()
    shown = console(file=stream)
    for part in view:
        shown.print(part)
    return [line.rstrip() for line in stream.getvalue().splitlines()]


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
    card = FileFacts("gate.stp", 2_300_000, "step", schema="AP242", length_unit="mm",
                     written_by=Writer(date="2026-01-02"))  # fmt: skip
    lines = lines_of((*card_view(card), *inspect_view(result)))
    assert lines[0] == "gate.stp"
    assert "AP242, mm, 2.3 MB, written by an unnamed system 2026-01-02" in lines[1]
    assert "3 solids (4 placed)" in lines[2] and "volume 2,003.50 mm\u00b3" in lines[3]
    tree = lines[4:7]
    assert tree == [
        "Gate  rev C", "\u251c\u2500\u2500 Pin  1 body, 1,000.00 mm\u00b3  \u00d7 2",
        "\u2514\u2500\u2500 G-9  rev A  2 bodies, 3.50000 mm\u00b3",
    ]  # fmt: skip
    assert lines[7:9] == [
        "100 records: 4 read, 90 serving them, 6 in the remainder",
        "  remainder: saved views: 6 CAMERA_MODEL_D3",
    ]
    assert lines[9:] == ["note: Pin: odd", "note: old"]


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
    lines = lines_of(check_view(result))
    assert "0 faults, 10 doubts, 1 note;" in lines[1] and "1,234 faces" in lines[1]
    assert lines[2] == "? G301 Edge too short: 10"
    assert lines[3].endswith("#1 Pin: it is 0.001 mm long at (1.000, 2.000, 1.000) mm")
    assert "\u2514\u2500\u2500 and 2 more" in lines and ". M601 No name: 1" in lines
    assert lines[-1] == "not run: G407 it failed"


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
    lines = lines_of(mend_view(result))
    assert lines[0] == "+ R104 Close open rims: Box: mended, well"
    assert [line[4:] for line in lines[1:3]] == ["volume 4,800 > 6,000", "faces 5 > 6"]
    assert lines[3].startswith("- R104") and "worse" in lines[3]
    assert [line.split() for line in lines[-2:]] == [["faults", "1", "0"], ["doubts", "0", "0"]]
    assert lines_of(mend_view({**result, "mends": []}))[0] == "nothing to mend"


def test_the_forecast_says_why() -> None:
    lost = {"thing": "colours", "fate": "lost", "count": 4, "why": "no place for them", "items": []}
    kept = {"thing": "bodies", "fate": "carried", "count": 2, "why": "", "items": []}
    lines = lines_of(forecast_view({"forecast": [kept, lost], "remarks": ["read by all"]}))
    assert lines[0].split() == ["Forecast", "thing", "count", "why"]
    assert lines[2].split() == ["-", "lost", "colours", "4", "no", "place", "for", "them"]
    assert lines[3:] == ["  read by all"]
    assert lines_of(forecast_view({"forecast": [kept]})) == ["Forecast: everything is carried"]


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
    shapes = {"thing": "geometry", "before": "1", "after": "0.0001 mm", "verdict": "carried",
              "items": [{**item, "verdict": "carried"}]}  # fmt: skip
    ledger = [{**each, "announced": True} for each in (*ledger, shapes)]
    proof = {"verdict": "lost", "ledger": ledger, "max_deviation": 1.25e-4, "max_volume_error": 2e-9,
             "unannounced_losses": 0}  # fmt: skip
    lines = lines_of(proof_view(proof))
    assert lines[0] == "Proof: lost" and not any("layers" in line for line in lines)
    assert "- Pin: colour: #ff0000 > nothing" in lines and "  and 1 more" in lines
    assert ["+", "geometry", "1", "1", "carried"] in [line.split() for line in lines], "counts, no figures"
    assert "largest deviation 0.00013 mm, volume error 2e-09 relative" in lines[-1]
    assert "3 LOSSES NOT ANNOUNCED" in lines_of(proof_view({**proof, "unannounced_losses": 3}))[-1]
    assert "1 LOSS NOT ANNOUNCED" in lines_of(proof_view({**proof, "unannounced_losses": 1}))[-1]
    unforeseen = [{**each, "announced": None} for each in ledger]
    bare = lines_of(proof_view({**proof, "ledger": unforeseen, "unannounced_losses": 3}))
    assert not any("ANNOUNCED" in line for line in bare), "nothing was forecast"
