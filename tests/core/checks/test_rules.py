"""Every check finds its bad example and nothing on its good one; the runner keeps and combines."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import pytest

from gondrel.cli.main import main
from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.catalogue import all_checks, checks_in
from gondrel.core.checks.runner import check_model
from gondrel.core.kernel.base.shape import faces_of, shape_to_blob
from gondrel.core.kernel.examples.broken import moved_vertex, shifted_plane, solid_of
from gondrel.core.kernel.inspect.inspection import inspect_shape
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.findings import CheckLimits, Severity
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import receive
from tests.builders import shifted, small_assembly

LIMITS = CheckLimits()
CHECKS = checks_in(Scope.BODY)


@pytest.mark.parametrize("check", CHECKS, ids=lambda c: c.name)
def test_the_bad_example_is_found_and_the_good_one_is_not(check) -> None:
    assert list(check.run(inspect_shape(check.bad()), LIMITS))
    good = inspect_shape(check.good())
    assert not list(check.run(good, LIMITS))
    for other in CHECKS:
        grave = other.severity is Severity.FAULT
        assert not grave or not list(other.run(good, LIMITS)), other.name


@pytest.mark.parametrize("check", all_checks(), ids=lambda c: c.name)
def test_every_check_says_why_and_what_mends(check) -> None:
    assert check.why.endswith(".") and check.cure.endswith(".") and check.source
    assert check.code[0] in "TGAMF" and len(check.code) == 4


def _found(shape, code: str):
    check = next(c for c in CHECKS if c.code == code)
    return list(check.run(inspect_shape(shape), LIMITS))


@pytest.mark.parametrize("by", [0.02, 0.05, 0.3])
def test_gaps_are_measured(by) -> None:
    """Closed form: a plane moved by a distance square to itself is that far off all its edges."""
    found = _found(shifted_plane(by), "G201")
    assert len(found) == 4 and max(f.measured for f in found) == pytest.approx(by, rel=1e-6)
    (one, *_) = _found(moved_vertex(by), "G202")
    assert one.measured == pytest.approx(by, rel=1e-6)


def test_rims_are_measured_and_placed() -> None:
    (flaw,) = _found(solid_of(faces_of(block(10, 20, 30))[:5]), "T101")
    assert flaw.measured == pytest.approx(60.0) and flaw.point is not None
    assert flaw.point[2] in (0.0, 15.0, 30.0)


def _model(store: BlobStore, *shapes) -> Model:
    bodies = tuple(
        Body(f"b{i}", BodyKind.SOLID, "", store.put(shape_to_blob(s))) for i, s in enumerate(shapes)
    )
    return Model((Product("p", "N-1", "Part", bodies=bodies),), ("p",))


def test_the_runner_counts_keeps_and_combines(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = _model(store, block(1, 2, 3, at=(99, 0, 0)), solid_of(faces_of(block(10, 20, 30))[:5]))
    report = check_model(model, store)
    assert dict(report.examined)["p"] > 40 and not report.failed
    assert {f.code for f in report.findings if f.severity is Severity.FAULT} == {"T101"}
    assert {f.body for f in report.findings} == {"b1"}
    assert check_model(model, store) == report
    tighter = check_model(model, store, CheckLimits(short=1.5))
    assert {f.code for f in tighter.findings} >= {"G301", "T101"}


def test_structure_and_names(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = small_assembly(store)
    assert not [f for f in check_model(model, store).findings if f.severity is Severity.FAULT]
    top, pin = model.product("top"), model.product("pin")
    mirrored = Occurrence("o9", "pin", "again", (-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1))
    twice = Occurrence("o8", "plate", "plate 2", shifted(0))
    broken = replace(
        model,
        products=(
            replace(top, occurrences=(*top.occurrences, mirrored, twice), name=""),
            model.product("plate"),
            replace(pin, number="P-2"),
            replace(pin, id="copy", number="P-7", bodies=(replace(pin.bodies[0], id="c"),)),
            Product("empty", "E-1", "Empty"),
            Product("lost", "L-1", "Lost", missing_file="lost.stp"),
        ),
        roots=("top", "copy", "empty", "lost"),
    )
    codes = {f.code for f in check_model(broken, store).findings}
    assert codes >= {"A501", "A502", "A503", "A504", "A505", "M601", "M602"}


@pytest.mark.slow
def test_outside_files_are_clean_and_the_demo_has_no_fault(as1, demo_file, store_folder) -> None:
    """Source: the assembly of package gmsh-doc, a test file of the trade."""
    store = BlobStore(Path(store_folder))
    report = check_model(receive(as1, store_folder), store)
    assert {f.code for f in report.findings} == {
        "G405"
    }  # its cylinders are splines, the file has no CYLINDRICAL_SURFACE
    assert sum(n for _, n in report.examined) > 200
    demo = check_model(receive(demo_file, store_folder), store)
    assert not [f for f in demo.findings if f.severity is Severity.FAULT]


@pytest.mark.slow
def test_on_the_command_line(as1, tmp_path, capsys) -> None:
    assert main(["check", as1, "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["counts"] == {"fault": 0, "doubt": 0, "note": 28} and found["bodies_clean"] == 5
    assert main(["check", as1, "--json", "--set", "short=30"]) == 1
    tighter = json.loads(capsys.readouterr().out)
    assert tighter["counts"]["doubt"] > 0
    first = tighter["findings"][0]
    assert {"code", "title", "severity", "product", "body", "where", "measure", "mends"} <= first.keys()
    assert main(["check", as1, "--set", "shortness=3"]) == 2


def test_a_check_without_a_reason_or_a_cure_can_not_be_declared() -> None:
    for missing in ("why", "cure", "source"):
        with pytest.raises(ValueError, match="says no reason"):
            replace(CHECKS[0], **{missing: ""})
    with pytest.raises(ValueError, match="no example"):
        replace(CHECKS[0], good=None)


@pytest.mark.parametrize("scope", [Scope.BODY, Scope.STRUCTURE, Scope.PLACED])
def test_one_failing_rule_never_stops_the_others(scope, tmp_path, monkeypatch) -> None:
    def fails(given: object, limits: CheckLimits) -> list[Flaw]:
        raise IndexError("nothing there")

    broken = Check(
        "X999", "broken", "Broken", Severity.FAULT, "It fails.", "None.", "own", fails, scope,
        lambda: None, lambda: None,
    )  # fmt: skip
    every = (broken, *all_checks())
    monkeypatch.setattr("gondrel.core.checks.catalogue.all_checks", lambda: every)
    store = BlobStore(tmp_path)
    solid = Body("b", BodyKind.SOLID, "", store.put(shape_to_blob(solid_of(faces_of(block(1, 2, 3))[:5]))))
    report = check_model(Model((Product("p", "", "", bodies=(solid,)),), ("p",)), store)
    assert {"T101", "M601", "M606"} <= {f.code for f in report.findings}
    assert [(code, why) for code, why in report.failed if code == "X999"] == [
        ("X999", "(unnamed): nothing there" if scope is Scope.BODY else "nothing there")
    ]
