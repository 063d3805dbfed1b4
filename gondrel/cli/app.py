"""The commands on single files: what each takes and does, its help, and what it says."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Annotated, Any

import typer
from typer.exceptions import TyperException

from gondrel import __version__
from gondrel.cli import batch as _batch  # noqa: F401  (they register their commands)
from gondrel.cli import compared as _compared  # noqa: F401
from gondrel.cli import crated as _crated  # noqa: F401
from gondrel.cli import drawn as _drawn  # noqa: F401
from gondrel.cli import featured as _featured  # noqa: F401
from gondrel.cli import gathered as _gathered  # noqa: F401
from gondrel.cli import measured as _measured  # noqa: F401
from gondrel.cli import profiled as _profiled  # noqa: F401
from gondrel.cli import recipients as _recipients  # noqa: F401
from gondrel.cli import registered as _registered  # noqa: F401
from gondrel.cli import report as _report  # noqa: F401
from gondrel.cli.calls import run_command
from gondrel.cli.places import given_files
from gondrel.cli.program import (
    AsOption,
    ForceOption,
    JsonOption,
    MegabytesOption,
    OneFile,
    OutOption,
    RecipeOption,
    RecipientOption,
    SecondsOption,
    SetOption,
    SeveralFiles,
    VerboseOption,
    app,
    each_file,
    examples_help,
    help_of,
    keys_help,
    kind_for,
    kind_toward,
    kinds_help,
    pairs_of,
    received_values,
    sending_settings,
    show,
    with_recipes,
    written,
)
from gondrel.core.errors import UsageError
from gondrel.core.formats.registry import by_suffix
from gondrel.core.model.findings import MendWish
from gondrel.core.model.notes import GRAVE
from gondrel.core.recipients.card import card_of, card_or_none, save_card
from gondrel.core.service.recipes import values_toward
from gondrel.core.service.settings import (
    CHECK_KEYS,
    MEND_KEYS,
    RECEIVE_KEYS,
    SEND_KEYS,
    limits_from,
    limits_toward,
    mend_options_from,
    parted,
    receive_options_from,
)
from gondrel.core.work.files import checked_file

__all__ = ["app", "run"]


def run(arguments: Sequence[str]) -> int:
    """Run one command; returns its exit status. Raises GondrelError."""
    command = typer.main.get_command(app)
    try:
        status = command.main(list(arguments), prog_name="gondrel", standalone_mode=False)
    except TyperException as error:
        said = error.format_message() if hasattr(error, "format_message") else str(error)
        raise UsageError(" ".join(said.split()).rstrip(".")) from None
    except typer.Exit as end:
        return int(end.exit_code)
    return int(status or 0)


# --- commands --------------------------------------------------------------------------------------


@app.callback(invoke_without_command=True)
def _version(
    version: Annotated[bool, typer.Option("--version", help="Print the version and end.")] = False,
) -> None:
    if version:
        print(f"gondrel {__version__}")
        raise typer.Exit(0)


@app.command(
    short_help="Say what is in a file.",
    help=help_of(
        "Say what is in a file, read raw: products, bodies and their figures, structure, what remains.",
        examples_help(
            "gondrel inspect gear.stp",
            "gondrel inspect *.x_t --json",
            "zcat gear.stp.gz | gondrel inspect -",
            "gondrel inspect part.stl --set unit=inch",
        ),
        keys_help(("", RECEIVE_KEYS)),
    ),
)
def inspect(
    files: SeveralFiles = None,
    settings: SetOption = None,
    recipe: RecipeOption = None,
    as_json: JsonOption = False,
    limit_seconds: SecondsOption = 0,
    limit_memory: MegabytesOption = 0,
    verbose: VerboseOption = False,
) -> int:
    from gondrel.cli.text import card_view, inspect_view
    from gondrel.core.service.cards import file_card

    options = receive_options_from(received_values(recipe, pairs_of(settings)))
    limits = (limit_seconds, limit_memory)

    def ask(path: str) -> dict[str, Any]:
        return run_command("inspect_command", (path, options), f"reading {Path(path).name}", [path], limits)

    def grave(result: dict[str, Any]) -> bool:
        return bool(result["missing_files"]) or any(note["code"] in GRAVE for note in result["notes"])

    return each_file(
        files, as_json, inspect_view, ask, grave, first=lambda path: card_view(file_card(path))
    )


@app.command(
    short_help="Find what is not sound in a file.",
    help=help_of(
        "Find what is not sound in a file: open or crossing faces, gaps, doubtful sizes, names, overlaps. "
        "Every check is explained in docs/checks.md.",
        examples_help("gondrel check gear.stp", "gondrel check gear.stp --set gap=0.001 --json"),
        keys_help(("", CHECK_KEYS), ("receive.", RECEIVE_KEYS)),
    ),
)
def check(
    files: SeveralFiles = None,
    settings: SetOption = None,
    recipe: RecipeOption = None,
    recipient: RecipientOption = "",
    as_json: JsonOption = False,
    limit_seconds: SecondsOption = 0,
    limit_memory: MegabytesOption = 0,
    verbose: VerboseOption = False,
) -> int:
    from gondrel.cli.text import check_view

    received, own = parted(pairs_of(settings), "receive.")
    options = receive_options_from(received_values(recipe, received))
    limits = limits_from(own, limits_toward(card_or_none(recipient)))

    def ask(path: str) -> dict[str, Any]:
        args = (path, options, limits)
        return run_command(
            "check_command", args, f"checking {Path(path).name}", [path], (limit_seconds, limit_memory)
        )

    return each_file(
        files, as_json, check_view, ask, lambda r: bool(r["counts"]["fault"] or r["counts"]["doubt"])
    )


@app.command(
    short_help="Mend a file and write it.",
    help=help_of(
        "Mend what was found and write it. Each mend is tried, measured before and after, and refused "
        "where it would make things worse. Every mend is explained in docs/mends.md.",
        examples_help(
            "gondrel mend gear.stp --out mended.stp --safe",
            "gondrel mend gear.stp --out mended.x_t --only R108 --set within=0.01",
        ),
        kinds_help(),
        keys_help(("", MEND_KEYS), ("check.", CHECK_KEYS), ("receive.", RECEIVE_KEYS), ("", SEND_KEYS)),
    ),
)
def mend(
    file: OneFile,
    out: OutOption,
    kind: AsOption = "",
    only: Annotated[
        list[str] | None, typer.Option("--only", metavar="CODE", help="A mend, or the check it is for.")
    ] = None,
    safe: Annotated[bool, typer.Option("--safe", help="Only what keeps the shape that is there.")] = False,
    settings: SetOption = None,
    recipient: RecipientOption = "",
    force: ForceOption = False,
    as_json: JsonOption = False,
    limit_seconds: SecondsOption = 0,
    limit_memory: MegabytesOption = 0,
    verbose: VerboseOption = False,
) -> int:
    from gondrel.cli.text import mend_view

    received, checked, own = parted(pairs_of(settings), "receive.", "check.")
    names = {key.name for key in MEND_KEYS}
    mending = mend_options_from({k: v for k, v in own.items() if k in names})
    card = card_or_none(recipient)
    sending = sending_settings(values_toward(card, {k: v for k, v in own.items() if k not in names}), force)
    wish = MendWish(tuple(only or ()), safe)
    options, limits = receive_options_from(received), limits_from(checked, limits_toward(card))

    def args(path: str, place: str, chosen: str) -> tuple[Any, ...]:
        return (path, place, chosen, wish, options, limits, mending, sending)

    result = written("mend_command", args, "mending", file, out, kind, sending, as_json, mend_view,
                      (limit_seconds, limit_memory))  # fmt: skip
    after = result["check_after"]
    return int(bool(after["fault"] or after["doubt"] or result["proof"]["unannounced_losses"]))


@app.command(
    short_help="Write a file in another form and prove it.",
    help=help_of(
        "Write a file in another form: say what will be lost or altered, read it back raw and prove it.",
        examples_help(
            "gondrel send gear.stp --out gear.x_t",
            "gondrel send gear.stp --out gear.stp --as step-ap214 --set unit=inch",
            "gondrel send gear.stp --as xt-text --forecast-only",
            "gondrel send gear.stp --as step-ap242 --out - | gzip > gear.stp.gz",
        ),
        kinds_help(),
        keys_help(("", SEND_KEYS), ("receive.", RECEIVE_KEYS)),
    ),
)
def send(
    file: OneFile,
    out: OutOption = "",
    kind: AsOption = "",
    settings: SetOption = None,
    recipe: RecipeOption = None,
    forecast_only: Annotated[
        bool, typer.Option("--forecast-only", help="Write nothing; say what would be lost or altered.")
    ] = False,
    recipient: RecipientOption = "",
    select: Annotated[
        list[str] | None,
        typer.Option("--select", metavar="QUERY", help="Only what fits, as *bolt* or layer:Castings."),
    ] = None,
    force: ForceOption = False,
    as_json: JsonOption = False,
    limit_seconds: SecondsOption = 0,
    limit_memory: MegabytesOption = 0,
    verbose: VerboseOption = False,
) -> int:
    from gondrel.cli.text import forecast_view, sent_view

    card = card_or_none(recipient)
    received, own = parted(with_recipes(recipe, pairs_of(settings)), "receive.")
    own = values_toward(card, own)
    if not by_suffix(out):
        kind = kind_toward(card, kind, own)
    sending, options = sending_settings(own, force), receive_options_from(received)
    limits = (limit_seconds, limit_memory)
    if forecast_only:
        chosen = kind_for(out, kind)
        with given_files([file]) as (path,):
            checked_file(path)
            args = (path, out, chosen, options, sending, True, recipient, tuple(select or ()))
            result = run_command("send_command", args, f"reading {Path(path).name}", [path], limits)
            show(result, as_json, forecast_view)
        return 0

    def all_args(path: str, place: str, chosen: str) -> tuple[Any, ...]:
        return (path, place, chosen, options, sending, False, recipient, tuple(select or ()))

    result = written(
        "send_command", all_args, "sending", file, out, kind, sending, as_json, sent_view, limits
    )
    return int(bool(result["proof"]["unannounced_losses"] or result["remaining_faults"]))


@app.command(
    short_help="Give a file structure, or run saved steps on it.",
    help=help_of(
        "Find out which bodies are the same part and what belongs together, or run the steps of a saved "
        "arrangement. Without --out nothing is written: the proposal is shown, and what came of the steps.",
        examples_help(
            "gondrel arrange flat.stp --recover",
            "gondrel arrange flat.stp --recover --out gear.stp --as step-ap242",
            "gondrel arrange gear.stp --steps for-founder.toml --out case.x_t",
        ),
        kinds_help(),
        keys_help(("", SEND_KEYS), ("receive.", RECEIVE_KEYS)),
    ),
)
def arrange(
    file: OneFile,
    recover: Annotated[
        bool, typer.Option("--recover", help="Propose structure; with --out take it.")
    ] = False,
    steps: Annotated[
        str, typer.Option("--steps", metavar="STEPS", help="A steps file, see docs/steps.md.")
    ] = "",
    out: OutOption = "",
    kind: AsOption = "",
    settings: SetOption = None,
    recipe: RecipeOption = None,
    force: ForceOption = False,
    as_json: JsonOption = False,
    limit_seconds: SecondsOption = 0,
    limit_memory: MegabytesOption = 0,
    verbose: VerboseOption = False,
) -> int:
    from gondrel.cli.arranged import arranged_view

    if not recover and not steps:
        raise UsageError("nothing is asked for", hint="--recover, --steps STEPS, or both")
    if steps:
        checked_file(steps)
    received, own = parted(with_recipes(recipe, pairs_of(settings)), "receive.")
    sending, options = sending_settings(own, force), receive_options_from(received)
    limits = (limit_seconds, limit_memory)

    def all_args(path: str, place: str, chosen: str) -> tuple[Any, ...]:
        return (path, place, chosen, recover, steps, options, sending)

    if out:
        result = written(
            "arrange_command",
            all_args,
            "arranging",
            file,
            out,
            kind,
            sending,
            as_json,
            arranged_view,
            limits,
        )
    else:
        with given_files([file]) as (path,):
            checked_file(path)
            args = all_args(path, "", "")
            result = run_command("arrange_command", args, f"reading {Path(path).name}", [path], limits)
            show(result, as_json, arranged_view)
    lost = bool(result["proof"] and result["proof"]["unannounced_losses"])
    return int(lost or any(step["outcome"] != "done" for step in result["steps"]))


@app.command(
    short_help="Compare what was meant with what came back.",
    help=help_of(
        "Compare what was meant with what came back, thing by thing: nothing is lost unseen.",
        examples_help("gondrel prove gear.stp returned.x_t", "gondrel prove gear.stp returned.x_t --json"),
    ),
)
def prove(
    meant: Annotated[str, typer.Argument(metavar="MEANT", help="What was meant; - for standard input.")],
    returned: Annotated[str, typer.Argument(metavar="RETURNED", help="What came back.")],
    recipient: Annotated[
        str, typer.Option("--card", metavar="CARD", help="Say what it tells of a recipient's card.")
    ] = "",
    learn: Annotated[bool, typer.Option("--learn", help="Write it onto the card.")] = False,
    as_json: JsonOption = False,
    limit_seconds: SecondsOption = 0,
    limit_memory: MegabytesOption = 0,
    verbose: VerboseOption = False,
) -> int:
    from gondrel.cli.text import proof_view

    with given_files([meant, returned]) as (first, second):
        for path in (first, second):
            checked_file(path)
        doing = f"comparing {Path(first).name} with {Path(second).name}"
        limits = (limit_seconds, limit_memory)
        result = run_command("prove_command", (first, second, recipient), doing, [first, second], limits)
        show(result, as_json, lambda made: (*proof_view(made), *_card_lines(made)))
    if learn and recipient and result["card"]["changes"]:
        save_card(card_of(result["card"]["proposal"]))
    return 0 if result["verdict"] == "carried" else 1


def _card_lines(result: dict[str, Any]) -> Iterable[str]:
    """What a proof tells of a recipient's card."""
    if "card" in result:
        yield f"Of the card {result['card']['key']}:"
        yield from (f"  {line}" for line in result["card"]["changes"] or ["it says what came back"])
