"""Writes docs/gondrel.1, the manual page, from the commands' own help.

Run: .venv/bin/python scripts/manual.py
"""

from __future__ import annotations

import re
import sys
from pathlib import Path
from typing import Any

import typer

sys.path.insert(0, str(Path(__file__).parent.parent))

from gondrel import __version__
from gondrel.cli.app import app

PAGE = Path(__file__).parent.parent / "docs" / "gondrel.1"


def spelled(text: str) -> str:
    """Text as roff takes it."""
    text = text.replace("\\", "\\e").replace("-", "\\-")
    return re.sub(r"^([.'])", r"\\&\1", text, flags=re.MULTILINE)


def paragraphs(text: str) -> list[str]:
    """Help as paragraphs; blocks that begin with a backspace keep their lines."""
    lines = []
    for part in text.strip().split("\n\n"):
        if part.startswith("\b"):
            first, *rest = part.lstrip("\b\n").split("\n")
            lines += [".PP", spelled(first), ".nf", *(spelled(line) for line in rest), ".fi"]
        else:
            lines += [".PP", spelled(" ".join(part.split()))]
    return lines


def options_of(command: Any) -> list[str]:
    """The options of a command."""
    lines = []
    for each in command.params:
        if each.param_type_name != "option" or getattr(each, "hidden", False):
            continue
        value = "" if each.is_flag else f" {each.metavar or each.name.upper()}"
        names = ", ".join(sorted(each.opts, key=len, reverse=True))
        lines += [".TP", f"\\fB{spelled(names)}\\fR{spelled(value)}", spelled(each.help or "")]
    return lines


def arguments_of(command: Any) -> str:
    """The arguments of a command in one line."""
    found = [p for p in command.params if p.param_type_name == "argument"]
    return " ".join(f"{p.metavar or p.name.upper()}{'...' if p.nargs == -1 else ''}" for p in found)


def manual() -> str:
    """The page."""
    group: Any = typer.main.get_command(app)
    lines = [
        f'.TH GONDREL 1 "" "Gondrel {__version__}" "User commands"',
        ".SH NAME",
        "gondrel \\- move models between modelling systems and prove what came across",
        ".SH SYNOPSIS",
        ".nf",
        "gondrel [FILE ...]",
        "gondrel \\-\\-demo",
        *(f"gondrel {name} {spelled(arguments_of(c))} [OPTIONS]" for name, c in group.commands.items()),
        ".fi",
        ".SH DESCRIPTION",
        *paragraphs(group.help),
        ".SH OPTIONS",
        *options_of(group),
    ]
    for name, command in group.commands.items():
        text = command.help.rpartition("\b\nExit status:")[0]
        lines += [f".SH GONDREL {name.upper()}", *paragraphs(text), *options_of(command)]
    lines += [
        ".SH FILES",
        ".PP",
        spelled("~/.config/gondrel/ holds settings and recipes, ~/.local/state/gondrel/ what is kept "
                "between runs, with the log in log/gondrel.log; XDG_CONFIG_HOME and XDG_STATE_HOME move "
                "them."),
    ]  # fmt: skip
    return "\n".join(line.rstrip() for line in lines) + "\n"


if __name__ == "__main__":
    PAGE.write_text(manual(), "utf-8")
