"""The program: without a subcommand it starts the application, else it does what it is told.

Exit status: 0 all is well; 1 findings or losses to look at; 2 what can't be read, written or was asked
wrongly; 130 after Ctrl-C, 143 after SIGTERM, 141 when whoever reads the output has closed it.
"""

from __future__ import annotations

import json
import os
import signal
import sys
from collections.abc import Sequence
from difflib import get_close_matches
from pathlib import Path

from gondrel.cli.calls import EndedBy, heed_signals, prepare_worker, put_worker_away
from gondrel.core.errors import GondrelError, UsageError
from gondrel.core.work.files import sweep
from gondrel.core.work.log import start_log

__all__ = ["SUBCOMMANDS", "main"]

SUBCOMMANDS = ("inspect", "check", "mend", "arrange", "send", "prove", "compare", "measure",
               "features", "profile", "draw", "picture", "batch", "rehearse",
               "recipients", "report", "register", "crate", "gather")  # fmt: skip
_ALONE = ("batch",)
"""Commands that start workers of their own."""

_OPTIONS = ("--version", "--help", "-h", "--install-completion", "--show-completion")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the program; returns the exit status."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    completes = "_GONDREL_COMPLETE" in os.environ
    if not completes and (not given or given[0] not in (*SUBCOMMANDS, *_OPTIONS)):
        return _window(given)
    if "--verbose" in given:
        os.environ["GONDREL_WORKER_LOG"] = "yes"  # the worker says on standard error what it logs
    start_log(verbose="--verbose" in given)
    try:
        if given[:1] and given[0] in SUBCOMMANDS and not {"--help", "-h"} & set(given):
            if given[0] in _ALONE:
                heed_signals()
            else:
                prepare_worker()  # it loads the kernel while the arguments are looked at
        sweep()
        from gondrel.cli.app import run

        status = run(given)
        sys.stdout.flush()
        return status
    except GondrelError as error:
        if "--json" in given:
            print(json.dumps({"error": error.as_dict()}))
        print(f"gondrel: {error}", file=sys.stderr)
        return 2
    except (EndedBy, KeyboardInterrupt) as end:
        what = "what was done is not done again" if given[0] in _ALONE else "nothing was written"
        print(f"gondrel: ended; {what}", file=sys.stderr)
        return 128 + (end.number if isinstance(end, EndedBy) else signal.SIGINT)
    except BrokenPipeError:  # whoever read it has read enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 128 + signal.SIGPIPE
    finally:
        put_worker_away()


def _window(given: list[str]) -> int:
    """Start the application with files, unless the first argument is a command spelled otherwise."""
    first = given[0] if given else ""
    if first and not first.startswith("-") and not Path(first).exists() and "." not in first:
        near = get_close_matches(first, SUBCOMMANDS, 1)
        hint = f"did you mean {near[0]}?" if near else f"commands are {', '.join(SUBCOMMANDS)}"
        error = UsageError(f"there is no command and no file {first!r}", hint=hint)
        print(f"gondrel: {error}", file=sys.stderr)
        return 2
    if signal.getsignal(signal.SIGINT) is signal.default_int_handler:
        signal.signal(signal.SIGINT, signal.SIG_DFL)  # as an exception it would be lost amid imports
    try:
        from gondrel.ui.shell.application import run
    except ModuleNotFoundError as error:
        if error.name is None or error.name.partition(".")[0] not in ("PySide6", "vtkmodules"):
            raise
        print(
            f"gondrel: the window needs {error.name.partition('.')[0]}, which is not installed "
            "(pip install 'gondrel[gui]'); the commands work without it",
            file=sys.stderr,
        )
        return 2
    return run(given)


if __name__ == "__main__":
    sys.exit(main())
