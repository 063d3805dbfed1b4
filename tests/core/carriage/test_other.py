"""What another reader sees otherwise, on readings with one difference planted in each."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest

from gondrel.core.carriage.other import AGREED, OTHERWISE, compare_other
from gondrel.core.formats.settings import Aid
from gondrel.core.kernel.base.shape import shape_to_blob, split_bodies
from gondrel.core.model import Body, BodyKind, Model, Product
from gondrel.core.model.other import OtherProduct, OtherReading
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from tests.builders import shifted, small_assembly
from tests.shapes import MADE_BY_NAME, moved

Planting = Callable[[OtherReading], OtherReading]


def changed(name: str, change: Callable[[OtherProduct], OtherProduct]) -> Planting:
    def plant(reading: OtherReading) -> OtherReading:
        assert any(p.name == name for p in reading.products)
        return replace(
            reading, products=tuple(change(p) if p.name == name else p for p in reading.products)
        )

    return plant


def elsewhere(product: OtherProduct) -> OtherProduct:
    first, *rest = product.uses
    return replace(product, uses=(replace(first, placement=shifted(0, 0, 0.01)), *rest))


PLANTED: list[tuple[str, str, Planting]] = [
    ("structure", "Plate", changed("Plate", lambda p: replace(p, name="plate 1"))),
    ("structure", "Top / Plate", changed("Top", lambda p: replace(p, uses=p.uses[1:]))),
    ("placement", "Top / Plate", changed("Top", elsewhere)),
    ("bodies", "Plate", changed("Plate", lambda p: replace(p, kinds=(("sheet", 1),)))),
    ("geometry", "Plate", changed("Plate", lambda p: replace(p, area=p.area * 1.001))),
    ("geometry", "Pin", changed("Pin", lambda p: replace(p, volume=p.volume * 0.9999))),
    ("colours", "Pin", changed("Pin", lambda p: replace(p, colours=(("#00ff00", 1.0),)))),
]


@pytest.fixture
def sent(tmp_path: Path, store_folder: str) -> tuple[Model, str]:
    model = small_assembly(BlobStore(Path(store_folder)))
    out = str(tmp_path / "out.stp")
    back = send(model, out, "step-ap242", settings_from({"other_reader": "no"}), store_folder)
    return back.returned, out


def reading_of(path: str) -> OtherReading:
    from gondrel.core.kernel.exchange.stock import read_as_other

    return read_as_other(path, "step")


def test_each_difference_is_told(sent: tuple[Model, str], store_folder: str) -> None:
    model, path = sent
    facts = measure_all(tuple(model.blobs()), store_folder)
    reading = reading_of(path)
    assert {line.verdict for line in compare_other(model, facts, reading)} == {AGREED}
    for thing, item, plant in PLANTED:
        told = [line for line in compare_other(model, facts, plant(reading)) if line.verdict == OTHERWISE]
        assert (thing, item) in {(line.thing, line.item) for line in told}, (thing, item, told)
        assert {line.thing for line in told} == {thing}, (thing, item, told)


def test_a_part_under_another_name_is_told_once(sent: tuple[Model, str], store_folder: str) -> None:
    model, path = sent
    facts = measure_all(tuple(model.blobs()), store_folder)
    other = changed("Plate", lambda p: replace(p, name="plate 1"))(reading_of(path))
    (line,) = [line for line in compare_other(model, facts, other) if line.verdict == OTHERWISE]
    assert (line.before, line.after) == ("called Plate", "called plate 1")


def ball_less_an_eighth(store: BlobStore) -> Model:
    """Its edges run along the seam of its sphere and through a pole, however it is turned."""
    shape = split_bodies(MADE_BY_NAME["ball less an eighth"].make())[0][1]
    shape = moved(shape, (0.8, 0.1, -0.5), 1.234, (11.0, 5.0, -3.0))
    body = Body("b", BodyKind.SOLID, "", store.put(shape_to_blob(shape)))
    return Model((Product("p", "P", "Ball", bodies=(body,)),), ("p",))


def test_spheres_are_turned_for_other_readers(tmp_path: Path, store_folder: str) -> None:
    made = MADE_BY_NAME["ball less an eighth"]
    model = ball_less_an_eighth(BlobStore(Path(store_folder)))
    for aid in Aid:
        settings = replace(settings_from({"other_reader": "no", "force": "yes"}), aid=aid)
        back = send(model, str(tmp_path / "out.stp"), "step-ap214", settings, store_folder)
        facts = measure_all(tuple(back.returned.blobs()), store_folder)
        ((_, body),) = back.returned.bodies()
        assert facts[body.blob].volume == pytest.approx(made.volume, rel=1e-9), aid
        assert facts[body.blob].area == pytest.approx(made.area, rel=1e-9), aid
        if aid is Aid.SPHERES:
            ((product,)) = reading_of(str(tmp_path / "out.stp")).products
            assert product.volume == pytest.approx(made.volume, rel=1e-6)
