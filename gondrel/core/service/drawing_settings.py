"""Settings of drawings given as text: their keys, and what is wished for."""

from __future__ import annotations

from dataclasses import replace

from gondrel.core.errors import UsageError
from gondrel.core.model.drawing import DrawWish
from gondrel.core.model.profile import BLOCKS, Making, ProfileWish
from gondrel.core.model.units import BY_KEY
from gondrel.core.service.settings import Key, Values
from gondrel.core.service.values import check_keys, choice_of, flag_of, number_of, words_of

__all__ = ["DRAW_KEYS", "PROFILE_KEYS", "profile_wish_from", "wish_from"]

_FIELD = "title."
_VERSIONS = ("R2010", "R12")
_UNITS = ("mm", "cm", "m", "inch")
_LAYERS = ("both", "parts", "kinds")
_SHEETS = ("A3", "A4", "A2", "A1", "A0")

DRAW_KEYS = (
    Key("version", "|".join(_VERSIONS), "version of DXF; R12 knows no unit, no splines and no ellipses"),
    Key("unit", "|".join(_UNITS), "unit of DXF"),
    Key("layers", "|".join(_LAYERS), "layers by part and kind of line, by part, or by kind of line"),
    Key("projection", "first|third", "how views stand to one another"),
    Key("polyline", "MM", "splines and ellipses as polylines that lie off by no more"),
    Key("polyline_length", "MM", "splines and ellipses as polylines of stretches no longer"),
    Key("smooth", "no|yes", "whether lines stand where faces meet smoothly"),
    Key("sheet", "|".join(_SHEETS), "size of the sheet of a PDF"),
    Key("title.LABEL", "TEXT", "a field of the title block"),
)
PROFILE_KEYS = (
    Key("unit", "|".join(BY_KEY), "unit to take the drawing's numbers in, instead of what it says"),
    Key("layout", "NAME", "the layout that is read; the model space without it"),
    Key("kinds", "LINE,ARC", "kinds of entities that are taken; all of them without it"),
    Key("blocks", "|".join(BLOCKS), "blocks dissolved among the rest, each by itself, or left out"),
    Key("join", "0.01", "how near ends must come to be joined, mm"),
    Key("regions", "1,2", "which regions become bodies, largest first; all of them without it"),
    Key("both", "no|yes", "an extrusion goes half to each side"),
    Key("draft", "0", "by how much walls of an extrusion lean, degrees"),
    Key("axis", "y|x|PX,PY,DX,DY", "what a revolution turns about"),
    Key("name", "TEXT", "name of the part; the file's without it"),
    Key("number", "TEXT", "its number"),
)


def wish_from(
    values: Values, views: tuple[str, ...], hidden: bool, items: tuple[str, ...], kind: str = ""
) -> DrawWish:
    """What is wished for. Raises UsageError for an unknown key or a value that is none."""
    fields = tuple((k.removeprefix(_FIELD), v) for k, v in values.items() if k.startswith(_FIELD))
    values = {key: value for key, value in values.items() if not key.startswith(_FIELD)}
    check_keys(values, [key.name for key in DRAW_KEYS])
    chord = number_of(values, "polyline", 0.0, least=0.0)
    length = number_of(values, "polyline_length", 0.0, least=0.0)
    return DrawWish(
        views=views or DrawWish().views,
        hidden=hidden,
        smooth=flag_of(values, "smooth", False),
        version=choice_of(values, "version", _VERSIONS),
        unit=choice_of(values, "unit", _UNITS),
        layers=choice_of(values, "layers", _LAYERS),
        projection=choice_of(values, "projection", ("first", "third")),
        chord=chord or None,
        length=length or None,
        items=items,
        fields=fields,
        sheet=choice_of(values, "sheet", _SHEETS),
        kind=kind,
    )


def profile_wish_from(
    values: Values,
    layers: tuple[str, ...] | None,
    making: Making,
    changes: tuple[tuple[str, float], ...],
    dropped: tuple[str, ...],
) -> ProfileWish:
    """What is wished for of a drawing. Raises UsageError for an unknown key or a value that is none."""
    check_keys(values, [key.name for key in PROFILE_KEYS])
    numbers = words_of(values, "regions") or ()
    for number in numbers:
        if not number.isdigit():
            raise UsageError(f"regions are numbers from 1 (got {number!r})")
    within = number_of(values, "join", 0.01, least=0.0)
    return ProfileWish(
        unit=choice_of(values, "unit", ("", *BY_KEY)),
        layout=values.get("layout", ""),
        layers=layers,
        kinds=words_of(values, "kinds"),
        blocks=choice_of(values, "blocks", BLOCKS),
        within=within,
        regions=tuple(map(int, numbers)),
        dropped=dropped,
        changes=changes,
        making=replace(
            making,
            both=flag_of(values, "both", False),
            draft=number_of(values, "draft", 0.0, least=0.0),
            axis=values.get("axis", "y"),
        ),
        name=values.get("name", ""),
        number=values.get("number", ""),
    )
