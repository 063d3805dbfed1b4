"""Settings given as text, declared once: what each key is called, takes and does; read into typed values.

Text comes in at the doors only: the command line, recipes, the fields of the window. Behind them settings
are ReceiveOptions, SendSettings, CheckLimits and MendOptions.
"""

from __future__ import annotations

import os
from collections.abc import Mapping
from dataclasses import dataclass, field, fields, replace

from gondrel.core.errors import UsageError
from gondrel.core.formats.settings import SendSettings
from gondrel.core.model.filenames import check_rule
from gondrel.core.model.findings import CheckLimits
from gondrel.core.model.receiving import KINDS, ReceiveSettings
from gondrel.core.model.units import BY_KEY
from gondrel.core.recipients.card import Card
from gondrel.core.service.values import (
    check_keys,
    choice_of,
    flag_of,
    number_of,
    whole_of,
    words_of,
)

__all__ = [
    "CHECK_KEYS", "MEND_KEYS", "RECEIVE_KEYS", "SEND_KEYS", "Key", "MendOptions", "ReceiveOptions",
    "SendSettings",
    "limits_from", "limits_toward", "mend_options_from", "parted", "receive_options_from",
    "receive_settings_from",
    "settings_from",
]  # fmt: skip

Values = Mapping[str, str]


@dataclass(frozen=True, slots=True)
class Key:
    """A key of settings: what it takes and does, for people; the first value is what holds without it."""

    name: str
    takes: str
    does: str


RECEIVE_KEYS = (
    Key("kinds", ",".join(KINDS), "kinds of things to take in; all of them without it"),
    Key("colours", "yes|no", "whether colours are taken"),
    Key("layers", "NAME,NAME", "layers to take in; what is on no layer always is"),
    Key("structure", "kept|flat", "the assembly as it is, or everything in one part"),
    Key("loose", "one|each", "several bodies of a part stay in it, or become a part each"),
    Key("unit", "|".join(BY_KEY), "unit to take the file's numbers in, instead of what the file says"),
    Key("scale", "1", "factor on all sizes besides"),
    Key("names", "product|number|file", "what products are named by"),
    Key("join", "auto|off|MM", "distance within which loose surfaces are sewn"),
    Key(
        "facets",
        "mesh|solid|shaped",
        "a mesh stays one, becomes a solid of plane faces, or of round ones too",
    ),
    Key("search", f"FOLDER{os.pathsep}FOLDER", "where to look for files that are referred to"),
    Key(
        "shapes", "all|asked", "all shapes at once, or the structure alone and shapes when asked for (STEP)"
    ),
    Key("into", "FILE#NUMBER", "put it into a product that was prepared in another file"),
)
SEND_KEYS = (
    Key(
        "unit",
        "|".join(SendSettings.unit_keys()),
        "length unit of the file, where the format leaves a choice",
    ),
    Key("author", "NAME", "who is named in its head"),
    Key("organisation", "NAME", "whose organisation is named in its head"),
    Key("system", "NAME", "the originating system named in its head"),
    Key("form", "structure|placed", "an assembly goes as one, or as placed bodies"),
    Key("chord", "MM", "largest distance between facets and surface; a share of the size without it"),
    Key("angle", "15", "largest angle between neighbouring facets, degrees"),
    Key("bodies", "kept|surfaces", "solids as they are, or as sheets for who takes surfaces only"),
    Key(
        "files",
        "one|each|linked|nested",
        "one file; one for each part alone; or one with the structure that refers to one for each part, "
        "beside it or in folders",
    ),
    Key(
        "file_names", "{name}", "how the files of parts are named, of {number}, {name}, {revision}, {file}"
    ),
    Key("cylinders", "no|yes", "recognise cylinders where a mesh goes as a solid"),
    Key("other_reader", "yes|no", "have what was sent read by another reader besides ours"),
    Key("force", "no|yes", "replace files that are there, as --force"),
)
CHECK_KEYS = (
    Key("gap", "0.01", "how far edges and vertices may lie off one another and off surfaces, mm"),
    Key("short", "0.01", "length or width below which an edge or a face is too small, mm"),
    Key("tolerance", "0.01", "largest tolerance of an edge or a vertex, mm"),
    Key("degree", "15", "largest degree of a spline"),
    Key("poles", "1000", "most poles of a spline"),
    Key("knots", "1e-6", "least distance of knots, share of the range"),
    Key("kink", "0.5", "largest turn of a tangent inside a curve or surface, degrees"),
    Key("size_box", "500000", "how far from the origin a body may reach, mm"),
)
MEND_KEYS = (
    Key("within", "0.001", "distance within which faces and edges are brought together, mm"),
    Key("smooth", "no|yes", "closed rims run on from the faces around them without an edge"),
    Key("faces", "NAME:N,N", "mend these faces of a body, counted from 1"),
    Key("finding", "N", "mend one finding alone, by its number in gondrel check"),
)


@dataclass(frozen=True, slots=True)
class ReceiveOptions:
    """How a file is received: its settings, and "FILE#NUMBER" of a prepared product it is put into."""

    settings: ReceiveSettings = field(default_factory=ReceiveSettings)
    into: str = ""


@dataclass(frozen=True, slots=True)
class MendOptions:
    """How mends are done beside their limits; faces as "NAME:NUMBER,NUMBER", finding 0 for all."""

    within: float = 1e-3
    smooth: bool = False
    faces: str = ""
    finding: int = 0


def parted(values: Values, *beginnings: str) -> tuple[dict[str, str], ...]:
    """Settings that begin with each of some words, without it, and last those that begin with none."""
    parts: list[dict[str, str]] = [{} for _ in range(len(beginnings) + 1)]
    for key, value in values.items():
        place = next((n for n, b in enumerate(beginnings) if key.startswith(b)), len(beginnings))
        parts[place][key.removeprefix(beginnings[place]) if place < len(beginnings) else key] = value
    return tuple(parts)


def receive_options_from(values: Values) -> ReceiveOptions:
    """Receive settings and what they are put into. Raises UsageError as receive_settings_from does."""
    into = values.get("into", "")
    house, mark, _ = into.rpartition("#")
    if into and not (mark and house):
        raise UsageError(f"into must be FILE#NUMBER (got {into!r})")
    return ReceiveOptions(receive_settings_from(values), into)


def receive_settings_from(values: Values) -> ReceiveSettings:
    """Receive settings from KEY=VALUE pairs.

    Raises:
        UsageError: for an unknown key or a value that is none.
    """
    check_keys(values, [key.name for key in RECEIVE_KEYS])
    kinds = words_of(values, "kinds")
    for kind in kinds or ():
        if kind not in KINDS:
            raise UsageError(f"unknown kind {kind!r}", hint=f"any of {', '.join(KINDS)}")
    layers = words_of(values, "layers")
    unit = values.get("unit", "")
    if unit and unit not in BY_KEY:
        raise UsageError(f"unknown unit {unit!r}", hint=f"one of {', '.join(BY_KEY)}")
    join: float | None = None
    if values.get("join", "auto") == "off":
        join = 0.0
    elif values.get("join", "auto") not in ("", "auto"):
        join = number_of(values, "join", 0.0, least=0.0)
    return ReceiveSettings(
        kinds=frozenset(KINDS if kinds is None else kinds),
        colours=flag_of(values, "colours", True),
        layers=None if layers is None else frozenset(layers),
        structure=choice_of(values, "structure", ("kept", "flat")),
        loose=choice_of(values, "loose", ("one", "each")),
        unit=unit,
        scale=number_of(values, "scale", 1.0, least=1e-9),
        names=choice_of(values, "names", ("product", "number", "file")),
        join=join,
        search=tuple(f for f in values.get("search", "").split(os.pathsep) if f),
        facets=choice_of(values, "facets", ("mesh", "solid", "shaped")),
        shapes=choice_of(values, "shapes", ("all", "asked")),
    )


def settings_from(values: Values) -> SendSettings:
    """Send settings from KEY=VALUE pairs.

    Raises:
        UsageError: for an unknown key or a value that is none.
    """
    check_keys(values, [key.name for key in SEND_KEYS])
    unit = values.get("unit", "mm")
    if unit not in SendSettings.unit_keys():
        raise UsageError(f"unknown unit {unit!r}", hint=f"one of {', '.join(SendSettings.unit_keys())}")
    said = SendSettings()
    return SendSettings(
        unit=BY_KEY[unit],
        author=values.get("author", ""),
        organisation=values.get("organisation", ""),
        system=values.get("system", said.system),
        form=choice_of(values, "form", ("structure", "placed")),
        chord=number_of(values, "chord", said.chord, least=0.0),
        angle=number_of(values, "angle", said.angle, least=0.1),
        bodies=choice_of(values, "bodies", ("kept", "surfaces")),
        files=choice_of(values, "files", ("one", "each", "linked", "nested")),
        file_names=_rule(values.get("file_names", "")),
        cylinders=flag_of(values, "cylinders", False),
        force=flag_of(values, "force", False),
        other_reader=flag_of(values, "other_reader", True),
    )


def _rule(text: str) -> str:
    check_rule(text)
    return text


def limits_toward(card: Card | None) -> CheckLimits:
    """Limits of checks as a recipient has them; what their card does not say is as usual."""
    said = CheckLimits()
    if card is None:
        return said
    tolerance, degree = card.limits.tolerance, card.limits.degree
    return replace(
        said, gap=tolerance or said.gap, tolerance=tolerance or said.tolerance, degree=degree or said.degree
    )


def limits_from(values: Values, usual: CheckLimits | None = None) -> CheckLimits:
    """Limits of checks from KEY=VALUE pairs.

    Args:
        usual: what holds where nothing is said.

    Raises:
        UsageError: for an unknown key or a value that is no number.
    """
    check_keys(values, [key.name for key in CHECK_KEYS])
    said = usual or CheckLimits()
    numbers = {
        f.name: type(getattr(said, f.name))(number_of(values, f.name, getattr(said, f.name), least=0.0))
        for f in fields(CheckLimits)
    }
    return CheckLimits(**numbers)


def mend_options_from(values: Values) -> MendOptions:
    """Options of mends from KEY=VALUE pairs. Raises UsageError as settings_from does."""
    check_keys(values, [key.name for key in MEND_KEYS])
    return MendOptions(
        number_of(values, "within", MendOptions().within, least=1e-7), flag_of(values, "smooth", False),
        values.get("faces", ""), whole_of(values, "finding") if "finding" in values else 0,
    )  # fmt: skip
