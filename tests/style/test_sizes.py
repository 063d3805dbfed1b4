"""Functions stay short and simple; how long modules are is reported, and no more."""

from __future__ import annotations

import ast
import json
import subprocess
import sys
from statistics import median

import pytest

from tests.conftest import ROOT
from tests.style.tree import modules

MOST_LINES, MOST_BRANCHES = 60, 15
LONG: dict[str, str] = {
    "gondrel.ui.shell.commands.commands_of": "a table of every command",
    "gondrel.ui.widgets.theme._style": "one style sheet",
    "gondrel.demo.planted._bodies": "a table of planted defects",
}
"""Functions that may be longer, each with why; the list is to shrink."""


def lengths(source: str, module: str) -> dict[str, int]:
    """Lines of every function, nested ones counted with the one they stand in."""
    tree = ast.parse(source)
    return {
        f"{module}.{node.name}": (node.end_lineno or node.lineno) - node.lineno + 1
        for node in ast.walk(tree)
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef)
    }


def _all_lengths() -> dict[str, int]:
    found: dict[str, int] = {}
    for module, path in modules().items():
        found |= lengths(path.read_text("utf-8"), module)
    return found


def test_functions_stay_short() -> None:
    assert {n: c for n, c in _all_lengths().items() if c > MOST_LINES and n not in LONG} == {}


def test_the_exceptions_are_needed() -> None:
    found = _all_lengths()
    assert [name for name in LONG if found.get(name, 0) <= MOST_LINES] == []


def test_a_long_function_is_found() -> None:
    source = "def long():\n" + "    pass\n" * MOST_LINES
    assert lengths(source, "m") == {"m.long": MOST_LINES + 1}


def complex_ones(*arguments: str, given: str | None = None) -> list[str]:
    most = f"lint.mccabe.max-complexity={MOST_BRANCHES}"
    command = [sys.executable, "-m", "ruff", "check", "--select", "C901", "--isolated", "--no-cache",
               "--config", most, "--output-format", "json"]  # fmt: skip
    done = subprocess.run([*command, *arguments], capture_output=True, text=True, check=False, input=given)
    return [each["message"] for each in json.loads(done.stdout)]


def test_functions_stay_simple() -> None:
    assert complex_ones(str(ROOT / "gondrel")) == []


def test_a_tangled_function_is_found() -> None:
    source = "def f(x):\n" + "".join(
        f"    if x == {n}:\n        return {n}\n" for n in range(MOST_BRANCHES)
    )
    assert complex_ones("-", given=source)


@pytest.mark.parametrize("kind", ["D100", "D101", "D102", "D103"])
def test_a_missing_docstring_is_found(kind) -> None:
    source = {
        "D100": "X = 1\n",
        "D101": '"""M."""\nclass A: ...\n',
        "D102": '"""M."""\nclass A:\n    """A."""\n    def f(self): ...\n',
        "D103": '"""M."""\ndef f(): ...\n',
    }[kind]
    command = [sys.executable, "-m", "ruff", "check", "--output-format", "json", "--stdin-filename",
               str(ROOT / "gondrel" / "core" / "made.py"), "-"]  # fmt: skip
    done = subprocess.run(command, capture_output=True, text=True, check=False, input=source, cwd=ROOT)
    assert kind in {each["code"] for each in json.loads(done.stdout)}


def test_lengths_of_modules_are_reported(record_property) -> None:
    sizes = {m: len(p.read_text("utf-8").splitlines()) for m, p in modules().items()}
    longest = max(sizes, key=sizes.__getitem__)
    record_property("median", median(sizes.values()))
    record_property("longest", f"{longest}: {sizes[longest]}")
    print(f"\nmodules: {len(sizes)}, median {median(sizes.values())} lines, {longest} {sizes[longest]}")
