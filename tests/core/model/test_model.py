from __future__ import annotations

import json
import pickle
from dataclasses import replace
from pathlib import Path

import pytest

from gondrel.core.errors import GondrelError, MalformedFile, WriteFailed
from gondrel.core.model import Body, BodyFacts, BodyKind, History, Model, Occurrence, Product, Rgba
from gondrel.core.model.codec import from_plain, to_plain
from gondrel.core.model.mass import totals_of
from gondrel.core.model.snapshot import compose
from gondrel.core.model.store import BlobStore, write_whole
from gondrel.core.model.units import unit_of_size

QUARTER_TURN = (0, -1, 0, 5, 1, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)


def facts(volume: float, centroid: tuple[float, float, float]) -> BodyFacts:
    return BodyFacts(
        volume, 10.0, centroid, (1, 1, 1), (1,) * 9, (0, 0, 0, 1, 1, 1), 6, 12, 8, (), 1e-7, 12.0
    )


def two_level() -> Model:
    part = Product("part", "1", "part", bodies=(Body("b", BodyKind.SOLID, "", "h"),))
    sub = Product(
        "sub", "2", "sub", occurrences=(Occurrence("o1", "part", "a"), Occurrence("o2", "part", "b"))
    )
    top = Product("top", "3", "top", occurrences=(Occurrence("o3", "sub", "s", QUARTER_TURN),))
    return Model((top, sub, part), ("top",))


def test_walk_places_every_instance() -> None:
    places = list(two_level().walk())
    assert [p.product for p in places] == ["top", "sub", "part", "part"]
    assert places[2].placement == compose(QUARTER_TURN, Occurrence("x", "y", "z").placement)
    assert two_level().quantities["part"] == 2
    assert two_level().depth == 3


def test_totals_turn_and_shift_with_the_placement() -> None:
    totals = totals_of(two_level(), {"h": facts(8.0, (1.0, 0.0, 0.0))})
    assert totals["top"].volume == 16
    assert totals["top"].centroid == pytest.approx((5, 1, 0))
    assert totals["top"].bbox == pytest.approx((4, 0, 0, 5, 1, 1))
    assert totals["top"].solids == 2


def test_totals_of_a_model_that_contains_itself_end() -> None:
    loop = Product("a", "", "a", occurrences=(Occurrence("o", "a", ""),))
    assert totals_of(Model((loop,), ("a",)), {})["a"].volume == 0


def test_history_names_what_was_done_and_forgets_undone_steps() -> None:
    base, one, two = Model(), replace(Model(), roots=("a",)), replace(Model(), roots=("b",))
    history = History.begin(base, "Receive").did("Rename", one)
    assert history.undo().current.model is base
    assert not history.can_redo
    branched = history.undo().did("Recolour", two)
    assert [s.name for s in branched.steps] == ["Receive", "Recolour"]
    assert branched.redo() is branched
    with pytest.raises(IndexError):
        _ = History().current


def test_a_model_survives_json() -> None:
    model = two_level()
    assert from_plain(json.loads(json.dumps(to_plain(model))), Model) == model


def test_colours_read_and_write_hex() -> None:
    assert Rgba.from_hex("#1d5c7a").hex == "#1d5c7a"
    assert Rgba(1, 0, 0, 0.25).label == "#ff0000 75 % transparent"
    with pytest.raises(ValueError, match="rrggbb"):
        Rgba.from_hex("red")


def test_known_units_are_recognised_by_size() -> None:
    assert unit_of_size(25.4).key == "inch"
    assert unit_of_size(5.0, "STICK").key == "stick"


def test_files_appear_whole_or_not_at_all(tmp_path: Path) -> None:
    folder = tmp_path / "here"
    folder.mkdir()
    target = folder / "a.txt"
    write_whole(target, b"old")
    with pytest.raises(WriteFailed):
        write_whole(tmp_path / "none" / "a.txt", b"new")
    write_whole(target, b"new")
    assert target.read_bytes() == b"new"
    assert [p.name for p in folder.iterdir()] == ["a.txt"]


def test_the_store_gives_back_what_it_was_given(tmp_path: Path) -> None:
    store = BlobStore(tmp_path)
    key = store.put(b"abc")
    assert store.put(b"abc") == key
    assert store.get(key) == b"abc"
    with pytest.raises(KeyError):
        store.get("0" * 64)


def test_errors_cross_a_process_and_read_as_one_line() -> None:
    import pickle

    error = MalformedFile("is cut off", file="a.stp", where="#12", hint="ask again")
    back = pickle.loads(pickle.dumps(error))
    assert type(back) is MalformedFile
    assert str(back) == "a.stp: #12: is cut off (ask again)"
    assert isinstance(back, GondrelError)
    assert back.as_dict()["code"] == "malformed-file"


def test_a_pickled_model_holds_its_fields_and_nothing_worked_out_from_them() -> None:
    model = two_level()
    before = pickle.dumps(model)
    assert len(list(model.walk())) > 1 and model.quantities
    assert pickle.dumps(model) == before
    back = pickle.loads(before)
    assert back == model
    assert [place.path for place in back.walk()] == [place.path for place in model.walk()]
