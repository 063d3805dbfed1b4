"""Names of files that every system takes: safe, short enough, and none like another.

Source: what pathvalidate refuses on any of the usual systems (characters, reserved names, ends); letters
are spelt in ASCII, since exchange files name each other and not every reader follows anything else.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from functools import partial

from anyascii import anyascii
from pathvalidate import sanitize_filename

from gondrel.core.errors import UsageError
from gondrel.core.model.product import Product

__all__ = ["FIELDS", "check_rule", "file_names", "safe_name"]

FIELDS = ("number", "name", "revision", "file")
"""What a rule for file names may hold in curly brackets; file is the name of the file that is sent."""

_MOST = 100
"""Characters of a name without its ending: far below any system's limit, so that folders fit besides."""

_FIELD = re.compile(r"\{([^{}]*)\}")


def safe_name(text: str, *, most: int = _MOST) -> str:
    """A text as the name of a file or folder on any system; empty when nothing of it can stand."""
    plain = sanitize_filename(
        anyascii(text.replace("\u00d7", "x")), replacement_text="-", platform="universal"
    )
    return re.sub(r"\s+", " ", str(plain))[:most].strip(" .-")


def check_rule(rule: str) -> None:
    """Raise UsageError where a rule for file names has a field that there is not, or none."""
    named = _FIELD.findall(rule)
    if rule and (not named or any(each not in FIELDS for each in named)):
        known = ", ".join(f"{{{field}}}" for field in FIELDS)
        raise UsageError(f"{rule!r} is no rule for file names", hint=f"it is made of text and {known}")


def _said(said: Mapping[str, str], field: re.Match[str]) -> str:
    return said[field[1]]


def file_names(
    products: Iterable[Product], rule: str, *, file: str, suffix: str,
    folders: Mapping[str, str] | None = None, taken: Iterable[str] = (),
) -> dict[str, str]:  # fmt: skip
    """The file of each product by its id, each name once: names that would meet, small and capital letters
    alike, are told apart by a number.

    Args:
        rule: as check_rule has it, empty for the name, or the number where there is none.
        file: name of the file that is sent, without its ending; folders: by product id, with "/" between
            their names; taken: names that others have.
    """
    used = {name.casefold() for name in taken}
    names: dict[str, str] = {}
    for product in products:
        said = {"number": product.number, "name": product.name, "revision": product.revision, "file": file}
        text = _FIELD.sub(partial(_said, said), rule) if rule else product.label
        plain = safe_name(text) or safe_name(product.number) or "part"
        folder = (folders or {}).get(product.id, "")
        start = f"{folder}/" if folder else ""
        count, name = 1, f"{start}{plain}{suffix}"
        while name.casefold() in used:
            count += 1
            name = f"{start}{plain}-{count}{suffix}"
        used.add(name.casefold())
        names[product.id] = name
    return names
