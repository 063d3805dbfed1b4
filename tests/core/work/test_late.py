"""Modules that are loaded when they are needed."""

from __future__ import annotations

import subprocess
import sys

import pytest

from gondrel.core.work.late import late


def test_a_module_is_loaded_when_something_of_it_is_asked_for() -> None:
    code = (
        "import sys\n"
        "from gondrel.core.work.late import late\n"
        "colours = late('colorsys')\n"
        "assert 'colorsys' not in sys.modules\n"
        "assert colours.rgb_to_hsv(1, 1, 1) == (0.0, 0.0, 1)\n"
        "assert 'colorsys' in sys.modules\n"
    )
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0


def test_what_is_not_there_is_said_on_first_use() -> None:
    nothing = late("no_such_module_at_all")
    with pytest.raises(ModuleNotFoundError):
        _ = nothing.anything


def test_reading_step_loads_scipy_only_when_it_needs_it() -> None:
    code = (
        "import sys, gondrel.core.formats.step.read\n"
        "sys.exit(any(m.startswith('scipy') for m in sys.modules))"
    )
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0
