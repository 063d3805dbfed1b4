"""The command that makes parts of drawings, and what it says to people."""

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
    kinds_help,
    pairs_of,
    show,
)
from gondrel.cli.text import View, table_of
from gondrel.core.errors import UsageError
from gondrel.core.model.profile import Making
from gondrel.core.reports.figures import Figures, count_of, size_of_file
from gondrel.core.service.drawing_settings import PROFILE_KEYS, profile_wish_from
from gondrel.core.service.settings import SendSettings
from gondrel.core.work.files import checked_file

__all__ = ["profile_view"]

_FIGURES = Figures()
_FLAT = (".dxf", ".svg")
_PLACES = 8


@app.command(
    short_help="Make a part of a DXF drawing.",
    help=help_of(
        "Look at a DXF drawing, find its closed regions and what holds between its curves, give sizes new "
        "values, and make a sheet, an extrusion or a revolution of it, which is sent and proved. Without "
        "--out it is only looked at; with --out OUT.dxf the outline goes back out.",
        examples_help(
            "gondrel profile bracket.dxf",
            "gondrel profile bracket.dxf --out bracket.stp --as step-ap242 --extrude 8",
            "gondrel profile bracket.dxf --out part.x_t --extrude 8 --change L1=94 --change R2=6",
            "gondrel profile disc.dxf --out disc.stp --as step-ap214 --revolve 360 --set axis=x",
        ),
        kinds_help(),
        keys_help(("", PROFILE_KEYS)),
    ),
)
def profile(
    file: OneFile,
    out: WrittenOption = "",
    kind: AsOption = "",
    layers: Annotated[
        str | None,
        typer.Option("--layers", metavar="A,B", help="Layers to take; those that are shown without it."),
    ] = None,
    extrude: Annotated[
        float | None, typer.Option("--extrude", metavar="D", help="Extrude by so many millimetres.")
    ] = None,
    revolve: Annotated[
        float | None, typer.Option("--revolve", metavar="ANGLE", help="Revolve by so many degrees.")
    ] = None,
    sheet: Annotated[bool, typer.Option("--sheet", help="Flat faces.")] = False,
    change: Annotated[
        list[str] | None,
        typer.Option(
            "--change", metavar="SIZE=VALUE", help="Give a size a new value; all that holds is kept."
        ),
    ] = None,
    drop: Annotated[
        list[str] | None,
        typer.Option(
            "--drop", metavar="RELATION", help="A kind of relation, or one's number, not to keep."
        ),
    ] = None,
    settings: SetOption = None,
    force: ForceOption = False,
    as_json: JsonOption = False,
    limit_seconds: SecondsOption = 0,
    limit_memory: MegabytesOption = 0,
    verbose: VerboseOption = False,
) -> int:
    making = _making(extrude, revolve, sheet)
    is_flat = Path(out).suffix.casefold() in _FLAT
    if out and not is_flat and making is None:
        raise UsageError("--extrude D, --revolve ANGLE or --sheet is missing: what is to be made of it?")
    chosen = kind_for(out, kind) if out and not is_flat else ""
    names = tuple(n.strip() for n in layers.split(",") if n.strip()) if layers is not None else None
    wish = profile_wish_from(
        pairs_of(settings), names, making or Making(), tuple(map(_change, change or ())), tuple(drop or ())
    )
    with given_files([file]) as (path,):
        checked_file(path)
        if out:
            check_output(out, [path], force=force)
        doing, limits = f"looking at {Path(path).name}", (limit_seconds, limit_memory)
        args = (path, out, chosen, wish, SendSettings(force=force))
        result = run_command("profile_command", args, doing, [path], limits)
        show(result, as_json, profile_view)
    return int(bool(result.get("proof", {}).get("unannounced_losses")))


def _making(extrude: float | None, revolve: float | None, sheet: bool) -> Making | None:
    given = [extrude is not None, revolve is not None, sheet]
    if sum(given) > 1:
        raise UsageError("--extrude, --revolve and --sheet exclude one another")
    if extrude is not None:
        if not extrude:
            raise UsageError("--extrude wants a depth that is not 0")
        return Making("extrude", depth=extrude)
    if revolve is not None:
        if not 0.0 < abs(revolve) <= 360.0:
            raise UsageError("--revolve wants an angle up to 360 degrees")
        return Making("revolve", angle=revolve)
    return Making("sheet") if sheet else None


def _change(text: str) -> tuple[str, float]:
    name, _, value = text.partition("=")
    try:
        return name.strip().upper(), float(value)
    except ValueError:
        raise UsageError(f"--change wants SIZE=VALUE (got {text!r})") from None


def profile_view(result: Mapping[str, Any]) -> View:
    """A drawing and its profile, for people."""
    unit = f"{result['unit']}, proposed" if result["unit_proposed"] else result["unit"]
    yield Text(f"DXF {result['version']}, layout {result['layout']}, in {unit}", "bold")
    table = table_of("layer", "entities", "taken")
    for layer in result["layers"]:
        said = "yes" if layer["taken"] else "no" if layer["shown"] else "hidden"
        table.add_row(layer["name"], str(layer["entities"]), said)
    yield table
    for number, region in enumerate(result["regions"], 1):
        holes = f", {count_of(region['holes'], 'hole')}" if region["holes"] else ""
        area, rim = _FIGURES.area(region["area"]), _FIGURES.length(region["perimeter"])
        yield Text(f"region {number}: {area}, outline {rim}{holes}")
    if not result["regions"]:
        yield Text("no closed region", "yellow")
    for key, word in (("open_ends", "open"), ("doubles", "drawn twice"), ("crossings", "crosses")):
        for place in result[key][:_PLACES]:
            x, y = place["point"]
            yield Text(f"{word} at {x:.6g}, {y:.6g} mm", "yellow")
        if len(result[key]) > _PLACES:
            yield Text(f"and {len(result[key]) - _PLACES} more", "yellow")
    if result["relations"]:
        yield Text("holds: " + ", ".join(f"{n} {kind}" for kind, n in result["relations"].items()))
    sizes = result["sizes"]
    if sizes:
        shown = (f"{s['name']} {s['value']:.6g}{'°' if s['kind'] == 'angle' else ''}" for s in sizes[:24])
        yield Text("sizes: " + ", ".join(shown) + (" …" if len(sizes) > 24 else ""))
    if solved := result.get("solved"):
        yield Text(f"solved to {solved['worst']:.1g} mm; {solved['free']} ways left to change")
    for note in result["notes"]:
        yield Text(f"note: {note['text']}", "dim")
    for sent in result["sent"]:
        yield Text(f"wrote {sent['path']}, {size_of_file(sent['bytes'])}", "green")
    if proof := result.get("proof"):
        yield Text(f"proof: {proof['verdict']}, volume read back {_FIGURES.volume(proof['volume'])}")
