"""What changed at a source, and taking it over: on models made by hand, one change at a time."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path

import pytest

from gondrel.core.carriage.difference import compare_sources, take_over
from gondrel.core.carriage.matching import match_models
from gondrel.core.kernel.base.shape import moved_copy, shape_to_blob
from gondrel.core.kernel.derive import deviation_of, facts_of, landmarks_of
from gondrel.core.kernel.modelling import build
from gondrel.core.model import Body, BodyKind, Material, Metadatum, Model, Occurrence, Product, Rgba
from gondrel.core.model.store import BlobStore
from tests.core.carriage.test_matching import facts

RED, BLUE = Rgba(1.0, 0.0, 0.0), Rgba(0.0, 0.0, 1.0)
FACTS = {f"cube{side}": facts(side) for side in (1, 2, 3, 4, 5)}


def at(x: float, y: float = 0.0, z: float = 0.0) -> tuple[float, ...]:
    return (1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z, 0, 0, 0, 1)


def body(key: str, blob: str, colour: Rgba | None = None) -> Body:
    return Body(key, BodyKind.SOLID, key, blob, colour)


def gate() -> Model:
    """A frame once and a pin twice."""
    frame = Product(
        "frame", "G-2", "Frame", "B", material=Material("Steel", 7850.0), bodies=(body("f", "cube4"),)
    )
    pin = Product(
        "pin", "G-3", "Pin", "A", metadata=(Metadatum("Finish", "raw"),), bodies=(body("p", "cube2"),)
    )
    uses = (Occurrence("o1", "frame", "frame", at(0)), Occurrence("o2", "pin", "left", at(10)),
            Occurrence("o3", "pin", "right", at(20)))  # fmt: skip
    return Model((Product("top", "G-1", "Gate", "C", occurrences=uses), frame, pin), ("top",))


def change(model: Model, key: str, **fields) -> Model:
    return model.with_product(replace(model.product(key), **fields))


def use(model: Model, key: str, **fields) -> Model:
    top = model.product("top")
    changed = tuple(replace(o, **fields) if o.id == key else o for o in top.occurrences)
    return model.with_product(replace(top, occurrences=changed))


def reread(model: Model) -> Model:
    """The same under other ids, as a file read again has them."""
    products = tuple(
        replace(
            p, id="n-" + p.id, bodies=tuple(replace(b, id="n-" + b.id) for b in p.bodies),
            occurrences=tuple(replace(o, id="n-" + o.id, product="n-" + o.product) for o in p.occurrences),
        )
        for p in model.products
    )  # fmt: skip
    return replace(model, products=products, roots=tuple("n-" + r for r in model.roots))


def wider(model: Model) -> Model:
    return change(model, "pin", bodies=(body("p", "cube3"),))


def with_bracket(model: Model) -> Model:
    bracket = Product("bracket", "G-9", "Bracket", bodies=(body("k", "cube5"),))
    uses = (*model.product("top").occurrences, Occurrence("o9", "bracket", "bracket", at(40)))
    model = change(model, "top", occurrences=uses)
    return replace(model, products=(*model.products, bracket))


def without_pin(model: Model) -> Model:
    model = change(model, "top", occurrences=model.product("top").occurrences[:1])
    return replace(model, products=tuple(p for p in model.products if p.id != "pin"))


CHANGES: dict[str, tuple[Callable[[Model], Model], list[tuple[str, str, str]]]] = {
    "nothing": (lambda m: m, []),
    "moved": (lambda m: use(m, "o3", placement=at(20, 3, 4)),
              [("moved", "right", "moved by 5 mm (+0, +3, +4)")]),
    "turned": (lambda m: use(m, "o2", placement=(0, -1, 0, 10, 1, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)),
               [("moved", "left", "turned by 90 degrees")]),
    "another shape": (wider, [("geometry", "Pin", "volume 8.000 to 27.000 mm\u00b3 (+19.000)")]),
    "one part more": (with_bracket, [("added", "Bracket", "is there once")]),
    "one part less": (without_pin, [("removed", "Pin", "was there 2 times")]),
    "once instead of twice": (
        lambda m: change(m, "top", occurrences=m.product("top").occurrences[:2]),
        [("removed", "Pin", "once instead of 2 times")]),
    "a body more": (lambda m: change(m, "frame", bodies=(body("f", "cube4"), body("f2", "cube1"))),
                    [("geometry", "Frame", "a solid more")]),
    "revision": (lambda m: change(m, "frame", revision="D"),
                 [("metadata", "Frame", "revision 'B' to 'D'")]),
    "material": (lambda m: change(m, "frame", material=Material("Bronze", 8800.0)),
                 [("metadata", "Frame", "material 'Steel, 7850 kg/m3' to 'Bronze, 8800 kg/m3'")]),
    "property": (lambda m: change(m, "pin", metadata=(Metadatum("Finish", "ground"),)),
                 [("metadata", "Pin", "Finish 'raw' to 'ground'")]),
}  # fmt: skip


@pytest.mark.parametrize("name", CHANGES)
def test_the_difference_is_what_was_changed_and_nothing_else(name) -> None:
    act, expected = CHANGES[name]
    base = gate()
    found = compare_sources(base, reread(act(base)), FACTS, lambda a, b: 0.5 if a != b else 0.0).changes
    assert [(c.kind, c.label) for c in found] == [(kind, label) for kind, label, _ in expected]
    assert all(text in c.text for c, (_, _, text) in zip(found, expected, strict=True))


def test_a_body_written_anew_but_the_same_is_no_change() -> None:
    base = gate()
    same = {**FACTS, "cube2b": FACTS["cube2"]}
    new = reread(change(base, "pin", bodies=(body("p", "cube2b"),)))
    assert compare_sources(base, new, same, lambda a, b: 0.0).changes == ()
    (told,) = compare_sources(base, new, same, lambda a, b: 0.01).changes
    assert told.kind == "geometry" and "0.01 mm apart" in told.text


@pytest.mark.parametrize("name", CHANGES)
def test_taking_over_a_model_nobody_touched_gives_the_new_source(name) -> None:
    """Under the ids it had, so that selections and history go on."""
    act, _ = CHANGES[name]
    base = gate()
    model, renamed, told = take_over(base, base, reread(act(base)), FACTS)
    assert told == ()
    wanted = {p.label: p for p in act(base).products}
    assert {p.label for p in model.products} == set(wanted)
    for product in model.products:
        other = wanted[product.label]
        assert (product.revision, product.material, product.metadata) == (
            other.revision, other.material, other.metadata)  # fmt: skip
        assert [b.blob for b in product.bodies] == [b.blob for b in other.bodies]
        assert [o.placement for o in product.occurrences] == [o.placement for o in other.occurrences]
    kept = {p.id for p in base.products} & {p.id for p in act(base).products}
    assert kept <= {p.id for p in model.products}
    assert renamed.by_id.keys() >= kept


def test_what_was_arranged_here_stays_when_the_source_changes() -> None:
    base = gate()
    arranged = change(base, "pin", revision="Z", bodies=(body("p", "cube2", BLUE),))
    arranged = use(arranged, "o2", name="upper", colour=RED)
    model, _, told = take_over(arranged, base, reread(use(wider(base), "o2", placement=at(11))), FACTS)
    pin, (_, left, _) = model.product("pin"), model.product("top").occurrences
    assert told == ()
    assert (pin.revision, pin.bodies[0].colour, pin.bodies[0].blob) == ("Z", BLUE, "cube3")
    assert (left.name, left.colour, left.placement) == ("upper", RED, at(11))


def test_both_sides_changing_the_same_thing_keeps_ours_and_a_lost_arrangement_is_told() -> None:
    base = gate()
    ours = change(base, "frame", revision="X")
    model, _, _ = take_over(ours, base, reread(change(base, "frame", revision="D")), FACTS)
    assert model.product("frame").revision == "X"
    mended = change(base, "pin", bodies=(body("p", "cube1"),))
    model, _, told = take_over(mended, base, reread(wider(base)), FACTS)
    assert model.product("pin").bodies[0].blob == "cube3" and "mend it again" in told[0]
    painted = replace(base.product("pin").bodies[0], face_colours=((0, RED),))
    model, _, told = take_over(change(base, "pin", bodies=(painted,)), base, reread(wider(base)), FACTS)
    assert model.product("pin").bodies[0].face_colours == ((0, RED),) and "look whether" in told[0]
    renamed = change(base, "pin", name="Bolt")
    model, _, told = take_over(renamed, base, reread(without_pin(base)), FACTS)
    assert "pin" not in model.by_id and "gone at the source" in told[0]
    assert [o.id for o in model.product("top").occurrences] == ["o1"]


def test_a_part_of_another_name_and_frame_is_known_by_its_shape(tmp_path: Path) -> None:
    store = BlobStore(tmp_path)
    wedge = build.cut(build.block(20, 10, 5), build.block(9, 4, 9, at=(-1, -1, -1)))
    turned = (0.0, 0.0, 1.0, 70.0, 1.0, 0.0, 0.0, 8.0, 0.0, 1.0, 0.0, 9.0, 0.0, 0.0, 0.0, 1.0)
    near = build.cut(build.block(20, 10, 5.02), build.block(9, 4, 9, at=(-1, -1, -1)))

    def key(shape: object) -> str:
        return store.put(shape_to_blob(shape))  # type: ignore[arg-type]

    def model(name: str, *shapes: object) -> Model:
        parts = tuple(
            Product(f"{name}{n}", f"{name}-{n}", f"{name} {n}",
                    bodies=(Body(f"b{name}{n}", BodyKind.SOLID, "", key(s)),))
            for n, s in enumerate(shapes)
        )  # fmt: skip
        return Model(parts, tuple(p.id for p in parts))

    base, new = model("A", wedge, near), model("B", moved_copy(near, turned), moved_copy(wedge, turned))
    facts = {b: facts_of(store, b) for b in (*base.blobs(), *new.blobs())}
    marks = partial(landmarks_of, store)
    matching = match_models(base, new, facts, marks)
    assert matching.products == {"A0": "B1", "A1": "B0"}
    told = compare_sources(base, new, facts, lambda a, b: deviation_of(store, a, b).value, marks)
    texts = [c.text for c in told.changes if c.kind == "geometry"]
    assert len(texts) == 2 and all(t.startswith("the same shape, its middle moved by") for t in texts)
