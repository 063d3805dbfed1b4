"""The file card of an IGES file, from its records."""

from __future__ import annotations

import math
import re
from collections import Counter
from pathlib import Path

from gondrel.core.errors import MalformedFile
from gondrel.core.formats.iges.entities import TRIMMED, name_of
from gondrel.core.formats.iges.records import IgesFile, open_iges
from gondrel.core.formats.iges.structure import SOLIDS, IgesPlan, Planner
from gondrel.core.formats.iges.units import FLAGS, NAMES, edition_of, flag_of, unit_of
from gondrel.core.model.provenance import FileFacts, Note, Writer

__all__ = ["card_of", "read_card"]

_OLD = 9
"""Version flag of IGES 5.1; editions before it are old."""

_TAKEN = {0, 100, 102, 104, 106, 108, 110, 112, 114, 116, 118, 120, 122, 123, 124, 126, 128, 130, 140, 141,
          142, 143, 144, 186, 190, 192, 194, 196, 198, 308, 314, 402, 406, 408, 430, 502, 504, 508, 510,
          514}  # fmt: skip
_DRAWING = {202, 204, 206, 208, 210, 212, 213, 214, 216, 218, 220, 222, 228, 230, 404, 410}


def read_card(path: str) -> FileFacts:
    """The file card of an IGES file.

    Raises:
        InputError: when it can't be opened. UnsupportedContent: when it is compressed or binary.
        MalformedFile: when it breaks the format's rules.
    """
    file = open_iges(path)
    try:
        return card_of(file, Planner(file).make())
    except MalformedFile as error:
        error.file = error.file or path
        raise


def card_of(file: IgesFile, plan: IgesPlan) -> FileFacts:
    """The file card from records and the structure found in them. Raises MalformedFile."""
    unit, (version, edition) = unit_of(file), edition_of(file)
    notes = [Note("put-right", remark) for remark in file.remarks]
    if not flag_of(file):
        said = file.said(15) or file.said(14) or "nothing"
        notes.append(
            Note("unit-missing", f"no known length unit is given (the file says {said}); inch is assumed")
        )
    elif file.said(15).strip() and int(file.number(14, 1)) != 3:
        notes += _name_against_flag(file)
    if version < _OLD:
        notes.append(
            Note("old-edition", f"written to an old edition of IGES ({edition}); 5.1 or later is usual")
        )
    scale = file.number(13, 1.0)
    if scale != 1.0:
        notes.append(
            Note("model-scale", f"the model space scale is {scale:g}; sizes are taken as they stand")
        )
    notes += _not_taken(file)
    bodies = list(plan.bodies())
    external = tuple(dict.fromkeys(e.text(0) for e in file.of(416) if e.text(0)))
    return FileFacts(
        path=str(Path(file.path).resolve()),
        bytes=file.size,
        format="iges",
        variant="text",
        schema=f"IGES {edition}",
        schema_text=f"version flag {version}",
        length_unit=unit.key,
        mm_per_unit=unit.mm,
        uncertainty=file.number(19, 0.0) * unit.mm or None,
        written_by=Writer(
            system=file.said(5),
            translator=file.said(6),
            author=file.said(21),
            organisation=file.said(22),
            date=_date(file.said(18)),
        ),
        counts=(
            ("products", len(plan.products)),
            ("occurrences", sum(len(p.uses) for p in plan.products.values())),
            *((("solids", sum(b.what == "solid" for b in bodies)),) if not _has_faces(plan) else ()),
            ("surfaces", sum(n for k, n in file.counts.items() if k in TRIMMED)),
            ("faces", file.counts[510]),
            ("solid entities", sum(file.counts[k] for k in SOLIDS)),
            ("records", len(file.entities)),
            *((f"type {kind}", count) for kind, count in sorted(file.counts.items())),
        ),
        missing_files=external,
        notes=tuple(notes),
        title="IGES",
        layers=tuple(sorted(Counter(layer for body in bodies for layer in body.layers).items())),
        diameters=_diameters(file, unit.mm),
        extent=file.number(20, 0.0) * unit.mm,
    )


_MOST_DIAMETERS = 500


def _diameters(file: IgesFile, mm: float) -> tuple[float, ...]:
    """Different diameters of cylinders and of arcs, mm."""
    radii = {e.real(2) for e in file.of(192)}
    radii |= {math.dist((e.real(1), e.real(2)), (e.real(3), e.real(4))) for e in file.of(100)}
    return tuple(sorted({round(2 * r * mm, 9) for r in radii if r > 0})[:_MOST_DIAMETERS])


def _has_faces(plan: IgesPlan) -> bool:
    """Whether bodies are to be joined from surfaces: how many solids come of it nobody can count."""
    return any(body.what in ("faces", "shell") for body in plan.bodies())


def _name_against_flag(file: IgesFile) -> list[Note]:
    flag, name = int(file.number(14, 1)), file.said(15).strip().upper()
    if NAMES.get(name, 0) in (flag, 0):
        return []
    text = f"the unit's flag says {FLAGS[flag][0]}, its name {name}; the flag is taken"
    return [Note("unit-in-doubt", text)]


def _not_taken(file: IgesFile) -> list[Note]:
    drawing = sum(n for kind, n in file.counts.items() if kind in _DRAWING)
    notes = []
    if drawing:
        text = f"{drawing} drawing and dimension entities are not taken over"
        notes.append(Note("entities-not-taken-over", text))
    for kind, count in sorted(file.counts.items()):
        if kind not in _TAKEN and kind not in _DRAWING:
            text = f"{count} of type {kind} ({name_of(kind)}) not taken over"
            notes.append(Note("entities-not-taken-over", text, f"type {kind}"))
    return notes


def _date(said: str) -> str:
    """A date of the global section (YYMMDD.HHNNSS or YYYYMMDD.HHNNSS) as ISO 8601, or as it stands."""
    match = re.fullmatch(r"(\d{2}|\d{4})(\d{2})(\d{2})\.(\d{2})(\d{2})(\d{2})", said.strip())
    if not match:
        return said
    year, month, day, hour, minute, second = match.groups()
    century = "19" if len(year) == 2 and int(year) >= 50 else "20" if len(year) == 2 else ""
    return f"{century}{year}-{month}-{day}T{hour}:{minute}:{second}"
