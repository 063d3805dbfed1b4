"""The command that compares two files, and what it says to people."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer
from rich.text import Text

from gondrel.cli.calls import run_command
from gondrel.cli.places import given_files
from gondrel.cli.program import (
    JsonOption,
    MegabytesOption,
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
from gondrel.cli.text import View, proof_view, table_of
from gondrel.core.reports.figures import Figures, count_of
from gondrel.core.service.settings import RECEIVE_KEYS, receive_options_from
from gondrel.core.work.files import checked_file

__all__ = ["compared_view"]

_FIGURES = Figures()


@app.command(
    short_help="Say what differs between two files.",
    help=help_of(
        "Say what differs between two files, as between two revisions: the ledger as for prove, material "
        "added and removed part by part, and which components were moved, how far.",
        examples_help(
            "gondrel compare case-rev-b.stp case-rev-c.stp", "gondrel compare a.stp b.x_t --json"
        ),
        keys_help(("", RECEIVE_KEYS)),
    ),
)
def compare(
    before: Annotated[str, typer.Argument(metavar="BEFORE", help="The first file; - for standard input.")],
    after: Annotated[str, typer.Argument(metavar="AFTER", help="The second file.")],
    settings: SetOption = None,
    recipe: RecipeOption = None,
    as_json: JsonOption = False,
    limit_seconds: SecondsOption = 0,
    limit_memory: MegabytesOption = 0,
    verbose: VerboseOption = False,
) -> int:
    options = receive_options_from(received_values(recipe, pairs_of(settings)))
    with given_files([before, after]) as (first, second):
        for path in (first, second):
            checked_file(path)
        doing = f"comparing {Path(first).name} with {Path(second).name}"
        limits = (limit_seconds, limit_memory)
        result = run_command("compare_command", (first, second, options), doing, [first, second], limits)
        show(result, as_json, compared_view)
    material = result["material"]
    return int(result["verdict"] != "carried" or bool(material["parts"] or result["moved"]))


def compared_view(result: dict[str, Any]) -> View:
    """What differs, for people."""
    yield from proof_view(result)
    material, moved = result["material"], result["moved"]
    if material["parts"]:
        table = table_of("part", "added", "removed", "places")
        for part in material["parts"]:
            note = "  new" if part["is_new"] else "  gone" if part["is_gone"] else ""
            table.add_row(
                part["name"] + note, _FIGURES.volume(part["added"]), _FIGURES.volume(part["removed"]),
                str(part["places"]),
            )  # fmt: skip
        yield table
    else:
        yield Text("no material was added or removed", "green")
    for name in material["not_compared"]:
        yield Text(f"material not compared: {name}", "yellow")
    for each in moved:
        turned = f", turned by {each['angle']:.6g} degrees" if each["angle"] > 1e-9 else ""
        yield Text(f"moved: {each['name']} by {_FIGURES.length(each['distance'])}{turned}", "yellow")
    yield Text(f"{count_of(len(material['parts']), 'part')} changed, {len(moved)} moved")
