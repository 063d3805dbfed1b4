"""What checks find and mends do, as plain values."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from gondrel.core.model.product import Placement

__all__ = ["CheckLimits", "CheckReport", "Finding", "MendWish", "Mended", "PlannedMend", "Severity"]


class Severity(Enum):
    """How grave a finding is."""

    FAULT = "fault"
    DOUBT = "doubt"
    NOTE = "note"


@dataclass(frozen=True, slots=True)
class CheckLimits:
    """What still counts as sound.

    Args:
        gap: how far edges and vertices may lie off one another and off surfaces, mm.
        short: length below which an edge, width below which a face is too small, mm.
        tolerance: largest tolerance of an edge or a vertex, mm.
        degree, poles: most of a spline; knots: least distance of knots, share of the range.
        kink: largest turn of a tangent inside a curve or surface, degrees.
        size_box: how far from the origin a body may reach, mm.
    """

    gap: float = 0.01
    short: float = 0.01
    tolerance: float = 0.01
    degree: int = 15
    poles: int = 1000
    knots: float = 1e-6
    kink: float = 0.5
    size_box: float = 500_000.0


@dataclass(frozen=True, slots=True)
class Finding:
    """One defect or doubt.

    Args:
        product, body: ids in the model; body is empty for what concerns a product or the whole.
        face, edge, vertex: index in the body's B-rep, -1 for none; point: mm, in the body's frame.
        measured, limit: in unit; None where nothing is measured.
        text: what was found, in words; it never repeats the title.
        other: id of the body it is found with, where two are concerned; relative: that body's frame in
            the frame of the first. edges: indices of all edges concerned, where it is several.
    """

    code: str
    title: str
    severity: Severity
    text: str
    product: str = ""
    body: str = ""
    face: int = -1
    edge: int = -1
    vertex: int = -1
    point: tuple[float, float, float] | None = None
    measured: float | None = None
    limit: float | None = None
    unit: str = ""
    other: str = ""
    relative: Placement | None = None
    edges: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class PlannedMend:
    """A mend that there is for what was found.

    Args:
        what: what it does, in words; is_safe: whether it keeps the shape that is there; is_asked: whether
            it is done only when asked for by name.
        cures: codes of the findings it is for; count: how many there are; products: ids of their products.
        is_single: whether it can be done for one finding alone.
    """

    code: str
    title: str
    what: str
    is_safe: bool
    is_asked: bool
    cures: tuple[str, ...]
    count: int
    products: tuple[str, ...]
    is_single: bool = False


@dataclass(frozen=True, slots=True)
class CheckReport:
    """The outcome of all checks on a model.

    Args:
        examined: how many things were looked at, by product id; 0 is never called clean.
        failed: checks that could not run, with why, by code and product label.
        mends: those there are for what was found, in the order in which they are tried.
    """

    findings: tuple[Finding, ...]
    examined: tuple[tuple[str, int], ...] = ()
    failed: tuple[tuple[str, str], ...] = ()
    limits: CheckLimits = CheckLimits()
    mends: tuple[PlannedMend, ...] = ()

    def count(self, severity: Severity) -> int:
        """How many findings of a severity."""
        return sum(f.severity is severity for f in self.findings)

    def single_mend(self, finding: Finding) -> PlannedMend | None:
        """The first mend that can be done for one finding alone, those done only when asked for last."""
        if finding.point is None or not finding.body:
            return None
        mends = sorted(self.mends, key=lambda m: m.is_asked)
        return next((m for m in mends if m.is_single and finding.code in m.cures), None)


@dataclass(frozen=True, slots=True)
class MendWish:
    """What is to be mended, and how far mends may go.

    Args:
        only: codes of mends or of the checks they cure; none for all but those done only when asked for.
        safe: only mends that keep the shape that is there.
        tolerance: how far apart edges are that belong together, mm.
        products: ids of the products to mend, none for all.
        smooth: whether faces that close rims run on from their neighbours without an edge.
        faces: ids of bodies with the indices of their faces that a mend of faces is to work on, whether
            or not a check points at them.
        finding: one of a report, which alone is to be mended.
    """

    only: tuple[str, ...] = ()
    safe: bool = False
    tolerance: float = 1e-3
    products: tuple[str, ...] = ()
    smooth: bool = False
    faces: tuple[tuple[str, tuple[int, ...]], ...] = ()
    finding: Finding | None = None

    def means(self, finding: Finding) -> bool:
        """Whether a finding is to be mended."""
        return self.finding is None or _place(self.finding) == _place(finding)


def _place(finding: Finding) -> tuple[object, ...]:
    return finding.code, finding.body, finding.face, finding.edge, finding.vertex, finding.point


@dataclass(frozen=True, slots=True)
class Mended:
    """What came of one mend.

    Args:
        product, body: labels; outcome: mended, improved, unchanged or refused; why: in words.
        before, after: figures (volume mm3, area mm2, faces, faults, doubts).
        deviation: how far what was there lies off what is there now, mm.
    """

    code: str
    title: str
    product: str
    body: str
    outcome: str
    why: str
    before: tuple[tuple[str, float], ...]
    after: tuple[tuple[str, float], ...]
    deviation: float = 0.0
    product_id: str = ""
