"""A mend of one finding alone: what was found elsewhere stays as it was."""

from __future__ import annotations

import json

import pytest

from gondrel.cli.main import main
from gondrel.core.checks.runner import check_model
from gondrel.core.errors import UsageError
from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.examples import flawed
from gondrel.core.kernel.examples.broken import cylinder_as_spline, shifted_plane, solid_of
from gondrel.core.kernel.inspect.inspection import inspect_shape
from gondrel.core.kernel.modelling.build import block
from gondrel.core.mends.planner import mend_model
from gondrel.core.model import Model
from gondrel.core.model.findings import CheckLimits, CheckReport, Finding, MendWish
from gondrel.core.model.store import BlobStore
from gondrel.core.service.check import check
from gondrel.core.service.mend import wish_for
from tests.core.mends.test_wishes import model_of, part, volume


def _report(model: Model, store: BlobStore) -> CheckReport:
    return check(model, CheckLimits(), str(store.folder))


def _of(model: Model, store: BlobStore, code: str) -> list[Finding]:
    return [f for f in check_model(model, store).findings if f.code == code]


def test_one_rim_is_closed_and_the_other_is_not(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = model_of(part(store, "box", solid_of(_without_two_sides())))
    rims = _of(model, store, "T101")
    assert len(rims) == 2
    wish = MendWish(only=("R104",), finding=rims[0])
    mended, (told,) = mend_model(model, store, wish)
    assert told.outcome == "mended"
    (left,) = [f for f in check_model(mended, store).findings if f.code in ("T101", "T102")]
    assert left.point is not None and abs(left.point[0] - rims[1].point[0]) < 10
    both, _ = mend_model(mended, store, MendWish(only=("R104",)))
    assert volume(store, both) == pytest.approx(6000.0)


def _without_two_sides() -> list:
    """The faces of a block of 10 x 20 x 30 without the two across x."""
    whole = block(10, 20, 30)
    body = inspect_shape(whole)
    return [f for n, f in enumerate(faces_of(whole)) if abs(body.middle_of(n)[0] - 5.0) < 1.0]


def test_the_edges_of_one_face_are_laid_anew(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = model_of(part(store, "one", shifted_plane(0.05)), part(store, "two", shifted_plane(0.05)))
    finding = next(f for f in _of(model, store, "G201") if f.product == "two")
    mended, told = mend_model(model, store, MendWish(only=("R108",), finding=finding))
    assert {t.product_id for t in told} == {"two"}
    assert mended.product("one") == model.product("one")
    assert {f.product for f in _of(mended, store, "G201")} == {"one"}


def test_one_spline_becomes_a_cylinder(tmp_path) -> None:
    store = BlobStore(tmp_path)
    shapes = [cylinder_as_spline(8.0, 20.0), cylinder_as_spline(5.0, 20.0)]
    model = model_of(part(store, "set", *shapes))
    first, _ = _of(model, store, "G405")
    mended, (told,) = mend_model(model, store, MendWish(only=("R110",), finding=first))
    assert told.outcome == "mended" and len(_of(mended, store, "G405")) == 1


def test_one_face_is_merged_and_the_rest_stays_apart(tmp_path) -> None:
    """A block in halves has four sides in two pieces each."""
    store = BlobStore(tmp_path)
    model = model_of(part(store, "halves", flawed.split_block()))
    found = _of(model, store, "G406")
    mended, (told,) = mend_model(model, store, MendWish(only=("R111",), finding=found[0]))
    assert told.outcome == "mended" and len(_of(mended, store, "G406")) == len(found) - 1
    assert volume(store, mended) == pytest.approx(volume(store, model))


def test_one_overlap_is_taken_out(tmp_path) -> None:
    """A bar runs into two posts; only one of the two common parts, 10 x 20 x 2 mm, goes."""
    store = BlobStore(tmp_path)
    bar, posts = block(60, 20, 30), [block(10, 20, 30, at=(x, 0, 28)) for x in (0, 50)]
    model = model_of(part(store, "set", bar, *posts))
    found = _of(model, store, "A508")
    assert len(found) == 2
    mended, (told,) = mend_model(model, store, MendWish(only=("R303",), finding=found[0]))
    assert told.outcome == "mended"
    assert facts_of(store, mended.product("set").bodies[0].blob).volume == pytest.approx(36_000 - 400)
    assert len(_of(mended, store, "A508")) == 1


def test_a_mend_of_the_whole_body_is_not_done_for_one_finding(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = model_of(part(store, "plate", flawed.with_ledge(0.004)))
    report = _report(model, store)
    assert any(m.code == "R105" and not m.is_single for m in report.mends)
    finding = next(f for f in report.findings if f.code == "G302")
    mend = report.single_mend(finding)
    assert mend is not None and mend.code == "R114", "which works on the face alone"
    _, told = mend_model(model, store, MendWish(finding=finding))
    assert "R105" not in {t.code for t in told}


def test_a_finding_is_told_by_its_number(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = model_of(part(store, "plate", shifted_plane(0.05)))
    report = _report(model, store)
    wish = wish_for(report, 1, MendWish())
    assert wish.only == ("R108",) and wish.finding == report.findings[0]
    with pytest.raises(UsageError, match="no finding 99"):
        wish_for(report, 99, MendWish())
    heavy = model_of(part(store, "fit", flawed.uneven_curve()))
    with pytest.raises(UsageError, match="alone"):
        wish_for(_report(heavy, store), 1, MendWish())


@pytest.mark.slow
def test_on_the_command_line(tmp_path, capsys) -> None:
    """A block without two sides: the first finding's rim is closed, one fault is left."""
    from gondrel.core.service.send import send
    from gondrel.core.service.settings import settings_from

    store = BlobStore(tmp_path / "store")
    model = model_of(part(store, "box", solid_of(_without_two_sides())))
    path, out = str(tmp_path / "box.stp"), str(tmp_path / "mended.stp")
    send(model, path, "step-ap242", settings_from({}), str(store.folder))
    main(["check", path, "--json"])
    found = json.loads(capsys.readouterr().out)["findings"]
    assert [f["number"] for f in found] == list(range(1, len(found) + 1))
    number = next(f["number"] for f in found if "R104" in f["mends"])
    code = main(["mend", path, "--force", "--out", out, "--set", f"finding={number}", "--json"])
    result = json.loads(capsys.readouterr().out)
    assert code == 1 and [m["code"] for m in result["mends"]] == ["R104"]
    assert main(["mend", path, "--force", "--out", out, "--set", "finding=many"]) == 2
    assert "whole number" in capsys.readouterr().err
