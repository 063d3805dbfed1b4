"""Planted losses: each is found, by its own verdict, and is unannounced."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest

from gondrel.core.carriage.ledger import Proof
from gondrel.core.model import Model, Occurrence, Product
from gondrel.core.model.store import BlobStore
from gondrel.core.model.units import BY_KEY
from gondrel.core.service import send as sending
from gondrel.core.service.send import forecast_for, send
from gondrel.core.service.settings import settings_from
from tests.builders import small_assembly

pytestmark = pytest.mark.slow

Spoil = Callable[[Model], Model]


def change(model: Model, product_id: str, **fields: object) -> Model:
    return model.with_product(replace(model.product(product_id), **fields))


def drop_colour(model: Model) -> Model:
    plate = model.product("plate")
    return change(model, "plate", bodies=(replace(plate.bodies[0], colour=None),))


def drop_face_colour(model: Model) -> Model:
    plate = model.product("plate")
    return change(model, "plate", bodies=(replace(plate.bodies[0], face_colours=()),))


def drop_name(model: Model) -> Model:
    return change(model, "pin", name="")


def drop_occurrence_name(model: Model) -> Model:
    uses = model.product("top").occurrences
    return change(model, "top", occurrences=(*uses[:2], replace(uses[2], name="")))


def drop_occurrence(model: Model) -> Model:
    return change(model, "top", occurrences=model.product("top").occurrences[:2])


def drop_body(model: Model) -> Model:
    return change(model, "plate", bodies=())


def drop_revision(model: Model) -> Model:
    return change(model, "plate", revision="")


def change_number(model: Model) -> Model:
    return change(model, "plate", number="P-99")


def drop_layer(model: Model) -> Model:
    plate = model.product("plate")
    return change(model, "plate", bodies=(replace(plate.bodies[0], layers=("A",)),))


def drop_material(model: Model) -> Model:
    return change(model, "plate", material=None)


def drop_metadata(model: Model) -> Model:
    return change(model, "top", metadata=model.product("top").metadata[1:])


def move(model: Model) -> Model:
    uses = list(model.product("top").occurrences)
    placement = list(uses[2].placement)
    placement[3] += 0.01
    uses[2] = replace(uses[2], placement=tuple(placement))
    return change(model, "top", occurrences=tuple(uses))


def unshare(model: Model) -> Model:
    pin = model.product("pin")
    copy = replace(pin, id="pin2", bodies=tuple(replace(b, id="b-pin2") for b in pin.bodies))
    uses = list(model.product("top").occurrences)
    uses[2] = replace(uses[2], product="pin2")
    model = change(model, "top", occurrences=tuple(uses))
    return replace(model, products=(*model.products, copy))


def add_part(model: Model) -> Model:
    extra = Product("extra", "X", "Extra", bodies=(replace(model.product("pin").bodies[0], id="b-x"),))
    uses = model.product("top").occurrences
    model = change(model, "top", occurrences=(*uses, Occurrence("o9", "extra", "surplus")))
    return replace(model, products=(*model.products, extra))


PLANTED: list[tuple[Spoil, str, str]] = [
    (drop_colour, "colours", "lost"),
    (drop_face_colour, "colours", "lost"),
    (drop_name, "names", "lost"),
    (drop_occurrence_name, "names", "lost"),
    (drop_occurrence, "structure", "lost"),
    (drop_body, "bodies", "lost"),
    (drop_revision, "revisions", "lost"),
    (change_number, "numbers", "altered"),
    (drop_layer, "layers", "lost"),
    (drop_material, "materials", "lost"),
    (drop_metadata, "metadata", "lost"),
    (move, "placement", "altered"),
    (unshare, "structure", "altered"),
    (add_part, "structure", "added"),
]


def sent_with(
    spoil: Spoil, folder: Path, store_folder: str, monkeypatch: pytest.MonkeyPatch, unit: str = "mm"
) -> Proof:
    """Send a sound model through a writer that spoils it on the way."""
    model = small_assembly(BlobStore(Path(store_folder)))
    real = sending.written_files

    def spoiling(given: Model, *args: object, **more: object) -> dict[str, bytes]:
        return real(spoil(given), *args, **more)

    monkeypatch.setattr(sending, "written_files", spoiling)
    sent = send(model, str(folder / "x.stp"), "step-ap242", settings_from({"unit": unit}), store_folder)
    return sent.proof


@pytest.mark.parametrize(("spoil", "thing", "verdict"), PLANTED, ids=[s.__name__ for s, _, _ in PLANTED])
def test_a_planted_loss_is_caught(
    spoil: Spoil,
    thing: str,
    verdict: str,
    tmp_path: Path,
    store_folder: str,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    proof = sent_with(spoil, tmp_path, store_folder, monkeypatch)
    assert proof.ledger.of(thing).verdict == verdict
    assert proof.unannounced, "it was not announced"
    assert proof.verdict != "carried"
    assert proof.false_alarms == ()


def test_nothing_planted_nothing_found(
    tmp_path: Path, store_folder: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    proof = sent_with(lambda m: m, tmp_path, store_folder, monkeypatch)
    assert proof.verdict == "carried"
    assert proof.unannounced == ()
    assert {e.verdict for e in proof.ledger.entries if e.items} <= {"carried", "added"}
    assert proof.max_volume_error < 1e-9


def test_a_unit_taken_for_another_is_told_as_one_scale(
    tmp_path: Path, store_folder: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    model = small_assembly(BlobStore(Path(store_folder)))
    real = sending.written_files

    def mislabelled(*args: object, **more: object) -> dict[str, bytes]:
        ((name, data),) = real(*args, **more).items()
        assert b"SI_UNIT(.MILLI.,.METRE.)" in data
        inch = (
            b"(CONVERSION_BASED_UNIT('INCH',#900001) LENGTH_UNIT() NAMED_UNIT(#900003));\n"
            b"#900001=LENGTH_MEASURE_WITH_UNIT(LENGTH_MEASURE(25.4),#900002);\n"
            b"#900002=(LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT(.MILLI.,.METRE.));\n"
            b"#900003=DIMENSIONAL_EXPONENTS(1.,0.,0.,0.,0.,0.,0.)"
        )
        return {name: data.replace(b"(LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT(.MILLI.,.METRE.))", inch, 1)}

    monkeypatch.setattr(sending, "written_files", mislabelled)
    proof = send(model, str(tmp_path / "x.stp"), "step-ap242", settings_from({}), store_folder).proof
    scaled = [c for c in proof.ledger.of("units").items if c.item.aspect == "size"]
    assert len(scaled) == 1
    assert "25.4" in scaled[0].detail
    assert proof.ledger.of("geometry").verdict == "altered"
    assert proof.max_volume_error > 0.9
    assert proof.unannounced


@pytest.mark.parametrize("kind", ["step-ap242", "step-ap214", "step-ap203"])
@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_the_forecast_is_exact(kind: str, unit: str, tmp_path: Path, store_folder: str) -> None:
    model = small_assembly(BlobStore(Path(store_folder)))
    sent = send(model, str(tmp_path / "x.stp"), kind, settings_from({"unit": unit}), store_folder)
    assert sent.proof.unannounced == ()
    assert sent.proof.false_alarms == ()
    assert (sent.proof.ledger.of("units").verdict == "altered") == (unit == "inch")
    assert sent.proof.ledger.of("colours").verdict == ("lost" if kind == "step-ap203" else "carried")
    kept = {"step-ap242": "carried", "step-ap214": "altered", "step-ap203": "lost"}
    assert sent.proof.ledger.of("metadata").verdict == kept[kind]


def test_nothing_to_compare_is_never_carried(tmp_path: Path, store_folder: str) -> None:
    model = small_assembly(BlobStore(Path(store_folder)))
    bare = replace(
        model, products=(replace(model.product("pin"), material=None, metadata=()),), roots=("pin",)
    )
    proof = send(bare, str(tmp_path / "x.stp"), "step-ap242", settings_from({}), store_folder).proof
    for thing in ("placement", "materials"):
        entry = proof.ledger.of(thing)
        assert entry.is_empty
        assert entry.verdict == "unproved"


def test_units_are_part_of_the_forecast(store_folder: str) -> None:
    model = small_assembly(BlobStore(Path(store_folder)))
    assert BY_KEY["inch"].mm == 25.4
    forecast = forecast_for(model, "step-ap242", settings_from({"unit": "inch"}), store_folder)
    assert forecast.fate("units") == "altered"
    assert forecast.fate("geometry") == "carried"
