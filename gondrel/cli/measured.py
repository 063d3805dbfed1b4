"""The command that measures, and what it says to people."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer
from rich.text import Text

from gondrel.cli.calls import run_command
from gondrel.cli.places import check_output, given_files
from gondrel.cli.program import (
    ForceOption,
    JsonOption,
    MegabytesOption,
    OneFile,
    RecipeOption,
    SecondsOption,
    SetOption,
    VerboseOption,
    app,
    examples_help,
    help_of,
    keys_help,
    pairs_of,
    received_values,
    show,
)
from gondrel.cli.text import View, table_of
from gondrel.core.errors import UsageError
from gondrel.core.model.cutting import CutPlane
from gondrel.core.model.measures import Wish
from gondrel.core.reports.figures import NOT_MEASURED, Figures, size_of_file
from gondrel.core.service.settings import RECEIVE_KEYS, receive_options_from
from gondrel.core.work.files import checked_file

__all__ = ["measured_view"]

_FIGURES = Figures()
_NUMBERS = 6


@app.command(
    short_help="Measure what is in a file.",
    help=help_of(
        "Measure what is in a file by the exact geometry: sections, least distances, walls, holes, masses. "
        "A section says its area and the length of its outlines, part by part. A query is as for send: "
        "*bolt*, material:*steel*.",
        examples_help(
            "gondrel measure gear.stp --section 0,0,20,0,1,0 --outline middle.dxf",
            "gondrel measure gear.stp --clearance '*pinion*' '*rack*' --json",
            "gondrel measure case.x_t --thickness '*' --holes",
            "gondrel measure gear.stp --mass --select 'Spur wheel*'",
        ),
        keys_help(("", RECEIVE_KEYS)),
    ),
)
def measure(
    file: OneFile,
    section: Annotated[
        list[str] | None,
        typer.Option(
            "--section", metavar="PX,PY,PZ,NX,NY,NZ",
            help="Cut by the plane through a point, mm, across a direction; twice for a corner, thrice.",
        ),
    ] = None,
    outline: Annotated[
        str, typer.Option("--outline", metavar="OUT", help="Write the section's outlines, .dxf or .svg.")
    ] = "",
    force: ForceOption = False,
    clearance: Annotated[
        tuple[str, str] | None,
        typer.Option("--clearance", metavar="QUERY QUERY", help="The least distance between two sets."),
    ] = None,
    thickness: Annotated[
        str | None, typer.Option("--thickness", metavar="QUERY", help="The thinnest wall of what fits.")
    ] = None,
    holes: Annotated[bool, typer.Option("--holes", help="The table of holes.")] = False,
    mass: Annotated[bool, typer.Option("--mass", help="Mass, centre of gravity, inertia.")] = False,
    select: Annotated[
        list[str] | None,
        typer.Option("--select", metavar="QUERY", help="Whose holes and mass; everything without it."),
    ] = None,
    settings: SetOption = None,
    recipe: RecipeOption = None,
    as_json: JsonOption = False,
    limit_seconds: SecondsOption = 0,
    limit_memory: MegabytesOption = 0,
    verbose: VerboseOption = False,
) -> int:  # fmt: skip
    planes = tuple(_plane(text) for text in section or ())
    if outline and not planes:
        raise UsageError("--outline wants a --section")
    if outline and Path(outline).suffix.casefold() not in (".dxf", ".svg"):
        raise UsageError("an outline is written as .dxf or .svg", hint=outline)
    if len(planes) > 3:
        raise UsageError("a section has one to three planes")
    wish = Wish(planes, clearance, thickness, holes, mass, tuple(select or ()), outline)
    if wish == Wish(items=wish.items, outline=outline):
        raise UsageError(
            "nothing is asked for", hint="--section, --clearance, --thickness, --holes or --mass"
        )
    options = receive_options_from(received_values(recipe, pairs_of(settings)))
    with given_files([file]) as (path,):
        checked_file(path)
        if outline:
            check_output(outline, [path], force=force)
        doing, limits = f"measuring {Path(path).name}", (limit_seconds, limit_memory)
        result = run_command("measure_command", (path, options, wish), doing, [path], limits)
        show(result, as_json, measured_view)
    return 0


def _plane(text: str) -> CutPlane:
    """A plane from six numbers. Raises UsageError for anything else."""
    try:
        x, y, z, a, b, c = (float(part) for part in text.split(","))
        plane = CutPlane((x, y, z), (a, b, c))
        _ = plane.unit
    except ValueError as error:
        raise UsageError(
            f"--section wants six numbers, a point and a direction (got {text!r})", hint=str(error)
        ) from None
    return plane


def measured_view(result: dict[str, Any]) -> View:
    """What was measured, for people."""
    if found := result.get("section"):
        yield from _section_view(found)
    for sent in result.get("sent", ()):
        yield Text(f"wrote {sent['path']}, {size_of_file(sent['bytes'])}", "green")
    if found := result.get("clearance"):
        yield Text(f"least distance {_FIGURES.deviation(found['distance'])}", "bold")
        for item, point in zip(found["items"], found["points"], strict=True):
            yield Text(f"  {item} at {_FIGURES.point(*point)}")
    if found := result.get("thickness"):
        if found["least"] is None:
            yield Text("thinnest wall: none was met")
        else:
            yield Text(f"thinnest wall {_FIGURES.length(found['least'])}", "bold")
            yield Text(f"  {found['item']} at {_FIGURES.point(*found['point'])}, in its own frame")
    if "holes" in result:
        yield from _hole_view(result["holes"])
    if found := result.get("mass"):
        yield from _mass_view(found)


def _section_view(found: dict[str, Any]) -> View:
    table = table_of("part", "area", "perimeter")
    for part in found["parts"]:
        table.add_row(part["path"], _FIGURES.area(part["area"]), _FIGURES.length(part["perimeter"]))
    table.add_row("all", _FIGURES.area(found["area"]), _FIGURES.length(found["perimeter"]))
    yield table
    for name in found["refused"]:
        yield Text(f"not cut: {name}", "yellow")


def _hole_view(holes: list[dict[str, Any]]) -> View:
    table = table_of("count", "diameter", "depth", "part", "axis")
    for hole in holes:
        depth = "through" if hole["through"] else _FIGURES.length(hole["depth"])
        along = ", ".join(f"{v:.4g}" for v in hole["axis"]["direction"])
        table.add_row(
            f"{hole['count']}", f"\u2300 {_FIGURES.length(hole['diameter'])}", depth, hole["item"], along
        )
    yield table
    yield Text(f"{sum(hole['count'] for hole in holes)} holes")


def _mass_view(found: dict[str, Any]) -> View:
    if found["mass"] is None:
        missing = ", ".join(found["without_material"][:_NUMBERS])
        more = len(found["without_material"]) - _NUMBERS
        told = f" ({missing}{f' and {more} more' if more > 0 else ''} without a density)" if missing else ""
        yield Text(f"mass {NOT_MEASURED}{told}", "yellow")
    else:
        yield Text(f"mass {found['mass']:.6g} kg", "bold")
        yield Text(f"  centre of gravity {_FIGURES.point(*found['centre'])}")
        rows = [found["inertia"][3 * row : 3 * row + 3] for row in range(3)]
        for row in rows:
            yield Text("  inertia about it " + "  ".join(f"{v:13.6g}" for v in row) + "  kg mm\u00b2")
    yield Text(f"  volume {_FIGURES.volume(found['volume'])}, area {_FIGURES.area(found['area'])}")
