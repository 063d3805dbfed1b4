"""What is seen from outside."""

from __future__ import annotations

from pathlib import Path

from gondrel.core.arrange.cutdown import PartFilter, Traits, filtered
from gondrel.core.arrange.outside import seen_in
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.modelling import build
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.store import BlobStore


def test_what_is_enclosed_is_not_seen_and_its_places_go(tmp_path: Path) -> None:
    """A closed box with a ball and a pin in it; the pin stands outside too; a cup shows what is in it."""
    store = BlobStore(tmp_path)

    def part(key: str, shape: object) -> Product:
        blob = store.put(shape_to_blob(shape))  # type: ignore[arg-type]
        return Product(key, key, key, bodies=(Body(f"b{key}", BodyKind.SOLID, key, blob),))

    def at(x: float) -> tuple[float, ...]:
        return (1, 0, 0, x, 0, 1, 0, 15, 0, 0, 1, 15, 0, 0, 0, 1)

    case = build.cut(build.block(30, 30, 30), build.block(26, 26, 26, at=(2, 2, 2)))
    cup = build.cut(build.block(30, 30, 30, at=(60, 0, 0)), build.block(26, 26, 40, at=(62, 2, 2)))
    parts = (part("Case", case), part("Cup", cup), part("Ball", build.sphere(3)),
             part("Pin", build.cylinder(2, 5)), part("Marble", build.sphere(4)))  # fmt: skip
    within = Occurrence("ball", "Ball", "", at(10)), Occurrence("pin in", "Pin", "", at(20))
    inner = Product("inner", "", "Inner", occurrences=within)
    uses = (
        *(Occurrence(key, key.title(), "") for key in ("case", "cup")), Occurrence("inner", "inner", ""),
        Occurrence("pin out", "Pin", "", at(-20)), Occurrence("marble", "Marble", "", at(75)),
    )  # fmt: skip
    model = Model((Product("top", "", "Top", occurrences=uses), inner, *parts), ("top",))
    seen = seen_in(model, store)
    assert seen.products == {"Case", "Cup", "Pin", "Marble"}
    assert seen.uses == {"case", "cup", "pin out", "marble"}
    facts = {blob: facts_of(store, blob) for blob in model.blobs()}
    for wanted, keep in ((PartFilter(visible=True), True), (PartFilter(visible=False), False)):
        _, cut = filtered(model, wanted, facts, keep=keep, traits=Traits(seen=seen))
        cut.check_structure()
        assert {p.id for p in cut.products} == {"top", "Case", "Cup", "Pin", "Marble"}
        assert {u.id for _, u in cut.occurrences()} == seen.uses
