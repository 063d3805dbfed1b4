"""Settings of drawings given as text: their keys, and what is wished for."""

from __future__ import annotations

from gondrel.core.model.drawing import DrawWish
from gondrel.core.service.settings import Key, Values
from gondrel.core.service.values import check_keys, choice_of, flag_of, number_of

__all__ = ["DRAW_KEYS", "wish_from"]

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
