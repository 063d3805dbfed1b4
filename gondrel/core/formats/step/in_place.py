"""Colours that components have in their place alone, from the records and before any shape is read."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from gondrel.core.formats.step.join import BODIES
from gondrel.core.formats.step.parted import Parts
from gondrel.core.formats.step.styled import STYLED_ITEMS, item_of, parts_of_style, same_colour
from gondrel.core.model.body import Rgba

__all__ = ["ColourInPlace", "colours_in_place"]


@dataclass(frozen=True, slots=True)
class ColourInPlace:
    """The colour of all of a component in its place.

    Args:
        carried: records of the styled items that give it; serving: of their styles.
    """

    colour: Rgba
    carried: tuple[int, ...]
    serving: tuple[int, ...]


def colours_in_place(parts: Parts, uses_of_places: dict[int, int]) -> dict[int, ColourInPlace]:
    """Colours by the records of usages, where every body of the component has the same one there.

    Args:
        uses_of_places: as `ModelBuilder` has it.
    """
    records, graph = parts.records, parts.graph
    styled: defaultdict[int, dict[int, tuple[Rgba, int, tuple[int, ...]]]] = defaultdict(dict)
    for item in records.of(*STYLED_ITEMS):
        if item.number not in parts.local:
            continue
        styles, target = item_of(item)
        for part in parts_of_style(records, styles):
            place = part.context
            if not place and item.keyword == "CONTEXT_DEPENDENT_OVER_RIDING_STYLED_ITEM":
                steps = item.refs(4)
                place = steps[0] if len(steps) == 1 else 0
            use = place if place in graph.uses else uses_of_places.get(place, 0)
            if use and part.colour is not None:
                styled[use].setdefault(target, (part.colour, item.number, part.numbers))
    colours = {}
    for use, by_target in styled.items():
        listed = [i.number for i in parts.items(graph.uses[use].child) if i.keyword in BODIES]
        given = [by_target[number] for number in listed if number in by_target]
        if not given or len(given) < len(listed):
            continue
        colour = given[0][0]
        if all(same_colour(each, colour) for each, _, _ in given):
            elements = [numbers[-1] for _, _, numbers in given]
            serving = {n for _, _, numbers in given for n in numbers} | parts.beneath(elements)
            colours[use] = ColourInPlace(colour, tuple(number for _, number, _ in given), tuple(serving))
    return colours
