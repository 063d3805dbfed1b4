"""Doubts a file card raises before anything is loaded: sizes that fit no unit, and how it was made."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from datetime import UTC, datetime
from pathlib import PurePath

from gondrel.core.model.provenance import FileFacts, Note
from gondrel.core.model.units import BY_KEY

__all__ = ["card_doubts", "is_named_so", "size_doubt", "size_factor"]

_LEAST = 3
_OLD_YEARS = 15
_MANY_BODIES = 10
_HUGE = 5000.0
"""Larger than machine parts are, mm."""

METRIC = (
    1.1, 1.2, 1.3, 1.4, 1.6, 1.7, 1.8, 2.05, 2.2, 2.4, 2.6, 2.7, 2.8, 2.9, 3.1, 3.2, 3.3, 3.4, 3.6, 4.2,
    4.3, 4.8, 5.3, 5.8, 6.4, 6.6, 6.8, 8.4, 10.2, 10.25,
)  # fmt: skip
"""Diameters in mm that are standard without being half millimetres.

Source: ISO 273 (clearance holes, fine and medium series) and ISO 2306 (tapping drills), from memory.
"""

_NEAR = 2e-4
"""How near a diameter must be to a standard one, relative."""

_FACTORS = (25.4, 1000.0, 10.0, 1 / 25.4, 1 / 1000.0, 1 / 10.0)
_NAMES = {25.4: "inch", 1000.0: "metre", 10.0: "centimetre"}


def size_doubt(diameters: Sequence[float], extent: float, unit: str, names: Iterable[str] = ()) -> str:
    """Why the unit of a file is doubtful, with the evidence; empty when it is not. As size_factor."""
    factor = size_factor(diameters, extent, unit)
    if factor is None or is_named_so(names, extent):
        return ""
    return factor[1]


_NUMBER = re.compile(
    r"(?<![\d.])(\d{1,3}[.,]\d{1,3}|\d{1,3}(?=\s*(?:mm\b|[xX\u00d7]\s*\d))|(?<=[xX\u00d7])\d{1,3})(?![\d.])"
)
"""Numbers in a name that are sizes: with decimals, before mm, or beside a times sign."""

_METRIC_CODE = re.compile(r"(?<!\d)(\d{4})(?=\s*-?_?[Mm]etric)")
_AS_NAMED = 0.08


def is_named_so(names: Iterable[str], extent: float) -> bool:
    """Whether a name says the extent as it stands, in millimetres: "1.6 x 0.8", "5 mm", "0603_1608Metric".

    Source: own. Small electronic parts have odd diameters and say their sizes in their names; the metric
    codes of chips give length and width in tenths of a millimetre (common practice, no source).
    """
    for name in names:
        said = [float(text.replace(",", ".")) for text in _NUMBER.findall(name)]
        for code in _METRIC_CODE.findall(name):
            said += [int(code[:2]) / 10, int(code[2:]) / 10]
        if any(size > 0 and abs(size - extent) <= _AS_NAMED * extent for size in said):
            return True
    return False


def size_factor(diameters: Sequence[float], extent: float, unit: str) -> tuple[float, str] | None:
    """By how much a model should be larger to have usual sizes, and why; None when it has them.

    Args:
        diameters: different diameters in the file, mm by the unit it says; extent: largest extent, mm;
            unit: key of the unit it says.

    Source: own. Diameters are hardly ever odd numbers: in the right unit nearly all are half
    millimetres, standard metric sizes or 32nds of an inch, in a wrong one hardly any.
    """
    distinct = sorted({round(d, 9) for d in diameters if d > 0})
    if len(distinct) < _LEAST:
        return None
    now = _share(distinct, unit == "inch")
    is_huge = extent > _HUGE
    if now > 0.5 and not is_huge:
        return None
    for factor in _FACTORS:
        scaled = [d * factor for d in distinct]
        as_inches = factor == 25.4 or (factor not in (1 / 25.4,) and unit == "inch")
        then = _share(scaled, as_inches and factor == 25.4)
        size = extent * factor
        is_telling = then - now >= 0.5 or (is_huge and factor < 1)
        if then < 0.9 or not is_telling or not 2.0 <= size <= 20_000.0 or not scaled[0] >= 0.5:
            continue
        if not _is_improbable(distinct, extent, factor):
            continue
        examples = ", ".join(f"{d:.4g}" for d in distinct[:4])
        after = ", ".join(f"{d:.4g}" for d in scaled[:4])
        real = _NAMES.get(factor, "") or f"{BY_KEY.get(unit, BY_KEY['mm']).mm * factor:.4g} mm"
        return factor, (
            f"the unit may be wrong: as it stands it is {extent:.4g} mm long and {_counted(now, distinct)} "
            f"are standard sizes (diameters {examples} mm); {factor:.4g} times larger (taken as {real}) "
            f"it is {size:.4g} mm long and {_counted(then, distinct)} are ({after} mm)"
        )
    return None


def _counted(share: float, diameters: Sequence[float]) -> str:
    return f"{round(share * len(diameters))} of {len(diameters)} diameters"


def _is_improbable(diameters: Sequence[float], extent: float, factor: float) -> bool:
    """Whether the sizes as they stand would be odd in themselves: too small to make, or huge."""
    if factor > 1:
        return diameters[0] < 0.5 and extent < 400.0 / factor * 3
    return extent > _HUGE


def _share(diameters: Sequence[float], in_inches: bool) -> float:
    return sum(_fits(d, in_inches) for d in diameters) / len(diameters)


def _fits(diameter: float, in_inches: bool) -> bool:
    if in_inches:
        steps = diameter / 25.4 * 32
        return steps >= 1 and abs(steps - round(steps)) <= _NEAR * steps
    halves = diameter * 2
    if halves >= 1 and abs(halves - round(halves)) <= _NEAR * halves:
        return True
    return any(abs(diameter - size) <= _NEAR * size for size in METRIC)


def card_doubts(card: FileFacts, names: Iterable[str] = ()) -> Iterator[Note]:
    """What to know of a file before it is loaded; names are those of its products, once they are known."""
    known = (PurePath(card.path).stem, *names)
    text = size_doubt(card.diameters, card.extent, card.length_unit, known) if card.length_unit else ""
    if text:
        yield Note("size-doubt", text)
    solids, products = card.count("solids"), card.count("products")
    surfaces = card.count("surfaces") + card.count("sheets")
    if solids >= _MANY_BODIES and products == 1:
        yield Note(
            "structure-flattened",
            f"{solids} solids in one product: the structure was probably flattened by the sender",
        )
    if surfaces and not solids and not card.count("solid entities"):
        yield Note("surfaces-only", f"it holds {surfaces} surfaces and no solid")
    if facets := card.count("faceted"):
        yield Note("mesh-in-brep", f"{facets} bodies of flat facets in a format for exact shapes: a mesh")
    if card.missing_files:
        count = len(card.missing_files)
        files = "file it refers to is" if count == 1 else "files it refers to are"
        yield Note("files-missing", f"{count} {files} not there: {', '.join(card.missing_files[:5])}")
    year = card.written_by.date[:4]
    if year.isdigit() and 1970 < int(year) < datetime.now(UTC).year - _OLD_YEARS:
        yield Note("old-file", f"it was written in {year}; writers have become better since")
    if card.schema_text.startswith("AUTOMOTIVE_DESIGN_CC") or card.schema in ("AP203",):
        edition = "the draft of AP214" if "CC" in card.schema_text else "AP203, first edition"
        lacks = "colours, layers and metadata" if card.schema == "AP203" else "some later records"
        yield Note("old-edition", f"written to {edition}, which has no place for {lacks}")
