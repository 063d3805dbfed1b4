"""The commands of crates, and what they say to people."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Annotated, Any

import typer
from rich.text import Text

from gondrel.cli.places import check_output, given_files
from gondrel.cli.program import ForceOption, JsonOption, OneFile, app, show
from gondrel.cli.registered import AddressOption, BlobsOption, WhoOption, ask_register, put_view
from gondrel.cli.text import View, table_of
from gondrel.core.errors import UsageError
from gondrel.core.reports.figures import count_of, size_of_file
from gondrel.core.work.files import checked_file

__all__ = ["crate_app"]

crate_app = typer.Typer(
    name="crate", no_args_is_help=True,
    help="One file with items, all they use, their revisions, states and histories.",
)  # fmt: skip
app.add_typer(crate_app, name="crate")


@crate_app.command("pack", help="Pack items with all they use into one file.")
def pack(
    names: Annotated[list[str], typer.Argument(metavar="NUMBER[/REVISION] ...")],
    out: Annotated[str, typer.Option("--out", "-o", metavar="OUT", help="The crate to write.")],
    used_only: Annotated[
        bool, typer.Option("--used-only", help="Only the revisions that are used, not all of each item.")
    ] = False,
    source: Annotated[
        list[str] | None, typer.Option("--source", metavar="FILE", help="A received file to take along.")
    ] = None,
    force: ForceOption = False, register: AddressOption = "", blobs: BlobsOption = "",
    as_json: JsonOption = False,
) -> int:  # fmt: skip
    check_output(out, [], force=force)
    args = {"names": tuple(names), "out": out, "used_only": used_only, "sources": tuple(source or ())}
    show(ask_register("crate", "pack", register, blobs, args, []), as_json, _crate_view)
    return 0


@crate_app.command("list", help="What a crate holds.")
def list_crate(file: OneFile, as_json: JsonOption = False) -> int:
    with given_files([file]) as (path,):
        checked_file(path)
        show(ask_register("crate", "list", "-", "", {"path": path}, [path]), as_json, _crate_view)
    return 0


@crate_app.command("verify", help="Whether every piece of a crate is as it was packed.")
def verify(file: OneFile, as_json: JsonOption = False) -> int:
    with given_files([file]) as (path,):
        checked_file(path)
        result = ask_register("crate", "verify", "-", "", {"path": path}, [path])
        show(result, as_json, _verify_view)
    return 0 if result["ok"] else 1


@crate_app.command("unpack", help="Take a crate in, as the same items or as an independent copy.")
def unpack(
    file: OneFile,
    as_copy: Annotated[bool, typer.Option("--as-copy", help="As new items, independent of these.")] = False,
    numbers: Annotated[
        str, typer.Option("--numbers", metavar="RULE", help="How items of a copy are numbered.")
    ] = "{number}-COPY",
    resolve: Annotated[
        list[str] | None,
        typer.Option("--resolve", metavar="NAME=ours|theirs", help="What becomes of a conflict."),
    ] = None,
    who: WhoOption = "", register: AddressOption = "", blobs: BlobsOption = "", as_json: JsonOption = False,
) -> int:  # fmt: skip
    resolved = {}
    for text in resolve or ():
        name, _, how = text.rpartition("=")
        if not name or how not in ("ours", "theirs"):
            raise UsageError(f"--resolve wants NUMBER/REVISION=ours or =theirs (got {text!r})")
        resolved[name] = how
    with given_files([file]) as (path,):
        checked_file(path)
        args = {"path": path, "as_copy": numbers if as_copy else "", "resolved": resolved, "who": who}
        show(ask_register("crate", "unpack", register, blobs, args, [path]), as_json, put_view)
    return 0


def _crate_view(result: Mapping[str, Any]) -> View:
    table = table_of("number", "revision", "name", "state")
    for each in result["revisions"]:
        table.add_row(each["number"], f"{each['major']}.{each['minor']}", each["label"], each["state"])
    yield table
    counts = len(result["items"]), len(result["revisions"]), result["pieces"]
    yield Text("{} items, {} revisions, {} pieces".format(*counts))
    for sent in result.get("sent", ()):
        yield Text(f"wrote {Path(sent['path']).name}, {size_of_file(sent['bytes'])}", "green")


def _verify_view(result: Mapping[str, Any]) -> View:
    if result["ok"]:
        counts = count_of(result["items"], "item"), count_of(result["revisions"], "revision")
        yield Text(f"every piece is as it was packed: {counts[0]}, {counts[1]}", "green")
    for problem in result["problems"]:
        yield Text(f"{problem['piece']} {problem['what']}", "red")
