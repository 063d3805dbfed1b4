"""The program's commands: what they share, from options to writing a file."""

from __future__ import annotations

import json
import sys
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Annotated, Any

import typer

from gondrel.cli.calls import Limits, run_command
from gondrel.cli.places import STREAM, check_output, given_files, taken_output
from gondrel.core.errors import GondrelError, UsageError
from gondrel.core.formats.registry import target
from gondrel.core.recipients.card import Card
from gondrel.core.service.catalogue import disagreement, kind_of_suffix, target_kinds
from gondrel.core.service.recipes import KIND, recipe_named, recipes
from gondrel.core.service.settings import (
    Key,
    SendSettings,
    settings_from,
)
from gondrel.core.work.files import checked_file

__all__ = [
    "AsOption",
    "ForceOption",
    "JsonOption",
    "MegabytesOption",
    "OneFile",
    "OutOption",
    "RecipeOption",
    "RecipientOption",
    "SecondsOption",
    "SetOption",
    "SeveralFiles",
    "VerboseOption",
    "WrittenOption",
    "app",
    "each_file",
    "examples_help",
    "help_of",
    "keys_help",
    "kind_for",
    "kind_toward",
    "kinds_help",
    "pairs_of",
    "received_values",
    "sending_settings",
    "show",
    "with_recipes",
    "written",
]

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


def keys_help(*parts: tuple[str, Sequence[Key]]) -> str:
    """A block of help that lists settings."""
    lines = ["\b", "Settings (--set KEY=VALUE), the first value holds without them:"]
    for beginning, keys in parts:
        for key in keys:
            lines.append(f"  {beginning}{key.name}={key.takes}")
            lines.append(f"      {key.does}")
    return "\n".join(lines)


def examples_help(*lines: str) -> str:
    """A block of help with examples."""
    return "\n".join(["\b", "Examples:", *(f"  {line}" for line in lines)])


def kinds_help() -> str:
    """A block of help with what can be written."""
    rows = [f"  {choice.kind:<13} {choice.title}: {choice.note}" for choice in target_kinds()]
    return "\n".join(["\b", "Kinds (--as KIND):", *rows])


def help_of(first: str, *blocks: str) -> str:
    """The help of a command: what it does, further blocks, the exit status."""
    return "\n\n".join((first, *blocks, _EXIT))


SeveralFiles = Annotated[
    list[str] | None,
    typer.Argument(metavar="FILE", help="Files to read; - for standard input.", show_default=False),
]
OneFile = Annotated[
    str, typer.Argument(metavar="FILE", help="The file to read; - for standard input.", show_default=False)
]
OutOption = Annotated[
    str, typer.Option("--out", "-o", metavar="OUT", help="The file to write; - for standard output.")
]
WrittenOption = Annotated[str, typer.Option("--out", "-o", metavar="OUT", help="The file to write.")]
AsOption = Annotated[
    str, typer.Option("--as", metavar="KIND", help="What to write; else by the ending of OUT.")
]
SetOption = Annotated[
    list[str] | None,
    typer.Option("--set", metavar="KEY=VALUE", help="A setting, see above; may be given several times."),
]
RecipeOption = Annotated[
    list[str] | None, typer.Option("--recipe", metavar="NAME", help="A saved set of settings.")
]
RecipientOption = Annotated[
    str, typer.Option("--recipient", metavar="CARD", help="Who it is for, by their card.")
]
ForceOption = Annotated[bool, typer.Option("--force", help="Replace files that are there already.")]
JsonOption = Annotated[bool, typer.Option("--json", help="Print one JSON object.")]
SecondsOption = Annotated[
    int,
    typer.Option(
        "--limit-seconds", metavar="N", min=0, show_default=False,
        help="End it after so long; from the size of the file without it.",
    ),
]  # fmt: skip
MegabytesOption = Annotated[
    int,
    typer.Option(
        "--limit-memory", metavar="MB", min=0, show_default=False,
        help="End it when it needs more; from the size of the file without it.",
    ),
]  # fmt: skip
VerboseOption = Annotated[bool, typer.Option("--verbose", help="Show the log on standard error.")]


def pairs_of(given: list[str] | None) -> dict[str, str]:
    """KEY=VALUE pairs. Raises UsageError for any other form."""
    settings = {}
    for pair in given or ():
        key, equals, value = pair.partition("=")
        if not equals:
            raise UsageError(f"--set wants KEY=VALUE (got {pair!r})")
        settings[key] = value
    return settings


def received_values(names: list[str] | None, values: dict[str, str]) -> dict[str, str]:
    """Receive settings of recipes, and on top of them those given."""
    kept: dict[str, str] = {}
    for name in names or ():
        kept |= dict(recipe_named(name, "receive").values)
    return {**kept, **values}


def show(result: Any, as_json: bool, view: Callable[[Any], Iterable[Any]], *, aside: bool = False) -> None:
    """Print an object, or what people want to know of it; aside where standard output holds the file."""
    if as_json:
        print(json.dumps(result))
        return
    from gondrel.cli.console import console

    shown = console(stderr=aside)
    for part in view(result):
        shown.print(part)


def each_file(
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
                    show(path, False, first)
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
                show(result, False, view)
    if as_json:
        show(results[0] if len(results) == 1 else {"files": results}, True, view)
    return status


def kind_for(out: str, kind: str) -> str:
    """The kind to write: as said, or as the ending says where it can stand for one only."""
    if kind:
        target(kind)  # says which there are when it is none
        return kind
    if not out or out == STREAM:
        raise UsageError(
            "--as is missing: what should be written?", hint=", ".join(c.kind for c in target_kinds())
        )
    return kind_of_suffix(out, first=False)


def kind_toward(card: Card | None, kind: str, values: Mapping[str, str]) -> str:
    """The kind to write: as said, else as a recipe has it, else what a recipient likes best; empty where
    nothing says one.

    Args:
        values: the send settings.
    """
    best = card.reads.kinds[0] if card is not None and card.reads.kinds else ""
    return kind or values.get(KIND, "") or best


def sending_settings(values: dict[str, str], force: bool) -> SendSettings:
    """Send settings. Raises UsageError as settings_from does."""
    settings = settings_from({key: value for key, value in values.items() if key != KIND})
    return replace(settings, force=force or settings.force)


def with_recipes(names: list[str] | None, values: dict[str, str]) -> dict[str, str]:
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


def written(
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
    kind = kind_for(out, kind)
    _, chosen = target(kind)
    if out != STREAM and (warning := disagreement(out, kind)):
        print(f"gondrel: {warning}", file=sys.stderr)
    with given_files([file]) as (path,), taken_output(out, chosen.suffix) as place:
        checked_file(path)
        if settings.files != "each":
            check_output(out, [path], force=settings.force)
        elif out == STREAM:
            raise UsageError("several files can't go to standard output", hint="say a folder with --out")
        result = run_command(name, args(path, place, kind), f"{doing} {Path(path).name}", [path], limits)
        for sent in result["sent"]:
            sent["path"] = STREAM if sent["path"] == place and out == STREAM else sent["path"]
        show(result, as_json, view, aside=out == STREAM)
    return result
