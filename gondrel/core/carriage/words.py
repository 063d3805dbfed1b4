"""Aspects and values in words, and aspects told apart where their names recur."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator

from gondrel.core.model.metadata import Metadatum
from gondrel.core.model.particulars import ADMINISTRATIVE
from gondrel.core.model.product import Material

__all__ = ["PARTICULAR", "datum_text", "is_of_its_own", "material_text", "ranked", "shown"]

PARTICULAR = "said: "
"""How aspects of particulars begin, so that no property of a user's is taken for one."""


def ranked(names: Iterable[str]) -> Iterator[str]:
    """Names that may recur as aspects that do not: each with its rank among its like."""
    seen: Counter[str] = Counter()
    for name in names:
        seen[name] += 1
        yield f"{name}#{seen[name]}"


def shown(aspect: str) -> str:
    """An aspect in the words people read."""
    return aspect.removeprefix(PARTICULAR).partition("#")[0]


def is_of_its_own(aspect: str) -> bool:
    """Whether a writer adds such a particular of its own accord, as a protocol demands."""
    bare = aspect.removeprefix(PARTICULAR)
    return bare != aspect and bare.partition(" of ")[0].partition("#")[0] in ADMINISTRATIVE


def datum_text(datum: Metadatum) -> str:
    """A property's value, unit and kind for people."""
    return f"{datum.text} ({datum.kind})"


def material_text(material: Material | None) -> str:
    """A material in words, empty for none."""
    if material is None:
        return ""
    density = f"{material.density:g} kg/m3" if material.density is not None else ""
    return ", ".join(part for part in (material.name, density) if part)
