"""The commands: what each takes and does, its help, and what it says."""

from __future__ import annotations

import json
import sys
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Annotated, Any

import typer
from typer.exceptions import TyperException

from gondrel import __version__
from gondrel.cli.calls import Limits, run_command
from gondrel.cli.places import STREAM, check_output, given_files, taken_output
from gondrel.core.errors import GondrelError, UsageError
from gondrel.core.formats.registry import target
from gondrel.core.model.findings import MendWish
from gondrel.core.model.notes import GRAVE
from gondrel.core.service.catalogue import disagreement, kind_of_suffix, target_kinds
from gondrel.core.service.recipes import recipe_named, recipes
from gondrel.core.service.settings import (
    CHECK_KEYS,
    MEND_KEYS,
    RECEIVE_KEYS,
    SEND_KEYS,
    Key,
    SendSettings,
    limits_from,
    mend_options_from,
    parted,
    receive_options_from,
    settings_from,
)
from gondrel.core.work.files import checked_file

__all__ = ["app", "run"]

_EXIT = """\b
Exit status:
  0  all is well
  1  findings or losses to look at
  2  wrong call, or it can't be read or written; one line says why
  130 after Ctrl-C, 143 after SIGTERM, 141 after a closed pipe"""

app = typer.Typer(
    name="gondrel",
    add_completion=True,
    rich_markup_mode="rich",
    suggest_commands=True,
    no_args_is_help=True,
    help="Moves part and assembly models between modelling systems and proves what came across.\n\n"
    "Without a command the window opens: gondrel [FILE ...], gondrel --demo.\n\n" + _EXIT,
)


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


# --- what commands share ---------------------------------------------------------------------------


def _keys(*parts: tuple[str, Sequence[Key]]) -> str:
    """A block of help that lists settings."""
    lines = ["\b", "Settings (--set KEY=VALUE), the first value holds without them:"]
    for beginning, keys in parts:
        for key in keys:
            lines.append(f"  {beginning}{key.name}={key.takes}")
            lines.append(f"      {key.does}")
    return "\n".join(lines)


def _examples(*lines: str) -> str:
    return "\n".join(["\b", "Examples:", *(f"  {line}" for line in lines)])


def _kinds() -> str:
    rows = [f"  {choice.kind:<13} {choice.title}: {choice.note}" for choice in target_kinds()]
    return "\n".join(["\b", "Kinds (--as KIND):", *rows])


def _help(first: str, *blocks: str) -> str:
    return "\n\n".join((first, *blocks, _EXIT))


_Files = Annotated[
    list[str] | None,
    typer.Argument(metavar="FILE", help="Files to read; - for standard input.", show_default=False),
]
_File = Annotated[
    str, typer.Argument(metavar="FILE", help="The file to read; - for standard input.", show_default=False)
]
_Out = Annotated[
    str, typer.Option("--out", "-o", metavar="OUT", help="The file to write; - for standard output.")
]
_As = Annotated[str, typer.Option("--as", metavar="KIND", help="What to write; else by the ending of OUT.")]
_Set = Annotated[
    list[str] | None,
    typer.Option("--set", metavar="KEY=VALUE", help="A setting, see above; may be given several times."),
]
_Recipe = Annotated[
    list[str] | None, typer.Option("--recipe", metavar="NAME", help="A saved set of settings.")
]
_Force = Annotated[bool, typer.Option("--force", help="Replace files that are there already.")]
_Json = Annotated[bool, typer.Option("--json", help="Print one JSON object.")]
_Seconds = Annotated[
    int,
    typer.Option(
        "--limit-seconds", metavar="N", min=0, show_default=False,
        help="End it after so long; from the size of the file without it.",
    ),
]  # fmt: skip
_Megabytes = Annotated[
    int,
    typer.Option(
        "--limit-memory", metavar="MB", min=0, show_default=False,
        help="End it when it needs more; from the size of the file without it.",
    ),
]  # fmt: skip
_Verbose = Annotated[bool, typer.Option("--verbose", help="Show the log on standard error.")]


def _pairs(given: list[str] | None) -> dict[str, str]:
    """KEY=VALUE pairs. Raises UsageError for any other form."""
    settings = {}
    for pair in given or ():
        key, equals, value = pair.partition("=")
        if not equals:
            raise UsageError(f"--set wants KEY=VALUE (got {pair!r})")
        settings[key] = value
    return settings


def _received(names: list[str] | None, values: dict[str, str]) -> dict[str, str]:
    """Receive settings of recipes, and on top of them those given."""
    kept: dict[str, str] = {}
    for name in names or ():
        kept |= dict(recipe_named(name, "receive").values)
    return {**kept, **values}


def _print(
    result: Any, as_json: bool, view: Callable[[Any], Iterable[Any]], *, aside: bool = False
) -> None:
    """Print an object, or what people want to know of it; aside where standard output holds the file."""
    if as_json:
        print(json.dumps(result))
        return
    from gondrel.cli.console import console

    shown = console(stderr=aside)
    for part in view(result):
        shown.print(part)


def _several(
    files: list[str] | None, as_json: bool, view: Callable[[Any], Iterable[Any]],
    ask: Callable[[str], dict[str, Any]], grave: Callable[[dict[str, Any]], bool],
    *, first: Callable[[str], Iterable[Any]] | None = None,
) -> int:  # fmt: skip
    """Do one thing with each of several files; a file that fails does not stop the rest.

    Args:
        first: what people are told of a file while the worker is still loading the kernel.
    """
    status, results = 0, []
    with given_files(list(files or ())) as paths:
        for path in paths:
            try:
                checked_file(path)
                if first is not None and not as_json:
                    _print(path, False, first)
                result = ask(path)
            except GondrelError as error:
                if len(paths) == 1:
                    raise
                print(f"gondrel: {error}", file=sys.stderr)
                results.append({"file": {"path": path}, "error": error.as_dict()})
                status = 2
                continue
            results.append(result)
            status = max(status, int(grave(result)))
            if not as_json:
                _print(result, False, view)
    if as_json:
        _print(results[0] if len(results) == 1 else {"files": results}, True, view)
    return status


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
    help=_help(
        "Say what is in a file, read raw: products, bodies and their figures, structure, what remains.",
        _examples(
            "gondrel inspect gear.stp",
            "gondrel inspect *.x_t --json",
            "zcat gear.stp.gz | gondrel inspect -",
            "gondrel inspect part.stl --set unit=inch",
        ),
        _keys(("", RECEIVE_KEYS)),
    ),
)
def inspect(
    files: _Files = None,
    settings: _Set = None,
    recipe: _Recipe = None,
    as_json: _Json = False,
    limit_seconds: _Seconds = 0,
    limit_memory: _Megabytes = 0,
    verbose: _Verbose = False,
) -> int:
    from gondrel.cli.text import card_view, inspect_view
    from gondrel.core.service.cards import file_card

    options = receive_options_from(_received(recipe, _pairs(settings)))
    limits = (limit_seconds, limit_memory)

    def ask(path: str) -> dict[str, Any]:
        return run_command("inspect_command", (path, options), f"reading {Path(path).name}", [path], limits)

    def grave(result: dict[str, Any]) -> bool:
        return bool(result["missing_files"]) or any(note["code"] in GRAVE for note in result["notes"])

    return _several(files, as_json, inspect_view, ask, grave, first=lambda path: card_view(file_card(path)))


@app.command(
    short_help="Find what is not sound in a file.",
    help=_help(
        "Find what is not sound in a file: open or crossing faces, gaps, doubtful sizes, names, overlaps. "
        "Every check is explained in docs/checks.md.",
        _examples("gondrel check gear.stp", "gondrel check gear.stp --set gap=0.001 --json"),
        _keys(("", CHECK_KEYS), ("receive.", RECEIVE_KEYS)),
    ),
)
def check(
    files: _Files = None,
    settings: _Set = None,
    recipe: _Recipe = None,
    as_json: _Json = False,
    limit_seconds: _Seconds = 0,
    limit_memory: _Megabytes = 0,
    verbose: _Verbose = False,
) -> int:
    from gondrel.cli.text import check_view

    received, own = parted(_pairs(settings), "receive.")
    options, limits = receive_options_from(_received(recipe, received)), limits_from(own)

    def ask(path: str) -> dict[str, Any]:
        args = (path, options, limits)
        return run_command(
            "check_command", args, f"checking {Path(path).name}", [path], (limit_seconds, limit_memory)
        )

    return _several(
        files, as_json, check_view, ask, lambda r: bool(r["counts"]["fault"] or r["counts"]["doubt"])
    )


@app.command(
    short_help="Mend a file and write it.",
    help=_help(
        "Mend what was found and write it. Each mend is tried, measured before and after, and refused "
        "where it would make things worse. Every mend is explained in docs/mends.md.",
        _examples(
            "gondrel mend gear.stp --out mended.stp --safe",
            "gondrel mend gear.stp --out mended.x_t --only R108 --set within=0.01",
        ),
        _kinds(),
        _keys(("", MEND_KEYS), ("check.", CHECK_KEYS), ("receive.", RECEIVE_KEYS), ("", SEND_KEYS)),
    ),
)
def mend(
    file: _File,
    out: _Out,
    kind: _As = "",
    only: Annotated[
        list[str] | None, typer.Option("--only", metavar="CODE", help="A mend, or the check it is for.")
    ] = None,
    safe: Annotated[bool, typer.Option("--safe", help="Only what keeps the shape that is there.")] = False,
    settings: _Set = None,
    force: _Force = False,
    as_json: _Json = False,
    limit_seconds: _Seconds = 0,
    limit_memory: _Megabytes = 0,
    verbose: _Verbose = False,
) -> int:
    from gondrel.cli.text import mend_view

    received, checked, own = parted(_pairs(settings), "receive.", "check.")
    names = {key.name for key in MEND_KEYS}
    mending = mend_options_from({k: v for k, v in own.items() if k in names})
    sending = _sending({k: v for k, v in own.items() if k not in names}, force)
    wish = MendWish(tuple(only or ()), safe)
    options, limits = receive_options_from(received), limits_from(checked)

    def args(path: str, place: str, chosen: str) -> tuple[Any, ...]:
        return (path, place, chosen, wish, options, limits, mending, sending)

    result = _written("mend_command", args, "mending", file, out, kind, sending, as_json, mend_view,
                      (limit_seconds, limit_memory))  # fmt: skip
    after = result["check_after"]
    return int(bool(after["fault"] or after["doubt"] or result["proof"]["unannounced_losses"]))


@app.command(
    short_help="Write a file in another form and prove it.",
    help=_help(
        "Write a file in another form: say what will be lost or altered, read it back raw and prove it.",
        _examples(
            "gondrel send gear.stp --out gear.x_t",
            "gondrel send gear.stp --out gear.stp --as step-ap214 --set unit=inch",
            "gondrel send gear.stp --as xt-text --forecast-only",
            "gondrel send gear.stp --as step-ap242 --out - | gzip > gear.stp.gz",
        ),
        _kinds(),
        _keys(("", SEND_KEYS), ("receive.", RECEIVE_KEYS)),
    ),
)
def send(
    file: _File,
    out: _Out = "",
    kind: _As = "",
    settings: _Set = None,
    recipe: _Recipe = None,
    forecast_only: Annotated[
        bool, typer.Option("--forecast-only", help="Write nothing; say what would be lost or altered.")
    ] = False,
    force: _Force = False,
    as_json: _Json = False,
    limit_seconds: _Seconds = 0,
    limit_memory: _Megabytes = 0,
    verbose: _Verbose = False,
) -> int:
    from gondrel.cli.text import forecast_view, sent_view

    received, own = parted(_with_recipes(recipe, _pairs(settings)), "receive.")
    sending, options = _sending(own, force), receive_options_from(received)
    limits = (limit_seconds, limit_memory)
    if forecast_only:
        chosen = _kind(out, kind)
        with given_files([file]) as (path,):
            checked_file(path)
            args = (path, out, chosen, options, sending, True)
            result = run_command("send_command", args, f"reading {Path(path).name}", [path], limits)
            _print(result, as_json, forecast_view)
        return 0

    def all_args(path: str, place: str, chosen: str) -> tuple[Any, ...]:
        return (path, place, chosen, options, sending, False)

    result = _written(
        "send_command", all_args, "sending", file, out, kind, sending, as_json, sent_view, limits
    )
    return int(bool(result["proof"]["unannounced_losses"] or result["remaining_faults"]))


@app.command(
    short_help="Give a file structure, or run saved steps on it.",
    help=_help(
        "Find out which bodies are the same part and what belongs together, or run the steps of a saved "
        "arrangement. Without --out nothing is written: the proposal is shown, and what came of the steps.",
        _examples(
            "gondrel arrange flat.stp --recover",
            "gondrel arrange flat.stp --recover --out gear.stp --as step-ap242",
            "gondrel arrange gear.stp --steps for-founder.toml --out case.x_t",
        ),
        _kinds(),
        _keys(("", SEND_KEYS), ("receive.", RECEIVE_KEYS)),
    ),
)
def arrange(
    file: _File,
    recover: Annotated[
        bool, typer.Option("--recover", help="Propose structure; with --out take it.")
    ] = False,
    steps: Annotated[
        str, typer.Option("--steps", metavar="STEPS", help="A steps file, see docs/steps.md.")
    ] = "",
    out: _Out = "",
    kind: _As = "",
    settings: _Set = None,
    recipe: _Recipe = None,
    force: _Force = False,
    as_json: _Json = False,
    limit_seconds: _Seconds = 0,
    limit_memory: _Megabytes = 0,
    verbose: _Verbose = False,
) -> int:
    from gondrel.cli.arranged import arranged_view

    if not recover and not steps:
        raise UsageError("nothing is asked for", hint="--recover, --steps STEPS, or both")
    if steps:
        checked_file(steps)
    received, own = parted(_with_recipes(recipe, _pairs(settings)), "receive.")
    sending, options = _sending(own, force), receive_options_from(received)
    limits = (limit_seconds, limit_memory)

    def all_args(path: str, place: str, chosen: str) -> tuple[Any, ...]:
        return (path, place, chosen, recover, steps, options, sending)

    if out:
        result = _written(
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
            _print(result, as_json, arranged_view)
    lost = bool(result["proof"] and result["proof"]["unannounced_losses"])
    return int(lost or any(step["outcome"] != "done" for step in result["steps"]))


@app.command(
    short_help="Compare what was meant with what came back.",
    help=_help(
        "Compare what was meant with what came back, thing by thing: nothing is lost unseen.",
        _examples("gondrel prove gear.stp returned.x_t", "gondrel prove gear.stp returned.x_t --json"),
    ),
)
def prove(
    meant: Annotated[str, typer.Argument(metavar="MEANT", help="What was meant; - for standard input.")],
    returned: Annotated[str, typer.Argument(metavar="RETURNED", help="What came back.")],
    as_json: _Json = False,
    limit_seconds: _Seconds = 0,
    limit_memory: _Megabytes = 0,
    verbose: _Verbose = False,
) -> int:
    from gondrel.cli.text import proof_view

    with given_files([meant, returned]) as (first, second):
        for path in (first, second):
            checked_file(path)
        doing = f"comparing {Path(first).name} with {Path(second).name}"
        limits = (limit_seconds, limit_memory)
        result = run_command("prove_command", (first, second), doing, [first, second], limits)
        _print(result, as_json, proof_view)
    return 0 if result["verdict"] == "carried" else 1


def _kind(out: str, kind: str) -> str:
    """The kind to write: as said, or as the ending says where it can stand for one only."""
    if kind:
        target(kind)  # says which there are when it is none
        return kind
    if not out or out == STREAM:
        raise UsageError(
            "--as is missing: what should be written?", hint=", ".join(c.kind for c in target_kinds())
        )
    return kind_of_suffix(out, first=False)


def _sending(values: dict[str, str], force: bool) -> SendSettings:
    """Send settings. Raises UsageError as settings_from does."""
    settings = settings_from(values)
    return replace(settings, force=force or settings.force)


def _with_recipes(names: list[str] | None, values: dict[str, str]) -> dict[str, str]:
    """Settings of recipes, of either purpose, and on top of them those given."""
    kept: dict[str, str] = {}
    for name in names or ():
        saved = {r.purpose: r for r in recipes() if r.name == name}
        if not saved:
            recipe_named(name, "send")  # says which there are
        for purpose, recipe in saved.items():
            beginning = "receive." if purpose == "receive" else ""
            kept.update({beginning + key: value for key, value in recipe.values.items()})
    return {**kept, **values}


def _written(
    name: str, args: Callable[[str, str, str], tuple[Any, ...]], doing: str, file: str, out: str, kind: str,
    settings: SendSettings, as_json: bool, view: Callable[[Any], Iterable[Any]], limits: Limits,
) -> dict[str, Any]:  # fmt: skip
    """Run a command that writes a file; what can be seen to before anything is read is seen to first."""
    if not out:
        raise UsageError(
            "--out is missing: where should the file go?", hint="a hyphen stands for standard output"
        )
    if out == STREAM and as_json:
        raise UsageError("--out - and --json would both be printed", hint="say a file, or leave one out")
    if name == "mend_command" and not kind and out != STREAM:
        kind = kind_of_suffix(out)
    kind = _kind(out, kind)
    form, chosen = target(kind)
    if out != STREAM and (warning := disagreement(out, kind)):
        print(f"gondrel: {warning}", file=sys.stderr)
    with given_files([file]) as (path,), taken_output(out, chosen.suffix) as place:
        checked_file(path)
        if settings.files == "one" or not form.is_mesh:
            check_output(out, [path], force=settings.force)
        elif out == STREAM:
            raise UsageError("several files can't go to standard output", hint="say a folder with --out")
        result = run_command(name, args(path, place, kind), f"{doing} {Path(path).name}", [path], limits)
        for sent in result["sent"]:
            sent["path"] = STREAM if sent["path"] == place and out == STREAM else sent["path"]
        _print(result, as_json, view, aside=out == STREAM)
    return result
