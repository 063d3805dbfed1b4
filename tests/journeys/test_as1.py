"""The acceptance of the first crossing on an outside assembly and on the demo, by command line.

Source of the figures: the geometric validation properties that the sending system wrote into
as1-tu-203.stp (gmsh-doc); the rod is a cylinder of radius 5 and length 200.
"""

from __future__ import annotations

import json
import math
from pathlib import Path

import pytest

from gondrel.cli.main import main
from gondrel.core.model.mass import totals_of
from gondrel.core.service.receive import measure_all, receive

pytestmark = pytest.mark.slow


def call(capsys: pytest.CaptureFixture[str], *arguments: str) -> tuple[int, dict]:
    status = main([*arguments, "--json"])
    return status, json.loads(capsys.readouterr().out)


def test_inspect_agrees_with_the_senders_figures(as1: str, capsys: pytest.CaptureFixture[str]) -> None:
    status, found = call(capsys, "inspect", as1)
    assert status == 0
    totals = found["totals"]
    assert (totals["products"], totals["placed_solids"], totals["solids"]) == (9, 18, 5)
    assert totals["levels"] > 2
    assert found["file"]["length_unit"] == "mm"
    assert {p["revision"] for p in found["products"]} == {"version 0"}
    assert totals["placed_volume"] == pytest.approx(764518.031066584, rel=1e-6)
    assert totals["placed_area"] == pytest.approx(141079.335225521, rel=1e-6)
    by_name = {p["name"]: p for p in found["products"]}
    (rod,) = by_name["rod"]["bodies"]
    assert rod["volume"] == pytest.approx(math.pi * 25 * 200, rel=1e-9)
    for product in found["products"]:
        for body in product["bodies"]:
            said = product["validation"]
            assert body["volume"] == pytest.approx(said["volume"], rel=5e-4)
            assert body["centroid"] == pytest.approx(said["centroid"], abs=1e-3)


@pytest.mark.parametrize("kind", ["step-ap242", "step-ap214", "step-ap203"])
@pytest.mark.parametrize("source", ["as1", "demo_file"])
def test_every_protocol_without_an_unannounced_loss(
    kind: str,
    source: str,
    request: pytest.FixtureRequest,
    tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
) -> None:
    out = tmp_path / "out.stp"
    path = request.getfixturevalue(source)
    status, found = call(capsys, "send", path, "--as", kind, "--out", str(out))
    proof = found["proof"]
    assert status == 0
    assert (proof["unannounced_losses"], proof["false_alarms"]) == (0, 0)
    assert proof["max_volume_error"] <= 1e-7
    verdicts = {e["thing"]: e["verdict"] for e in proof["ledger"] if e["items"]}
    assert "remainder" not in verdicts  # what AP203 demands of its own, as people and dates, is read
    assert found["census"]["remainder"] == 0 and found["remainder"] == []
    if kind == "step-ap242":
        assert set(verdicts.values()) == {"carried"}
    if kind == "step-ap214":
        assert {k for k, v in verdicts.items() if v != "carried"} == (
            {"metadata"} if source != "as1" else set()
        )
    if kind == "step-ap203":
        lost = {g["thing"] for g in found["forecast"] if g["fate"] == "lost"}
        assert lost == {k for k, v in verdicts.items() if v == "lost"}
    assert out.read_text(encoding="ascii")


def test_prove_and_forecast_only(as1: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    status, found = call(capsys, "prove", as1, as1)
    assert (status, found["verdict"]) == (0, "carried")
    status, found = call(capsys, "send", as1, "--as", "step-ap203", "--forecast-only")
    assert status == 0
    assert set(found).isdisjoint({"sent", "proof"})


@pytest.mark.parametrize(
    "arguments",
    [
        ("inspect", "/no/such/file.stp"),
        ("send", "AS1", "--as", "nonsense", "--out", "/tmp/never.stp"),
        ("send", "AS1", "--as", "step-ap242", "--out", "/no/such/folder/x.stp"),
        ("send", "AS1", "--as", "step-ap242", "--out", "x.stp", "--set", "unit=cubit"),
        ("inspect",),
    ],
)
def test_wrong_calls_end_with_one_line_and_status_two(
    arguments: tuple[str, ...], as1: str, capsys: pytest.CaptureFixture[str]
) -> None:
    status = main([*(as1 if a == "AS1" else a for a in arguments), "--json"])
    out, err = capsys.readouterr()
    assert status == 2
    assert set(json.loads(out)["error"]) == {"code", "message", "file", "where"}
    assert len(err.strip().splitlines()) == 1


def test_assemblies_agree_with_the_senders_figures_too(as1: str, store_folder: str) -> None:
    """Assemblies carry figures of their own: volume and area to 1e-6, centroid to 1e-3 mm."""
    model = receive(as1, store_folder)
    totals = totals_of(model, measure_all(model.blobs(), store_folder))
    compared = 0
    for product in model.products:
        said = product.validation
        if not product.is_assembly or said is None or said.volume is None:
            continue
        ours = totals[product.id]
        compared += 1
        tolerance = 1e-6 if product.id in model.roots else 5e-4
        assert ours.volume == pytest.approx(said.volume, rel=tolerance)
        assert ours.area == pytest.approx(said.area, rel=tolerance)
        assert ours.centroid == pytest.approx(said.centroid, abs=1e-3)
    assert compared >= 1
