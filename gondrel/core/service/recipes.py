"""Recipes: named sets of receive or send settings, kept in one file of the user's configuration."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from gondrel.core.errors import UsageError
from gondrel.core.recipients.card import Card
from gondrel.core.service.kept import keep, kept
from gondrel.core.work.files import config_folder

__all__ = [
    "KIND", "Recipe", "recipe_named", "recipes", "recipes_file", "save_recipe", "values_toward",
    "without_recipe",
]  # fmt: skip

_PURPOSES = ("receive", "send")

KIND = "as"
"""Key of a send recipe under which the kind of the target stands."""


@dataclass(frozen=True, slots=True)
class Recipe:
    """A named set of settings.

    Args:
        purpose: "receive" or "send"; values: value of each setting by its key.
    """

    name: str
    purpose: str
    values: Mapping[str, str]


@dataclass(frozen=True, slots=True)
class _Kept:
    """The file of recipes."""

    recipes: tuple[Recipe, ...]


def recipes_file() -> Path:
    """Where recipes are kept."""
    return config_folder() / "recipes.json"


def recipes(purpose: str = "") -> list[Recipe]:
    """All recipes, or those of a purpose, by name.

    Raises:
        MalformedFile: when the file of recipes makes no sense.
    """
    all_kept = kept(recipes_file(), _Kept) or _Kept(())
    chosen = (r for r in all_kept.recipes if purpose in ("", r.purpose))
    return sorted(chosen, key=lambda r: r.name.casefold())


def recipe_named(name: str, purpose: str) -> Recipe:
    """The recipe of a name. Raises UsageError when there is none, MalformedFile as recipes does."""
    known = recipes(purpose)
    for recipe in known:
        if recipe.name == name:
            return recipe
    listed = ", ".join(r.name for r in known) or "none is saved"
    raise UsageError(f"there is no {purpose} recipe {name!r}", hint=listed)


def values_toward(card: Card | None, given: Mapping[str, str]) -> dict[str, str]:
    """Send settings for a recipient: those given, beneath them those of the recipe on their card, beneath
    them what the card itself asks for.

    Raises:
        UsageError: when there is no recipe of the name on the card.
    """
    if card is None:
        return dict(given)
    values: dict[str, str] = {}
    if card.files.name:
        values["file_names"] = card.files.name
    if card.limits.unit and not card.limits.trusts_unit:
        values["unit"] = card.limits.unit
    if card.recipe:
        values |= dict(recipe_named(card.recipe, "send").values)
    return {**values, **given}


def save_recipe(name: str, purpose: str, values: Mapping[str, str]) -> Recipe:
    """Keep a recipe, in place of one of the same name and purpose.

    Raises:
        UsageError: for an empty name. WriteFailed: when the disk refuses.
    """
    if not name.strip() or purpose not in _PURPOSES:
        raise UsageError("a recipe needs a name")
    recipe = Recipe(name.strip(), purpose, dict(values))
    keep(
        recipes_file(),
        _Kept((*(r for r in recipes() if (r.name, r.purpose) != (recipe.name, purpose)), recipe)),
    )
    return recipe


def without_recipe(name: str, purpose: str) -> None:
    """Drop a recipe. Raises WriteFailed."""
    left = tuple(r for r in recipes() if (r.name, r.purpose) != (name, purpose))
    keep(recipes_file(), _Kept(left))
