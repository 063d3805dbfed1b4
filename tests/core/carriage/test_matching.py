"""Matching of models by signature, without the kernel."""

from __future__ import annotations

from dataclasses import replace

from gondrel.core.carriage.matching import match_models
from gondrel.core.model import Body, BodyFacts, BodyKind, Model, Occurrence, Product


def facts(side: float, at: float = 0.0) -> BodyFacts:
    """Figures of a cube of a side, its corner at (at, 0, 0)."""
    volume, middle = side**3, side / 2
    moment = volume * side**2 / 6
    return BodyFacts(
        volume=volume, area=6 * side**2, centroid=(at + middle, middle, middle),
        inertia=(moment,) * 3, inertia_matrix=(moment, 0, 0, 0, moment, 0, 0, 0, moment),
        bbox=(at, 0, 0, at + side, side, side), faces=6, edges=12, vertices=8, surfaces=(("plane", 6),),
        tolerance=1e-7, length=12 * side,
    )  # fmt: skip


def part(key: str, name: str, *blobs: str, number: str = "") -> Product:
    bodies = tuple(Body(f"{key}-{b}", BodyKind.SOLID, "", b) for b in blobs)
    return Product(key, number, name, bodies=bodies)


def placed(key: str, child: str, x: float) -> Occurrence:
    return Occurrence(key, child, "", (1, 0, 0, x, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1))


KNOWN = {"small": facts(10), "large": facts(20), "large2": facts(20), "odd": facts(33)}
KNOWN["shifted"] = facts(10, 500)


def test_bodies_find_each_other_whatever_their_order_and_names() -> None:
    meant = Model((part("a", "Plate", "small", "large"),), ("a",))
    returned = Model((part("z", "Plate", "large2", "small"),), ("z",))
    found = match_models(meant, returned, KNOWN)
    assert found.products == {"a": "z"}
    assert found.bodies == {"a-small": "z-small", "a-large": "z-large2"}


def test_equal_bodies_are_told_apart_by_their_place() -> None:
    meant = Model((part("a", "Plate", "small", "shifted"),), ("a",))
    returned = Model((part("z", "Plate", "shifted", "small"),), ("z",))
    assert match_models(meant, returned, KNOWN).bodies == {"a-small": "z-small", "a-shifted": "z-shifted"}


def test_a_product_is_found_by_its_shape_when_its_name_is_gone() -> None:
    meant = Model((part("a", "Plate", "small"), part("b", "Block", "large")), ("a", "b"))
    returned = Model((part("y", "Unnamed", "large2"), part("x", "Other", "small")), ("y", "x"))
    assert match_models(meant, returned, KNOWN).products == {"a": "x", "b": "y"}


def test_what_has_no_partner_is_lost_or_added() -> None:
    meant = Model((part("a", "Plate", "small", "large"),), ("a",))
    returned = Model((part("z", "Plate", "small", "odd"), part("n", "News", "odd")), ("z", "n"))
    found = match_models(meant, returned, KNOWN)
    assert "z-small" in found.bodies.values()
    assert found.added_products == ["n"]


def test_occurrences_are_matched_by_place_and_moved_ones_still_find_each_other() -> None:
    top = Product("t", "", "Top", occurrences=(placed("o1", "a", 0), placed("o2", "a", 50)))
    meant = Model((top, part("a", "Pin", "small")), ("t",))
    back = Product("u", "", "Top", occurrences=(placed("q1", "z", 50), placed("q2", "z", 0.5)))
    returned = Model((back, part("z", "Pin", "small")), ("u",))
    assert match_models(meant, returned, KNOWN).occurrences == {"o1": "q2", "o2": "q1"}


def test_a_shared_part_that_came_back_twice_is_a_copy() -> None:
    top = Product("t", "", "Top", occurrences=(placed("o1", "a", 0), placed("o2", "a", 50)))
    meant = Model((top, part("a", "Pin", "small")), ("t",))
    back = Product("u", "", "Top", occurrences=(placed("q1", "y", 0), placed("q2", "z", 50)))
    twins = (part("y", "Pin", "small"), replace(part("z", "Pin", "small"), number=""))
    found = match_models(meant, Model((back, *twins), ("u",)), KNOWN)
    assert len(found.copies) == 1
    assert set(found.copies.values()) == {"a"}
    assert set(found.occurrences) == {"o1", "o2"}
