"""Writes the list of steps in docs/steps.md from the steps themselves.

Run: .venv/bin/python scripts/steps_page.py
"""

from __future__ import annotations

import sys
from dataclasses import MISSING, fields
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parent.parent))

from gondrel.core.arrange.steps.base import Kind
from gondrel.core.arrange.steps.file import ALL_KINDS

PAGE = Path(__file__).parent.parent / "docs" / "steps.md"
MARK = "<!-- steps -->"


def described(kind: Kind) -> str:
    """A step with its values and what each is without being said."""
    told = " ".join((kind.of.__doc__ or "").split())
    names = []
    for each in fields(kind.of):  # type: ignore[arg-type]
        usual = "" if each.default is MISSING else f" = {_toml(each.default)}"
        names.append(f"`{each.name}{usual}`")
    listed = f" {', '.join(names)}." if names else ""
    return f"**{kind.key}**: {kind.title}.{listed} {told}".rstrip()


def _toml(value: Any) -> str:
    if isinstance(value, bool):
        return str(value).lower()
    if value is None or value == ():
        return "none"
    return str(list(value)) if isinstance(value, tuple) else repr(value).replace("'", '"')


def page(text: str) -> str:
    """The page with the list made anew."""
    head, _, rest = text.partition(MARK)
    _, _, tail = rest.partition(MARK)
    listed = "\n\n".join(described(kind) for kind in ALL_KINDS.values())
    return f"{head}{MARK}\n\n{listed}\n\n{MARK}{tail}"


if __name__ == "__main__":
    PAGE.write_text(page(PAGE.read_text("utf-8")), "utf-8")
