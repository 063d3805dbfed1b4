"""Whole commands in one worker job each: typed values in, contract JSON objects out.

A command loads only what it needs, so that looking at a small file does not wait for all that is known of
structure, drawings and recipients.
"""

from __future__ import annotations

from importlib import import_module
from typing import Any

_HOME = "gondrel.core.service"
_WHERE = {
    "inspect_command": f"{_HOME}.commands.inspecting",
    "check_command": f"{_HOME}.commands.checking",
    "mend_command": f"{_HOME}.commands.checking",
    "send_command": f"{_HOME}.commands.sending",
    "rehearse_command": f"{_HOME}.commands.sending",
    "choose_command": f"{_HOME}.commands.sending",
    "report_command": f"{_HOME}.commands.sending",
    "arrange_command": f"{_HOME}.commands.arranging",
    "prove_command": f"{_HOME}.commands.proving",
    "compare_command": f"{_HOME}.compare",
    "draw_command": f"{_HOME}.draw",
    "picture_command": f"{_HOME}.draw",
    "features_command": f"{_HOME}.features",
    "measure_command": f"{_HOME}.measure",
    "profile_command": f"{_HOME}.profile",
}


def __getattr__(name: str) -> Any:
    """A command by its name. Raises AttributeError where there is none."""
    if name not in _WHERE:
        raise AttributeError(f"there is no command {name!r}")
    return getattr(import_module(_WHERE[name]), name)
