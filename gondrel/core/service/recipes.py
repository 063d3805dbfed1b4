"""Recipes: named sets of receive or send settings, kept in one file of the user's configuration."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from gondrel.core.errors import MalformedFile, UsageError
from gondrel.core.model.store import write_whole
from gondrel.core.work.files import config_folder

__all__ = ["Recipe", "recipe_named", "recipes", "recipes_file", "save_recipe", "without_recipe"]

_PURPOSES = ("receive", "send")


@dataclass(frozen=True, slots=True)
class Recipe:
    """A named set of settings.

    Args:
        purpose: "receive" or "send"; values: settings as KEY=VALUE pairs.
    """

    name: str
    purpose: str
    values: tuple[tuple[str, str], ...]


def recipes_file() -> Path:
    """Where recipes are kept."""
    return config_folder() / "recipes.json"


def recipes(purpose: str = "") -> list[Recipe]:
    """All recipes, or those of a purpose, by name.

    Raises:
        MalformedFile: when the file of recipes makes no sense.
    """
    path = recipes_file()
    if not path.exists():
        return []
    try:
        listed: list[dict[str, Any]] = json.loads(path.read_text("utf-8"))["recipes"]
        kept = [
            Recipe(
                str(r["name"]), str(r["purpose"]), tuple((str(k), str(v)) for k, v in r["values"].items())
            )
            for r in listed
        ]
    except (OSError, ValueError, KeyError, TypeError, AttributeError) as error:
        raise MalformedFile(f"the file of recipes makes no sense: {error}", file=str(path)) from error
    return sorted((r for r in kept if purpose in ("", r.purpose)), key=lambda r: r.name.casefold())


def recipe_named(name: str, purpose: str) -> Recipe:
    """The recipe of a name. Raises UsageError when there is none, MalformedFile as recipes does."""
    known = recipes(purpose)
    for recipe in known:
        if recipe.name == name:
            return recipe
    listed = ", ".join(r.name for r in known) or "none is saved"
    raise UsageError(f"there is no {purpose} recipe {name!r}", hint=listed)


def save_recipe(name: str, purpose: str, values: Mapping[str, str]) -> Recipe:
    """Keep a recipe, in place of one of the same name and purpose.

    Raises:
        UsageError: for an empty name. WriteFailed: when the disk refuses.
    """
    if not name.strip() or purpose not in _PURPOSES:
        raise UsageError("a recipe needs a name")
    recipe = Recipe(name.strip(), purpose, tuple(values.items()))
    _keep([*(r for r in recipes() if (r.name, r.purpose) != (recipe.name, purpose)), recipe])
    return recipe


def without_recipe(name: str, purpose: str) -> None:
    """Drop a recipe. Raises WriteFailed."""
    _keep([r for r in recipes() if (r.name, r.purpose) != (name, purpose)])


def _keep(kept: list[Recipe]) -> None:
    path = recipes_file()
    path.parent.mkdir(parents=True, exist_ok=True)
    listed = [{"name": r.name, "purpose": r.purpose, "values": dict(r.values)} for r in kept]
    write_whole(path, json.dumps({"recipes": listed}, indent=1).encode())
