"""The program: without a subcommand it starts the application, else it does what it is told."""

from __future__ import annotations

import argparse
import json
import os
import signal
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any, NoReturn

from gondrel import __version__
from gondrel.cli.text import check_lines, forecast_lines, inspect_lines, mend_lines, proof_lines
from gondrel.core.errors import GondrelError, UsageError
from gondrel.core.model.notes import GRAVE
from gondrel.core.work import Cancelled
from gondrel.core.work.files import private_folder, sweep
from gondrel.jobs.limits import limits_for
from gondrel.jobs.messages import Job, Progressed
from gondrel.jobs.worker import Worker, run_blocking

__all__ = ["main"]

SUBCOMMANDS = ("inspect", "check", "mend", "send", "prove")
_COMMANDS = "gondrel.core.service.commands"


class _Parser(argparse.ArgumentParser):
    """A parser that raises instead of printing its own pages."""

    def error(self, message: str) -> NoReturn:
        raise UsageError(message)


def _parser() -> _Parser:
    parser = _Parser(prog="gondrel", description="Move models between systems and prove what came across.")
    parser.add_argument("--version", action="version", version=f"gondrel {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)
    inspect = commands.add_parser("inspect", help="say what is in a file")
    inspect.add_argument("file")
    inspect.add_argument("--set", dest="settings", action="append", default=[], metavar="KEY=VALUE")
    inspect.add_argument("--recipe", default="", help="a saved set of receive settings")
    check = commands.add_parser("check", help="find what is not sound in a file")
    check.add_argument("file")
    check.add_argument("--set", dest="settings", action="append", default=[], metavar="KEY=VALUE")
    check.add_argument("--recipe", default="", help="a saved set of receive settings")
    mend = commands.add_parser("mend", help="mend a file and write it")
    mend.add_argument("file")
    mend.add_argument("--out", required=True)
    mend.add_argument("--only", action="append", default=[], metavar="CODE")
    mend.add_argument("--safe", action="store_true", help="only what keeps the shape that is there")
    mend.add_argument("--set", dest="settings", action="append", default=[], metavar="KEY=VALUE")
    send = commands.add_parser("send", help="write a file in another form and prove it")
    send.add_argument("file")
    send.add_argument("--out", default="")
    send.add_argument("--as", dest="kind", required=True)
    send.add_argument("--set", dest="settings", action="append", default=[], metavar="KEY=VALUE")
    send.add_argument("--recipe", dest="recipes", action="append", default=[],
                      help="a saved set of receive or send settings")  # fmt: skip
    send.add_argument("--forecast-only", action="store_true")
    prove = commands.add_parser("prove", help="compare what was meant with what came back")
    prove.add_argument("meant")
    prove.add_argument("returned")
    for command in (mend, send):
        command.add_argument("--force", action="store_true", help="replace files that are there already")
    for command in (inspect, check, mend, send, prove):
        command.add_argument("--json", action="store_true", help="print one JSON object")
        command.add_argument(
            "--limit-seconds",
            type=int,
            default=0,
            metavar="N",
            help="end it after so long; from the size of the file when not given",
        )
        command.add_argument("--limit-memory", type=int, default=0, metavar="MB",
                             help="end it when it needs more")  # fmt: skip
    return parser


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the program; returns the exit status of the contract."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    if not given or given[0] not in (*SUBCOMMANDS, "--version", "--help", "-h"):
        if signal.getsignal(signal.SIGINT) is signal.default_int_handler:
            signal.signal(signal.SIGINT, signal.SIG_DFL)  # as an exception it would be lost amid imports
        from gondrel.ui.shell.application import run

        return run(given)
    as_json = "--json" in given
    sweep()
    try:
        status = _command(_parser().parse_args(given))
        sys.stdout.flush()
        return status
    except GondrelError as error:
        if as_json:
            print(json.dumps({"error": error.as_dict()}))
        print(f"gondrel: {error}", file=sys.stderr)
        return 2
    except Cancelled:
        print("gondrel: cancelled; nothing was written", file=sys.stderr)
        return 2
    except BrokenPipeError:  # whoever read it has read enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 128 + signal.SIGPIPE


def _command(options: argparse.Namespace) -> int:
    if options.command == "inspect":
        args = (options.file, _pairs(options.settings), options.recipe)
        job = _job("inspect_command", args, f"reading {Path(options.file).name}")
        result = _run(options, job)
        _print(options, result, inspect_lines)
        return 1 if result["missing_files"] or _has_grave(result["notes"]) else 0
    if options.command == "check":
        args = (options.file, _pairs(options.settings), options.recipe)
        result = _run(options, _job("check_command", args, f"checking {Path(options.file).name}"))
        _print(options, result, check_lines)
        return 1 if result["counts"]["fault"] or result["counts"]["doubt"] else 0
    if options.command == "mend":
        args = (options.file, options.out, options.only, options.safe, _forced(options))
        result = _run(options, _job("mend_command", args, f"mending {Path(options.file).name}"))
        _print(options, result, mend_lines)
        after = result["check_after"]
        lost = result["proof"]["unannounced_losses"]
        return 1 if after["fault"] or after["doubt"] or lost else 0
    if options.command == "prove":
        files = (options.meant, options.returned)
        result = _run(options, _job("prove_command", files, f"comparing {files[0]} with {files[1]}"))
        _print(options, result, proof_lines)
        return 0 if result["verdict"] == "carried" else 1
    return _send(options)


def _send(options: argparse.Namespace) -> int:
    if not options.out and not options.forecast_only:
        raise UsageError("--out is missing: where should the file go?")
    settings = _forced(options)
    args = (options.file, options.out, options.kind, settings, options.recipes, options.forecast_only)
    result = _run(options, _job("send_command", args, f"sending {Path(options.file).name}"))
    if options.forecast_only:
        _print(options, result, forecast_lines)
        return 0
    _print(options, result, lambda r: [*forecast_lines(r), *proof_lines(r["proof"]), *_fault_lines(r)])
    return 1 if result["proof"]["unannounced_losses"] or result["remaining_faults"] else 0


def _fault_lines(result: dict[str, Any]) -> list[str]:
    """What was wrong with the file that was read, and still is in the one that was sent."""
    return [f"  remaining fault: {n['where']}: {n['text']}" for n in result["remaining_faults"]]


def _has_grave(notes: list[dict[str, Any]]) -> bool:
    """Whether something of the file is missing or is not what it meant."""
    return any(note["code"] in GRAVE for note in notes)


def _forced(options: argparse.Namespace) -> dict[str, str]:
    """The settings, with whether files may be replaced."""
    return {**_pairs(options.settings), **({"force": "yes"} if options.force else {})}


def _pairs(given: list[str]) -> dict[str, str]:
    """KEY=VALUE pairs. Raises UsageError for any other form."""
    settings = {}
    for pair in given:
        key, equals, value = pair.partition("=")
        if not equals:
            raise UsageError(f"--set wants KEY=VALUE (got {pair!r})")
        settings[key] = value
    return settings


def _job(function: str, args: tuple[Any, ...], doing: str) -> tuple[str, tuple[Any, ...], str]:
    return f"{_COMMANDS}:{function}", args, doing


def _run(options: argparse.Namespace, described: tuple[str, tuple[Any, ...], str]) -> dict[str, Any]:
    function, args, doing = described
    signal.signal(signal.SIGTERM, _interrupt)
    worker = Worker("command")
    try:
        with private_folder() as store:
            seconds, megabytes = limits_for(a for a in args if isinstance(a, str))
            job = Job(
                function,
                (*args, str(store)),
                doing=doing,
                seconds=options.limit_seconds or seconds,
                megabytes=options.limit_memory or megabytes,
            )
            result: dict[str, Any] = run_blocking(worker, job, _show_progress)
    finally:
        worker.close()
        if sys.stderr.isatty():
            print("\r\033[K", end="", file=sys.stderr)
    return result


def _interrupt(number: int, frame: object) -> None:
    """A request to end is a cancel: everything is put away first."""
    raise KeyboardInterrupt


def _show_progress(message: Any) -> None:
    if isinstance(message, Progressed) and sys.stderr.isatty():
        done = round(message.share * 24)
        bar = "#" * done + "." * (24 - done)
        print(
            f"\r\033[K{bar} {message.share:4.0%} {message.text}",
            end="",
            file=sys.stderr,
            flush=True,
        )


def _print(
    options: argparse.Namespace,
    result: dict[str, Any],
    lines: Callable[[dict[str, Any]], list[str]],
) -> None:
    print(json.dumps(result) if options.json else "\n".join(lines(result)))


if __name__ == "__main__":
    sys.exit(main())
