"""What a returned file tells of its recipient: their card as it would be right, and what speaks for it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from gondrel.core.carriage.ledger import Compared, Proof
from gondrel.core.model.units import BY_KEY
from gondrel.core.model.verdicts import Verdict
from gondrel.core.recipients.card import Card

__all__ = ["proposed_card"]

_SWITCHES = ("layers", "numbers", "revisions", "materials", "metadata", "validation")
_AT_LEAST = 2
"""Names cut at one length from which on it is taken for a limit."""

Change = tuple[str, str, Any, str]
"""Part of the card, field, value, and what speaks for it."""


def proposed_card(card: Card, proof: Proof) -> tuple[Card, tuple[str, ...]]:
    """The card as a proof of a file that came back speaks for, and why, in sentences.

    Returns: the same card and no sentence where it says what came.
    """
    sentences = []
    for part, field, value, why in _changes(proof):
        inner = getattr(card, part)
        if getattr(inner, field) != value:
            card = replace(card, **{part: replace(inner, **{field: value})})
            sentences.append(f"{why}: {part}.{field} = {_told(value)}")
    return card, tuple(sentences)


def _told(value: Any) -> str:
    return {True: "yes", False: "no"}.get(value, str(value)) if isinstance(value, bool) else str(value)


def _changes(proof: Proof) -> Iterator[Change]:
    items: dict[str, list[Compared]] = {
        entry.thing: [c for c in entry.items if c.verdict is not Verdict.ADDED]
        for entry in proof.ledger.entries
    }
    components = [c for c in items.get("structure", ()) if c.item.aspect == "component"]
    is_flat = bool(components) and _all_lost(components)
    if components:
        what = "no component came back" if is_flat else "components came back"
        yield "keeps", "structure", not is_flat, what
    for thing in _SWITCHES:
        own = [c for c in items.get(thing, ()) if c.item.subject]
        if is_flat and thing not in ("layers", "materials"):
            continue  # what is said of assemblies is gone with them
        if own and _all_lost(own):
            yield "keeps", thing, False, f"none of {len(own)} {thing} came back"
        elif own:
            yield (
                "keeps",
                thing,
                True,
                f"{sum(c.verdict is not Verdict.LOST for c in own)} {thing} came back",
            )
    yield from _colours(items.get("colours", []))
    yield from _names([c for c in items.get("names", ()) if c.item.aspect in ("product name", "body name")])
    yield from _bodies(items.get("bodies", []))
    yield from _size(items.get("units", []))


def _all_lost(items: list[Compared]) -> bool:
    return all(c.verdict is Verdict.LOST for c in items)


def _colours(items: list[Compared]) -> Iterator[Change]:
    faces = [c for c in items if c.item.aspect == "face colours"]
    bodies = [c for c in items if c.item.aspect == "body colour"]
    if items and _all_lost(items):
        yield "keeps", "colours", "none", f"none of {len(items)} colours came back"
    elif faces and _all_lost(faces) and bodies:
        yield "keeps", "colours", "bodies", "colours of bodies came back, those of faces did not"
    elif faces and not _all_lost(faces):
        yield "keeps", "colours", "faces", "colours of faces came back"


def _names(items: list[Compared]) -> Iterator[Change]:
    if items and _all_lost(items):
        yield "keeps", "names", False, f"none of {len(items)} names came back"
        return
    cut = [c for c in items if c.verdict is Verdict.ALTERED and c.after and c.item.text.startswith(c.after)]
    lengths = {len(c.after) for c in cut}
    longest = max((len(c.after) for c in items if c.verdict is not Verdict.LOST), default=0)
    if len(cut) >= _AT_LEAST and lengths == {longest}:
        yield "keeps", "name_length", longest, f"{len(cut)} names came back cut at {longest} characters"
    plain = [c for c in items if c.verdict is Verdict.ALTERED and not c.item.text.isascii()]
    if plain and all(c.after.isascii() for c in plain):
        yield "keeps", "ascii", True, f"{len(plain)} names came back in plain ASCII"


def _bodies(items: list[Compared]) -> Iterator[Change]:
    kinds = [c for c in items if c.item.aspect == "body" and c.item.text.startswith("solid")]
    sheets = [c for c in kinds if c.verdict is Verdict.ALTERED and "sheet" in c.after]
    if kinds and len(sheets) == len(kinds):
        yield "limits", "surfaces", True, f"all {len(kinds)} solids came back as sheets"
    elif kinds and any(c.verdict is Verdict.CARRIED for c in kinds):
        yield "limits", "surfaces", False, "solids came back as solids"


def _size(items: list[Compared]) -> Iterator[Change]:
    sizes = [c for c in items if c.item.aspect == "size" and c.verdict is Verdict.ALTERED]
    if not sizes:
        return
    try:
        factor = float(sizes[0].after.removeprefix("x "))
    except ValueError:
        return
    unit = next((key for key, unit in BY_KEY.items() if abs(unit.mm - factor) < 1e-4 * factor), "")
    if unit:
        why = f"everything came back {factor:g} times its size, as {unit} would"
        yield "limits", "trusts_unit", False, why
        yield "limits", "unit", unit, why
