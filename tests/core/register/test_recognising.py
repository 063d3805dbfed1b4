"""What was put in is known again though its file was written anew."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling.build import block, cut
from gondrel.core.model.product import Validation
from gondrel.core.model.store import BlobStore
from gondrel.core.register.keeping import Author, put_model
from gondrel.core.register.opening import open_register
from tests.core.register.gears import SHIFT, two_gears

ANNA = Author("anna")


@pytest.fixture
def register(tmp_path: Path):
    opened = open_register(str(tmp_path / "reg.sqlite"))
    yield opened
    opened.close()


def put(register, store: BlobStore, model, *pairs: tuple[str, str]) -> dict[str, str]:
    with register.writing() as connection:
        done = put_model(
            connection, register.store, model, store, ANNA, same=lambda one, other: (one, other) in pairs
        )
    return {str(each.name): each.what for each in done if each.what != "recognised"}


def test_bodies_told_otherwise_and_the_senders_figures(register, tmp_path: Path) -> None:
    store = BlobStore(tmp_path / "made")
    model = two_gears(store)
    put(register, store, model)
    case = model.product("CASE")
    before = case.bodies[0].blob
    again = store.put(shape_to_blob(cut(block(60, 40, 40), block(60, 40, 20, at=(0, 0, 30)))))
    body = replace(case.bodies[0], blob=again)
    told = replace(case, bodies=(body,), validation=Validation(volume=72000.1))
    anew = replace(model, products=tuple(told if p.id == "CASE" else p for p in model.products))
    assert put(register, store, anew, (before, again)) == {}
    assert not register.store.has(again), "nothing is kept twice"
    assert set(put(register, store, anew)) == {"CASE/A.2", "GN/A.2", "GS/A.2"}, "nobody says they are one"


@pytest.mark.parametrize("off, new", [(1e-12, set()), (1e-6, {"GN/A.2", "GS/A.2", "SS/A.2"})])
def test_placements_a_last_digit_off(register, tmp_path: Path, off: float, new: set[str]) -> None:
    store = BlobStore(tmp_path / "made")
    model = two_gears(store)
    put(register, store, model)
    shafts = model.product("SS")
    placed = (*SHIFT[:3], SHIFT[3] + off, *SHIFT[4:])
    uses = tuple(replace(use, placement=placed, centroid=(0.0, 0.0, off)) for use in shafts.occurrences)
    anew = replace(model, products=tuple(
        replace(p, occurrences=uses) if p.id == "SS" else p for p in model.products
    ))  # fmt: skip
    assert set(put(register, store, anew)) == new


def test_what_is_said_of_a_part_counts(register, tmp_path: Path) -> None:
    store = BlobStore(tmp_path / "made")
    model = two_gears(store)
    put(register, store, model)
    other = tuple(replace(p, description="Cast") if p.id == "CASE" else p for p in model.products)
    assert set(put(register, store, replace(model, products=other))) == {"CASE/A.2", "GN/A.2", "GS/A.2"}
