"""The command that finds features, and what it says to people."""

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
from gondrel.core.model.features import KINDS
from gondrel.core.reports.features import size_text
from gondrel.core.reports.figures import count_of
from gondrel.core.service.settings import RECEIVE_KEYS, receive_options_from
from gondrel.core.work.files import checked_file

__all__ = ["features_view"]


@app.command(
    short_help="Find features of dumb solids.",
    help=help_of(
        "Find again what a dumb solid was made of: holes (plain, blind, through, counterbored, "
        "countersunk, stepped, with drill point), fillets, chamfers, bosses, pockets, slots, turned "
        f"solids, and patterns of equal ones. Kinds: {', '.join(KINDS)}.",
        examples_help(
            "gondrel features gear.stp",
            "gondrel features bracket.x_t --kinds hole --kinds pattern --json",
        ),
        keys_help(("", RECEIVE_KEYS)),
    ),
)
def features(
    file: OneFile,
    kinds: Annotated[
        list[str] | None,
        typer.Option("--kinds", metavar="KIND", help="Look for this kind only; may be given again."),
    ] = None,
    rebuild: Annotated[
        bool, typer.Option("--rebuild", help="Compute each part anew from its features and prove it.")
    ] = False,
    settings: SetOption = None,
    recipe: RecipeOption = None,
    as_json: JsonOption = False,
    limit_seconds: SecondsOption = 0,
    limit_memory: MegabytesOption = 0,
    verbose: VerboseOption = False,
) -> int:
    for kind in kinds or ():
        if kind not in KINDS:
            raise UsageError(f"unknown kind {kind!r}", hint=f"any of {', '.join(KINDS)}")
    options = receive_options_from(received_values(recipe, pairs_of(settings)))
    with given_files([file]) as (path,):
        checked_file(path)
        doing, limits = f"looking for features of {Path(path).name}", (limit_seconds, limit_memory)
        wanted = tuple(kinds or ())
        result = run_command("features_command", (path, options, wanted, rebuild), doing, [path], limits)
        show(result, as_json, features_view)
    return 0


def features_view(result: dict[str, Any]) -> View:
    """Features part by part, for people."""
    for part in result["parts"]:
        yield Text(part["product"], "bold")
        if why := part.get("not_looked_at"):
            yield Text(f"  not looked at: {why}", "yellow")
            continue
        if not part["features"]:
            yield Text("  no feature found")
            yield from _rebuilt_view(part.get("rebuilt"))
            continue
        table = table_of("", "kind", "sizes", "faces", "sure")
        for place, feature in enumerate(part["features"], 1):
            sizes = ", ".join(size_text(name, value) for name, value in feature["sizes"].items())
            faces = count_of(len(feature["faces"]), "face")
            if members := feature.get("members"):
                faces = f"of {', '.join(str(m + 1) for m in members)}"
            table.add_row(str(place), feature["kind"], sizes, faces, f"{feature['certainty']:.0%}")
        yield table
        yield from _rebuilt_view(part.get("rebuilt"))
    counts = ", ".join(count_of(count, kind) for kind, count in result["counts"].items())
    yield Text(counts or "no feature found")


def _rebuilt_view(rebuilt: dict[str, Any] | None) -> View:
    """How a part came out that was computed anew."""
    if rebuilt is None:
        return
    base = {"remains": "what remains"}.get(rebuilt["base"], f"an {rebuilt['base']}")
    base = base.replace("an revolution", "a revolution")
    if rebuilt["equal"]:
        off = f"{rebuilt['deviation']:.1g} mm off, volume by {rebuilt['volume_error']:.1g}"
        yield Text(
            f"  computed anew from {base} and {count_of(len(rebuilt['steps']), 'feature')}: equal, {off}",
            "green",
        )
    else:
        yield Text(f"  computed anew: not equal, {rebuilt['why']}", "yellow")
    for kept in rebuilt["kept"]:
        yield Text(f"  feature {kept['feature']} stays in the base: {kept['why']}", "dim")
