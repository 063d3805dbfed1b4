"""The planted set: every defect found with its code, place and size; sound twins clean; mends measured.

Expected places and sizes come from how each model was made.
"""

from __future__ import annotations

import math
from pathlib import Path

import pytest

from gondrel.core.checks.runner import check_model
from gondrel.core.kernel.derive import facts_of
from gondrel.core.model.body import BodyKind
from gondrel.core.model.findings import CheckLimits, CheckReport, MendWish, Severity
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.service.mend import mend
from gondrel.core.service.receive import receive
from gondrel.demo.planted import MANIFEST, Planted, make_planted

pytestmark = pytest.mark.slow

PLACE = 0.1
"""How far from where it was planted a defect may be told, mm."""

SOLID = 6000.0
"""Volume of the block that most of them were made from, mm3."""

MENDABLE: dict[str, tuple[tuple[str, ...], float | None]] = {
    "plane-moved": (("G201",), 20 * 30 * 10.05), "plane-moved-iges": (("G201",), 20 * 30 * 10.3),
    "faces-apart": (("G205",), 20 * 30 * 10.05),
    "vertex-moved": ((), SOLID), "vertex-moved-xt": ((), SOLID), "edge-short-of-end": ((), SOLID),
    "wide-tolerance": ((), SOLID), "short-edge": ((), SOLID), "sliver": ((), SOLID),
    "face-missing": ((), SOLID), "face-missing-iges": ((), SOLID), "rim": ((), SOLID),
    "rim-iges": ((), SOLID), "fin": ((), SOLID), "inside-out": ((), SOLID), "turned": ((), SOLID),
    "loop-open": ((), SOLID), "doubled-face": ((), SOLID), "loop-crossing": ((), None),
    "kink": ((), 0.0), "high-degree": ((), 0.0), "high-degree-iges": ((), 0.0), "close-knots": ((), 0.0),
    "plane-as-spline": (("G404",), 0.0), "cylinder-as-spline": (("G405",), 0.0),
    "low-step": (("G306",), SOLID), "halves": (("G406",), 2 * SOLID),
    "crumb": ((), None), "left-over": ((), SOLID), "same-solid": ((), SOLID),
    "placed-twice": ((), SOLID + math.pi * 9 * 20), "overlap": (("R303",), 2 * SOLID - 2400.0),
    "inside": (("R304",), SOLID), "wrong-unit": (("A512",), 96_000 - 10 * math.pi / 4 * sum(
        d * d for d in (12.7, 25.4, 19.05, 9.525))),
}  # fmt: skip
"""For each defect that has a mend what is asked for by name, and the volume of all solids then, mm3, by
closed form; None where the mend is expected to refuse, and say why."""


class Set:
    def __init__(self, folder: Path) -> None:
        self.files, self.store_folder = folder / "files", str(folder / "store")
        self.store = BlobStore(folder / "store")
        self.entries: list[Planted] = make_planted(self.files, self.store_folder)

    def received(self, name: str) -> Model:
        return receive(str(self.files / name), self.store_folder)

    def report(self, model: Model) -> CheckReport:
        return check_model(model, self.store)


@pytest.fixture(scope="module")
def planted(tmp_path_factory) -> Set:
    return Set(tmp_path_factory.mktemp("planted"))


def _found(report: CheckReport, entry: Planted) -> bool:
    return any(
        f.code == entry.code
        and (entry.at is None or (f.point is not None and math.dist(f.point, entry.at) <= PLACE))
        and (entry.size is None or abs((f.measured or 0.0) - entry.size) <= 0.1 * abs(entry.size))
        for f in report.findings
    )


def test_every_defect_is_found_where_it_is_and_as_big_as_it_is(planted) -> None:
    assert (planted.files / MANIFEST).exists()
    missed = []
    for entry in planted.entries:
        found = _found(planted.report(planted.received(entry.file)), entry)
        print(f"{entry.code}  {entry.file:34} {'found' if found else 'MISSED':7} {entry.what}")
        missed += [] if found else [entry.name]
    assert not missed
    assert len({entry.code for entry in planted.entries}) >= 30
    assert {entry.file.rpartition(".")[2] for entry in planted.entries} == {"stp", "igs", "x_t"}


def test_the_sound_twins_have_no_fault_and_no_doubt(planted) -> None:
    for entry in planted.entries:
        report = planted.report(planted.received(entry.sound))
        grave = [f for f in report.findings if f.severity is not Severity.NOTE]
        assert not grave and not report.failed, (entry.sound, grave)
        assert not [f for f in report.findings if f.code == entry.code], entry.sound


def test_mends_end_clean_and_none_makes_it_worse(planted) -> None:
    clean, tried = 0, 0
    for entry in planted.entries:
        if entry.name not in MENDABLE:
            continue
        only, meant = MENDABLE[entry.name]
        model = planted.received(entry.file)
        before = planted.report(model)
        mended, told = mend(model, MendWish(only), CheckLimits(), planted.store_folder)
        after = planted.report(mended)
        assert told and all(t.why for t in told), entry.name
        assert after.count(Severity.FAULT) <= before.count(Severity.FAULT), entry.name
        solids = [b for _, b in mended.bodies() if b.kind is BodyKind.SOLID]
        volume = sum(facts_of(planted.store, b.blob).volume for b in solids)
        is_left = any(f.code == entry.code for f in after.findings)
        grave = [f.code for f in after.findings if f.severity is not Severity.NOTE]
        worst = max(t.deviation for t in told if t.outcome != "refused") if not is_left else 0.0
        if meant is None:
            assert any(t.outcome == "refused" for t in told), entry.name
            state = "kept"
        else:
            tried += 1
            is_right = volume == pytest.approx(meant, rel=1e-3)
            clean += not is_left and not grave and is_right
            state = "clean" if not is_left and not grave and is_right else "LEFT"
        print(f"{entry.code}  {entry.file:34} {state:6} {volume:.8g} mm3, {worst:.2g} mm {grave}")
        if state == "LEFT":
            print("     ", [(t.code, t.outcome, t.why) for t in told])
    print(f"{clean} of {tried} end clean")
    assert clean / tried >= 0.85
