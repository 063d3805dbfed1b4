"""``gondrel report``: the report that goes with a file to its recipient."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Annotated, Any

import typer

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
    app,
    examples_help,
    help_of,
    kind_for,
    kind_toward,
    kinds_help,
    pairs_of,
    sending_settings,
    show,
)
from gondrel.core.errors import UsageError
from gondrel.core.recipients.card import card_or_none
from gondrel.core.service.recipes import values_toward
from gondrel.core.service.settings import parted, receive_options_from
from gondrel.core.work.files import checked_file

__all__ = ["report"]


def _view(result: dict[str, Any]) -> Iterator[str]:
    for sent in result["sent"]:
        yield f"Written: {sent['path']}, {sent['bytes'] / 1000:,.0f} kB"


@app.command(
    short_help="Write the report that goes with a file.",
    help=help_of(
        "Write the report that goes with a file to its recipient: what it is, check values to compare "
        "after import, what is not carried, what remains wrong, hashes. With --as or --card the file is "
        "written aside as it would be sent, and proved.",
        examples_help(
            "gondrel report gear.stp --out gear.pdf --as step-ap242",
            "gondrel report gear.stp --out gear.html --card rigger",
        ),
        kinds_help(),
    ),
)
def report(  # noqa: D103
    file: OneFile,
    out: Annotated[str, typer.Option("--out", "-o", metavar="OUT", help="As .html or .pdf.")],
    kind: AsOption = "",
    recipient: Annotated[str, typer.Option("--card", metavar="CARD", help="Who it is for.")] = "",
    settings: SetOption = None,
    unchecked: Annotated[bool, typer.Option("--unchecked", help="Do not check the model.")] = False,
    force: ForceOption = False,
    as_json: JsonOption = False,
    limit_seconds: SecondsOption = 0,
    limit_memory: MegabytesOption = 0,
    verbose: VerboseOption = False,
) -> int:
    card = card_or_none(recipient)
    if Path(out).suffix.lower() not in (".html", ".htm", ".pdf"):
        raise UsageError("a report is kept as .html or .pdf", hint=out)
    received, own = parted(pairs_of(settings), "receive.")
    own = values_toward(card, own)
    kind = kind_toward(card, kind, own)
    if kind:
        kind_for("", kind)
    sending, options = sending_settings(own, True), receive_options_from(received)
    author = ", ".join(t for t in (sending.author, sending.organisation) if t)
    with given_files([file]) as (path,):
        checked_file(path)
        check_output(out, [path], force=force)
        args = (path, out, kind, recipient, options, sending, not unchecked, author)
        doing, limits = f"reporting on {Path(path).name}", (limit_seconds, limit_memory)
        show(run_command("report_command", args, doing, [path], limits), as_json, _view)
    return 0
