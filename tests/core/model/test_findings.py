"""Findings, what is wished to be mended, and which mend is for one finding alone."""

from __future__ import annotations

from dataclasses import replace

import pytest

from gondrel.core.model.codec import from_plain, to_plain
from gondrel.core.model.findings import CheckReport, Finding, MendWish, PlannedMend, Severity

GAP = Finding(
    "G201", "Edge off its surface", Severity.FAULT, "it lies 0.05 mm off face 6", "p", "b", 5, 3, -1,
    (0.0, 0.0, 10.0), 0.05, 0.01, "mm",
)  # fmt: skip


def planned(code: str, *cures: str, asked: bool = False, single: bool = True) -> PlannedMend:
    return PlannedMend(code, code, "", True, asked, cures, 1, ("p",), single)


def test_a_wish_for_one_finding_means_that_one_only() -> None:
    wish = MendWish(finding=GAP)
    assert wish.means(GAP) and wish.means(replace(GAP, text="told otherwise", measured=0.04))
    for other in (
        replace(GAP, edge=7), replace(GAP, face=1), replace(GAP, body="c"), replace(GAP, code="G205"),
        replace(GAP, point=(0.0, 0.0, 10.1)), replace(GAP, vertex=2),
    ):  # fmt: skip
        assert not wish.means(other)
    assert MendWish().means(GAP) and MendWish(only=("G205",)).means(GAP), "codes are looked at elsewhere"


@pytest.mark.parametrize(
    ("mends", "found"),
    [
        ((planned("R108", "G201", "G205"),), "R108"),
        ((planned("R114", "G201", asked=True), planned("R108", "G201")), "R108"),
        ((planned("R114", "G201", asked=True),), "R114"),
        ((planned("R105", "G201", single=False),), None),
        ((planned("R108", "G205"),), None),
        ((), None),
    ],
)
def test_the_mend_for_one_finding(mends, found) -> None:
    """One that works on it alone; those that wait to be asked for come last."""
    mend = CheckReport((GAP,), mends=mends).single_mend(GAP)
    assert (mend.code if mend is not None else None) == found


def test_what_has_no_body_or_place_has_no_mend_of_its_own() -> None:
    report = CheckReport((GAP,), mends=(planned("R108", "G201"),))
    assert report.single_mend(replace(GAP, point=None)) is None
    assert report.single_mend(replace(GAP, body="")) is None


def test_reports_survive_being_stored() -> None:
    report = CheckReport((GAP, replace(GAP, edges=(1, 2, 3), relative=tuple(float(i) for i in range(16)))))
    again = from_plain(to_plain(report), CheckReport)
    assert again == report and again.count(Severity.FAULT) == 2 and again.count(Severity.NOTE) == 0
