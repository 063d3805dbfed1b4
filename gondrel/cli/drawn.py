"""The commands that draw: views as DXF, SVG or PDF, and pictures."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Annotated, Any

import typer
from rich.text import Text

from gondrel.cli.calls import run_command
from gondrel.cli.places import check_output, given_files
from gondrel.cli.program import (
    AsOption,
    ForceOption,
    JsonOption,
    MegabytesOption,
    OneFile,
    SecondsOption,
    SetOption,
    VerboseOption,
    WrittenOption,
    app,
    examples_help,
    help_of,
    keys_help,
    kind_for,
    pairs_of,
    show,
)
from gondrel.cli.text import View, table_of
from gondrel.core.errors import UsageError
from gondrel.core.reports.figures import Figures, size_of_file
from gondrel.core.service.drawing_settings import DRAW_KEYS, wish_from
from gondrel.core.service.settings import RECEIVE_KEYS, parted, receive_options_from
from gondrel.core.work.files import checked_file

__all__ = ["drawing_view"]

_FIGURES = Figures()
_LARGEST = 8192

ViewOption = Annotated[
    list[str] | None,
    typer.Option(
        "--view", metavar="VIEW",
        help="front, back, left, right, top, bottom, iso, flat, section=x|y|z or "
        "section=PX,PY,PZ,NX,NY,NZ; may be given again.",
    ),
]  # fmt: skip
HiddenOption = Annotated[
    str, typer.Option("--hidden", metavar="dashed|none", help="How hidden lines are drawn.")
]
SelectOption = Annotated[
    list[str] | None,
    typer.Option("--select", metavar="QUERY", help="What is drawn; everything without it."),
]


@app.command(
    short_help="Draw views as DXF, SVG or PDF.",
    help=help_of(
        "Draw views of a model by its exact geometry: hidden lines dashed or left out, sections hatched, "
        "flat faces as outlines for cutting out. A PDF is a sheet with a title block, to a usual scale.",
        examples_help(
            "gondrel draw gear.stp --out gear.dxf",
            "gondrel draw gear.stp --out gear.svg --view front --hidden none",
            "gondrel draw gear.stp --out middle.pdf --view section=x --view iso",
            "gondrel draw plate.x_t --out plate.dxf --view flat --set version=R12 --set polyline=0.05",
        ),
        keys_help(("", DRAW_KEYS), ("receive.", RECEIVE_KEYS)),
    ),
)
def draw(
    file: OneFile,
    out: WrittenOption,
    view: ViewOption = None,
    hidden: HiddenOption = "dashed",
    select: SelectOption = None,
    settings: SetOption = None,
    force: ForceOption = False,
    as_json: JsonOption = False,
    limit_seconds: SecondsOption = 0,
    limit_memory: MegabytesOption = 0,
    verbose: VerboseOption = False,
) -> int:
    received, own = parted(pairs_of(settings), "receive.")
    wish = wish_from(own, tuple(view or ()), _is_dashed(hidden), tuple(select or ()))
    options = receive_options_from(received)
    if Path(out).suffix.casefold() not in (".dxf", ".svg", ".pdf"):
        raise UsageError("a drawing is written as .dxf, .svg or .pdf", hint=out)
    with given_files([file]) as (path,):
        checked_file(path)
        check_output(out, [path], force=force)
        doing, limits = f"drawing {Path(path).name}", (limit_seconds, limit_memory)
        result = run_command("draw_command", (path, out, options, wish), doing, [path], limits)
        show(result, as_json, drawing_view)
    return 0


@app.command(
    short_help="Make a picture or a page of a model.",
    help=help_of(
        "Make a picture of a model without a display: PNG, line drawing as SVG, a page as PDF with four "
        "views, title block, parts list and figures, or GLB to turn about. With --as the page says what "
        "comes across.",
        examples_help(
            "gondrel picture gear.stp --out gear.png --size 1600x1200",
            "gondrel picture gear.stp --out gear.png --clear --view right",
            "gondrel picture gear.stp --out gear.pdf --as step-ap242 --set title.Drawn='L. Amberly'",
            "gondrel picture gear.stp --out gear.glb",
        ),
        keys_help(("", DRAW_KEYS), ("receive.", RECEIVE_KEYS)),
    ),
)
def picture(
    file: OneFile,
    out: WrittenOption,
    view: ViewOption = None,
    hidden: HiddenOption = "none",
    size: Annotated[str, typer.Option("--size", metavar="WxH", help="Of a PNG.")] = "1280x960",
    clear: Annotated[bool, typer.Option("--clear", help="A PNG with a transparent ground.")] = False,
    select: SelectOption = None,
    kind: AsOption = "",
    settings: SetOption = None,
    force: ForceOption = False,
    as_json: JsonOption = False,
    limit_seconds: SecondsOption = 0,
    limit_memory: MegabytesOption = 0,
    verbose: VerboseOption = False,
) -> int:
    received, own = parted(pairs_of(settings), "receive.")
    suffix = Path(out).suffix.casefold()
    if suffix not in (".png", ".svg", ".pdf", ".glb"):
        raise UsageError("a picture is kept as .png, .svg, .pdf or .glb", hint=out)
    usual = {".png": ("iso",), ".svg": ("iso",)}.get(suffix, ())
    wish = wish_from(
        own,
        tuple(view or usual),
        _is_dashed(hidden),
        tuple(select or ()),
        kind_for("", kind) if kind else "",
    )
    options, wide = receive_options_from(received), _size(size)
    with given_files([file]) as (path,):
        checked_file(path)
        check_output(out, [path], force=force)
        doing, limits = f"drawing {Path(path).name}", (limit_seconds, limit_memory)
        args = (path, out, options, wish, wide, clear)
        result = run_command("picture_command", args, doing, [path], limits)
        show(result, as_json, drawing_view)
    return 0


def _is_dashed(hidden: str) -> bool:
    if hidden not in ("dashed", "none"):
        raise UsageError(f"--hidden is dashed or none (got {hidden!r})")
    return hidden == "dashed"


def _size(text: str) -> tuple[int, int]:
    width, _, height = text.partition("x")
    if not (width.isdigit() and height.isdigit()):
        raise UsageError(f"--size wants WIDTHxHEIGHT (got {text!r})")
    size = int(width), int(height)
    if not 16 <= min(size) <= max(size) <= _LARGEST:
        raise UsageError(f"--size goes from 16 to {_LARGEST} (got {text})")
    return size


def drawing_view(result: Mapping[str, Any]) -> View:
    """What was drawn, for people."""
    if views := result.get("views"):
        table = table_of("view", "seen", "hidden", "lines")
        for view in views:
            seen, hidden = (_FIGURES.length(view[key]) for key in ("visible_length", "hidden_length"))
            table.add_row(view["name"], seen, hidden, str(view["entities"]))
        yield table
    if result.get("polyline_deviation") is not None:
        yield Text(f"polylines lie off by at most {_FIGURES.deviation(result['polyline_deviation'])}")
    for name in result.get("not_drawn", ()):
        yield Text(f"not drawn: {name}", "yellow")
    for sent in result["sent"]:
        yield Text(f"wrote {sent['path']}, {size_of_file(sent['bytes'])}", "green")
