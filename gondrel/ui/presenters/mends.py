"""Mends in words: what is planned, and what a mend did to the figures."""

from __future__ import annotations

from gondrel.core.model.findings import Mended, PlannedMend
from gondrel.core.reports.figures import count_of
from gondrel.core.reports.findings import changed_figures

__all__ = ["VERDICTS", "figures_line", "plan_line"]

VERDICTS = {"mended": "carried", "improved": "altered", "unchanged": "unproved", "refused": "lost"}
"""How outcomes are drawn: by the marks of the verdicts of the same weight."""

_UNITS = {"volume": " mm\u00b3", "area": " mm\u00b2"}


def plan_line(mend: PlannedMend) -> str:
    """For how many findings in how many parts a mend is, and whether it keeps the shape."""
    where = f" in {count_of(len(mend.products), 'part')}" if mend.products else ""
    keeps = "keeps the shape" if mend.is_safe else "changes the shape"
    return f"{count_of(mend.count, 'place')}{where} ({', '.join(mend.cures)}); {keeps}"


def figures_line(mended: Mended) -> str:
    """The figures that a mend changed, before and after.

    Example:
        >>> from gondrel.core.model.findings import Mended
        >>> figures_line(Mended("R1", "", "", "", "mended", "", (("faces", 6.0),), (("faces", 5.0),)))
        'faces 6 to 5'
    """
    changed = changed_figures(dict(mended.before), dict(mended.after))
    return ", ".join(f"{key} {a:,.7g} to {b:,.7g}{_UNITS.get(key, '')}" for key, a, b in changed)
