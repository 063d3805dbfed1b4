"""``gondrel batch``: a folder of files sent and proved, one after another and side by side."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator
from typing import Annotated, Any

import typer

from gondrel.batch.run import BatchOrder, BatchRun
from gondrel.cli.calls import EndedBy
from gondrel.cli.program import (
    AsOption,
    ForceOption,
    JsonOption,
    MegabytesOption,
    OneFile,
    RecipeOption,
    RecipientOption,
    SecondsOption,
    SetOption,
    VerboseOption,
    app,
    examples_help,
    help_of,
    keys_help,
    kind_for,
    kind_toward,
    kinds_help,
    pairs_of,
    sending_settings,
    show,
    with_recipes,
)
from gondrel.core.recipients.card import card_or_none
from gondrel.core.service.batch import (
    Outcome,
    counts_of,
    keep_table,
    outcome_object,
)
from gondrel.core.service.recipes import values_toward
from gondrel.core.service.settings import RECEIVE_KEYS, SEND_KEYS, parted, receive_options_from

__all__ = ["batch"]


def _minutes(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 90 else f"{seconds / 60:.0f} min"


def _view(result: dict[str, Any]) -> Iterator[str]:
    counts = result["counts"]
    yield ", ".join(f"{count} {word}" for word, count in counts.items() if count) or "no file to send"
    for each in result["files"]:
        if each["verdict"] == "failed":
            yield f"failed: {each['path']}: {each['error']}"


@app.command(
    short_help="Send and prove a folder of files.",
    help=help_of(
        "Send every model file of a folder and prove each; what fails does not stop the rest, and what was "
        "done before is not done again. With --watch it goes on as files come, until Ctrl-C.",
        examples_help(
            "gondrel batch in --to out --as step-ap242",
            "gondrel batch in --to out --recipient rigger --workers 2 --table out/table.html",
            "gondrel batch drop --to out --as xt-text --watch",
        ),
        kinds_help(),
        keys_help(("", SEND_KEYS), ("receive.", RECEIVE_KEYS)),
    ),
)
def batch(  # noqa: D103
    folder: OneFile,
    to: Annotated[str, typer.Option("--to", metavar="DIR", help="The folder to write to.")],
    kind: AsOption = "",
    settings: SetOption = None,
    recipe: RecipeOption = None,
    recipient: RecipientOption = "",
    workers: Annotated[
        int, typer.Option("--workers", metavar="N", min=0, help="Files at a time; 0 for one a processor.")
    ] = 0,
    pattern: Annotated[str, typer.Option("--only", metavar="NAMES", help="With * and ?, as *.stp.")] = "*",
    flat: Annotated[bool, typer.Option("--flat", help="Leave folders within the folder alone.")] = False,
    scheduler: Annotated[
        str, typer.Option("--scheduler", metavar="ADDRESS", help="Of a Dask cluster that does the work.")
    ] = "",
    watch: Annotated[bool, typer.Option("--watch", help="Go on as files come.")] = False,
    table: Annotated[
        str, typer.Option("--table", metavar="OUT", help="Keep the table as .csv, .xlsx or .html.")
    ] = "",
    force: ForceOption = False,
    as_json: JsonOption = False,
    limit_seconds: SecondsOption = 0,
    limit_memory: MegabytesOption = 0,
    verbose: VerboseOption = False,
) -> int:
    card = card_or_none(recipient)
    received, own = parted(with_recipes(recipe, pairs_of(settings)), "receive.")
    own = values_toward(card, own)
    kind = kind_for("", kind_toward(card, kind, own))
    order = BatchOrder(
        folder, to, kind, receive_options_from(received), sending_settings(own, True), recipient, pattern,
        not flat, workers or os.cpu_count() or 1, (limit_seconds, limit_memory), scheduler, force,
    )  # fmt: skip

    def say(outcome: Outcome, left: float) -> None:
        why = outcome.error.removeprefix(f"{outcome.source}: ")
        told = why or (f"{outcome.verdict}, done before" if outcome.again else outcome.verdict)
        rest = f", about {_minutes(left)} left" if left > 0 and not outcome.again else ""
        print(f"[{len(run.outcomes)}/{run.all}] {outcome.source}: {told}{rest}", file=sys.stderr)

    run = BatchRun(order, say)
    try:
        run.run(watch=watch)
    except (EndedBy, KeyboardInterrupt):
        if not watch:
            raise
    if table:
        keep_table(table, run.outcomes)
    counts = counts_of(run.outcomes)
    result = {"files": [outcome_object(each) for each in run.outcomes], "counts": counts}
    show(result, as_json, _view)
    return int(bool(counts["failed"] or any(each.unannounced for each in run.outcomes)))
