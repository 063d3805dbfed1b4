"""gondrel gather: the files of an assembly in one place, with a list."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any

import typer
from rich.text import Text

from gondrel.cli.calls import run_command
from gondrel.cli.places import given_files
from gondrel.cli.program import (
    JsonOption,
    OneFile,
    SetOption,
    app,
    examples_help,
    help_of,
    keys_help,
    pairs_of,
    show,
)
from gondrel.cli.text import View, table_of
from gondrel.core.reports.figures import count_of, size_of_file
from gondrel.core.service.settings import RECEIVE_KEYS, receive_options_from
from gondrel.core.work.files import checked_file

__all__ = ["GatherOption", "gathered_view"]

GatherOption = Annotated[
    str, typer.Option("--out", "-o", metavar="OUT", help="A folder that is new or empty, or a .zip file.")
]


@app.command(
    short_help="Gather the files of an assembly.",
    help=help_of(
        "Gather the files of an assembly into a folder or a ZIP archive: what was received, what that "
        "refers to, and what was sent from a crossing, with a list (list.csv) of where each was, its "
        "SHA-256, and whether it is still as it was. What is missing is named, and the exit status is 1.",
        examples_help(
            "gondrel gather gear.stp --out gear-files",
            "gondrel gather gear.crossing --out gear-files.zip",
        ),
        keys_help(("", RECEIVE_KEYS)),
    ),
)
def gather(
    file: OneFile, out: GatherOption, settings: SetOption = None, as_json: JsonOption = False
) -> int:
    options = receive_options_from(pairs_of(settings))
    with given_files([file]) as (path,):
        checked_file(path)
        result = run_command(
            "gondrel.core.service.gather:gather_command",
            (path, out, options),
            "gather files",
            [path],
            (0, 0),
        )
    show(result, as_json, gathered_view)
    return int(bool(result["missing"]))


def gathered_view(result: Mapping[str, Any]) -> View:
    """The list of what was gathered, for people."""
    table = table_of("file", "kind", "state", "size", "belongs to")
    for each in result["files"]:
        size = "" if each["bytes"] is None else size_of_file(each["bytes"])
        table.add_row(each["file"] or each["from"], each["kind"], each["state"], size, each["belongs to"])
    yield table
    there = len({each["file"] for each in result["files"] if each["file"]})
    yield Text(f"gathered {count_of(there, 'file')} into {result['gathered']}", "green")
    if result["missing"]:
        yield Text(f"{count_of(len(result['missing']), 'file')} could not be found", "red")
