"""Changes of structure: everything stands where it stood."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest

from gondrel.core.arrange.structure import (
    bodies_to_components,
    delete_components,
    dissolve,
    flatten,
    group_components,
    make_independent,
    mirror_component,
    move_component,
    move_into,
    repeat_component,
    replace_product,
)
from gondrel.core.errors import UsageError
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product


def at(x: float, y: float = 0.0, turn: bool = False) -> tuple[float, ...]:
    if turn:
        return (0, -1, 0, x, 1, 0, 0, y, 0, 0, 1, 0, 0, 0, 0, 1)
    return (1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, 0, 0, 0, 0, 1)


@pytest.fixture
def model() -> Model:
    """top: sub (twice: at 100 turned, at 200), pin at 5; sub: pin at 10, plate at 20."""
    pin = Product("pin", "N-1", "Pin", bodies=(Body("b", BodyKind.SOLID, "", "x"),))
    plate = Product("plate", "N-2", "Plate", bodies=(Body("c", BodyKind.SOLID, "", "y"),))
    sub = Product("sub", "S", "Sub", occurrences=(
        Occurrence("s1", "pin", "", at(10)), Occurrence("s2", "plate", "", at(20))))  # fmt: skip
    top = Product("top", "T", "Top", occurrences=(
        Occurrence("o1", "sub", "Left", at(100, turn=True)), Occurrence("o2", "sub", "Right", at(200)),
        Occurrence("o3", "pin", "Loose", at(5))))  # fmt: skip
    return Model((top, sub, pin, plate), ("top",))


def stands(model: Model) -> Counter[tuple[str, tuple[float, ...]]]:
    """Where each body stands in space."""
    return Counter(
        (body.blob, tuple(np.round(place.placement, 9)))
        for place in model.walk()
        for body in model.product(place.product).bodies
    )


def test_grouping_dissolving_and_flattening_move_nothing(model: Model) -> None:
    before = stands(model)
    what, grouped = group_components(model, ["o1", "o3"], "Pair")
    assert what == "Put 2 components into Pair" and stands(grouped) == before
    assert [u.product for u in grouped.product("top").occurrences] == ["group", "o2" and "sub"]
    (use,) = [u.id for u in grouped.product("top").occurrences if u.product == "group"]
    _, back = dissolve(grouped, [use])
    assert stands(back) == before and "group" not in back.by_id
    _, flat = flatten(model, "top")
    assert stands(flat) == before and len(flat.product("top").occurrences) == 5 and "sub" not in flat.by_id


def test_a_component_moves_into_an_assembly_and_stays_where_it_is(model: Model) -> None:
    _, single = delete_components(model, ["o2"])
    before = stands(single)
    _, moved = move_into(single, ["o3"], "o1")
    assert stands(moved) == before
    assert [u.id for u in moved.product("sub").occurrences] == ["s1", "s2", "o3"]
    _, back = move_into(moved, ["o3"], "top")
    assert stands(back) == before
    with pytest.raises(UsageError, match="2 places; make it independent first"):
        move_into(model, ["o3"], "o1")


def test_one_place_becomes_independent_and_another_product_is_put_in(model: Model) -> None:
    before = stands(model)
    _, apart = make_independent(model, "o2", "Sub, right")
    assert stands(apart) == before and len({u.product for u in apart.product("top").occurrences}) == 3
    with pytest.raises(UsageError, match="used nowhere else"):
        make_independent(apart, "o2")
    _, other = replace_product(model, ["o3"], "plate")
    assert Counter(b for b, _ in stands(other)) == {"x": 2, "y": 3}
    with pytest.raises(UsageError, match="would contain itself"):
        replace_product(model, ["s1"], "top")


def test_patterns_and_motions(model: Model) -> None:
    _, many = repeat_component(model, "o3", [at(10), at(20)], "3 times")
    assert sorted(u.placement[3] for u in many.product("top").occurrences if u.product == "pin") == [
        5,
        15,
        25,
    ]
    assert len({u.id for u in many.product("top").occurrences}) == 5
    _, moved = move_component(model, "o3", at(0, 7), "up")
    assert moved.product("top").occurrences[2].placement[7] == 7


def test_a_mirrored_component_stands_as_its_image(model: Model) -> None:
    plane = (-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)
    _, image = mirror_component(model, "o3", plane, lambda blob: f"{blob} turned")
    use = image.product("top").occurrences[-1]
    assert image.product(use.product).bodies[0].blob == "x turned"
    # a point p of the part was at p + 5; its image is at -(p + 5): the turned body has it at -p
    assert use.placement[3] == -5 and np.linalg.det(np.reshape(use.placement, (4, 4))) == pytest.approx(1)


def test_bodies_become_components_and_deleting_leaves_nothing_idle(model: Model) -> None:
    bodies = tuple(Body(f"k{n}", BodyKind.SOLID, f"Key {n}", f"k{n}") for n in range(3))
    loose = Model((Product("p", "", "Keys", bodies=bodies),), ("p",))
    _, made = bodies_to_components(loose, ["k0", "k2"])
    assert [b.id for b in made.product("p").bodies] == ["k1"] and stands(made) == stands(loose)
    _, less = delete_components(model, ["o1", "o2"])
    assert set(less.by_id) == {"top", "pin"}
    with pytest.raises(UsageError, match="nothing would be left"):
        delete_components(model, (), ["top"])
