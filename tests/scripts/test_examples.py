"""The examples of README and docs are run, and print what the pages say they do."""

from __future__ import annotations

import os
import re
import subprocess
import sys
from pathlib import Path

import pytest

from tests.conftest import ROOT

pytestmark = pytest.mark.slow

PAGES = ("README.md", "docs/command-line.md")
_BLOCK = re.compile(r"^```console\n(.*?)^```", re.MULTILINE | re.DOTALL)


def examples(page: str) -> list[tuple[str, list[str]]]:
    """Each command of a page with the lines it is said to print."""
    found: list[tuple[str, list[str]]] = []
    for block in _BLOCK.findall((ROOT / page).read_text("utf-8")):
        for line in block.splitlines():
            if line.startswith("$ "):
                found.append((line[2:], []))
            else:
                found[-1][1].append(line)
    return found


def fits(said: list[str], printed: list[str]) -> bool:
    """Whether lines are as said; three points stand for the rest of a line, or for any lines."""
    if not said:
        return not printed
    if said[0] == "...":
        return any(fits(said[1:], printed[n:]) for n in range(len(printed) + 1))
    if not printed:
        return False
    head = said[0].removesuffix("...")
    same = printed[0].rstrip() == head if head == said[0] else printed[0].startswith(head)
    return same and fits(said[1:], printed[1:])


@pytest.mark.parametrize("page", PAGES)
def test_the_examples_print_what_the_page_says(page, tmp_path) -> None:
    bin_folder = tmp_path / "bin"
    bin_folder.mkdir()
    for name, module in (("gondrel", "-m gondrel "), ("python", "")):
        script = bin_folder / name
        script.write_text(f'#!/bin/sh\nexec "{sys.executable}" {module}"$@"\n')
        script.chmod(0o755)
    place = tmp_path / "work"
    place.mkdir()
    path = os.pathsep.join((str(bin_folder), str(Path(sys.executable).parent), os.environ["PATH"]))
    environment = {**os.environ, "PATH": path, "PYTHONPATH": str(ROOT), "LC_ALL": "C.UTF-8"}
    assert examples(page)
    for command, said in examples(page):
        done = subprocess.run(
            ["bash", "-c", command], cwd=place, env=environment, text=True, check=False,
            stdout=subprocess.PIPE, stderr=subprocess.STDOUT,
        )  # fmt: skip
        assert fits(said, done.stdout.splitlines()), f"{command}\n{done.stdout}"


@pytest.mark.parametrize(
    "page", [p.relative_to(ROOT).as_posix() for p in sorted(ROOT.glob("docs/*.md"))] + ["README.md"]
)
def test_the_links_of_a_page_lead_somewhere(page) -> None:
    text = (ROOT / page).read_text("utf-8")
    missing = [
        link
        for link in re.findall(r"\]\(([^)#]+)", text)
        if not (ROOT / page).parent.joinpath(link).exists()
    ]
    assert missing == []


def test_an_example_that_prints_otherwise_is_found() -> None:
    assert fits(["a...", "..."], ["abc", "d"]) and fits([], [])
    assert not fits(["a"], ["b"]) and not fits(["a"], []) and not fits([], ["a"])
