"""IGES into the model: structure, looks, kinds of bodies, and joining."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from gondrel.core.errors import GondrelError
from gondrel.core.formats.iges.compose import EntityComposer
from gondrel.core.formats.settings import ReceiveSettings
from gondrel.core.kernel.exchange.iges_out import write_iges_body
from gondrel.core.kernel.modelling.build import block, cut, moved, sphere
from gondrel.core.model.body import BodyKind
from gondrel.core.model.mass import totals_of
from gondrel.core.service.receive import measure_all, receive
from tests.core.formats.iges.texts import add_block, add_lid, header, text_of


def _received(data: bytes, tmp_path: Path, store: str, **settings):
    path = tmp_path / "in.igs"
    path.write_bytes(data)
    model = receive(str(path), store, ReceiveSettings(**settings))
    return model, measure_all(model.blobs(), store)


def test_subfigures_are_products_and_instances_occurrences(tmp_path, store_folder) -> None:
    def fill(make: EntityComposer) -> None:
        body = add_block(make, 2, 3, 4)
        pin = make.add(308, [0, b"Pin", 1, body])
        quarter = make.add(124, [0.0, -1.0, 0.0, 5.0, 1.0, 0.0, 0.0, 6.0, 0.0, 0.0, 1.0, 7.0])
        uses = [
            make.add(408, [pin, 10.0, 0.0, 0.0, 1.0]),
            make.add(408, [pin, 0.0, 0.0, 0.0, 1.0], transform=quarter),
        ]
        top = make.add(308, [1, b"Top", 2, *uses])
        make.add(408, [top, 0.0, 0.0, 0.0, 1.0])

    model, facts = _received(text_of(fill), tmp_path, store_folder)
    assert [model.product(r).name for r in model.roots] == ["Top"]
    assert [p.name for p in model.products] == ["Top", "Pin"]
    first, second = model.products[0].occurrences
    assert first.placement[3::4] == (10.0, 0.0, 0.0, 1.0)
    assert second.placement[:8] == (0.0, -1.0, 0.0, 5.0, 1.0, 0.0, 0.0, 6.0)
    (body,) = model.products[1].bodies
    assert facts[body.blob].volume == pytest.approx(24.0, rel=1e-12)


def test_a_scaled_instance_is_read_as_it_is(tmp_path, store_folder) -> None:
    def fill(make: EntityComposer) -> None:
        pin = make.add(308, [0, b"Pin", 1, add_block(make, 2, 3, 4)])
        make.add(408, [pin, 0.0, 0.0, 0.0, 1.0])
        make.add(408, [pin, 50.0, 0.0, 0.0, 2.0])

    model, facts = _received(text_of(fill), tmp_path, store_folder)
    volumes = sorted(facts[b.blob].volume for _, b in model.bodies())
    assert volumes == pytest.approx([24.0], rel=1e-12)
    totals = totals_of(model, facts)
    assert sum(totals[root].volume for root in model.roots) == pytest.approx(24.0 + 192.0, rel=1e-12)
    assert "placed-scaled" in {note.code for note in model.notes}


def test_colours_levels_and_names(tmp_path, store_folder) -> None:
    def fill(make: EntityComposer) -> None:
        body = add_lid(make)
        make.out(body + 4).colour = 2

    model, _ = _received(text_of(fill), tmp_path, store_folder)
    ((_, body),) = model.bodies()
    assert body.name == "Lid" and body.layers == ("Housing",) and body.colour is not None
    assert body.colour.hex == "#996633"
    ((face, colour),) = body.face_colours
    assert colour.hex == "#ff0000" and 0 <= face < 6


def test_transformed_solids_stand_where_they_should(tmp_path, store_folder) -> None:
    def fill(make: EntityComposer) -> None:
        body = add_block(make, 2, 3, 4)
        place = make.add(124, [1.0, 0.0, 0.0, 100.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0])
        make.out(body).transform = place

    model, facts = _received(text_of(fill), tmp_path, store_folder)
    ((_, body),) = model.bodies()
    assert facts[body.blob].centroid == pytest.approx((101.0, 1.5, 2.0), abs=1e-9)


def test_loose_surfaces_are_joined_unless_told_not_to(tmp_path, store_folder) -> None:
    data = write_iges_body(cut(block(20, 20, 20), sphere(5)), "mm", as_solid=False)
    model, _ = _received(data, tmp_path, store_folder)
    ((_, body),) = model.bodies()
    assert body.kind is BodyKind.SOLID
    assert "surfaces-joined" in {n.code for n in model.notes}
    loose, _ = _received(data, tmp_path, store_folder, join=0.0)
    assert {b.kind for _, b in loose.bodies()} == {BodyKind.SHEET} and len(list(loose.bodies())) == 7


def test_a_cavity_of_loose_surfaces_is_a_cavity(tmp_path, store_folder) -> None:
    hollow = cut(block(20, 20, 20), moved(sphere(5), by=(10, 10, 10)))
    data = write_iges_body(hollow, "mm", as_solid=False)
    model, facts = _received(data, tmp_path, store_folder)
    ((_, body),) = model.bodies()
    from math import pi

    assert facts[body.blob].volume == pytest.approx(8000 - 4 / 3 * pi * 125, rel=1e-9)


def test_construction_geometry_and_endless_planes_are_kept_apart(tmp_path, store_folder) -> None:
    def fill(make: EntityComposer) -> None:
        add_block(make, 2, 3, 4)
        make.add(108, [0.0, 0.0, 1.0, 5.0, 0, 0.0, 0.0, 0.0, 0.0])
        make.add(110, [0.0, 0.0, 0.0, 1.0, 0.0, 0.0], status="00000600")

    model, _ = _received(text_of(fill), tmp_path, store_folder)
    apart = [p for p in model.products if p.is_reference]
    assert len(apart) == 1 and {b.kind for b in apart[0].bodies} == {BodyKind.SHEET, BodyKind.WIRE}


def test_connected_curves_make_one_wire(tmp_path, store_folder) -> None:
    def fill(make: EntityComposer) -> None:
        make.add(110, [0.0, 0.0, 0.0, 10.0, 0.0, 0.0])
        make.add(110, [10.0, 0.0, 0.0, 10.0, 5.0, 0.0])
        make.add(110, [50.0, 0.0, 0.0, 60.0, 0.0, 0.0])
        make.add(116, [1.0, 2.0, 3.0, 0])

    model, facts = _received(text_of(fill), tmp_path, store_folder)
    kinds = [b.kind for _, b in model.bodies()]
    assert kinds.count(BodyKind.WIRE) == 2 and kinds.count(BodyKind.POINT) == 1
    assert sorted(facts[b.blob].length for _, b in model.bodies()) == pytest.approx([0.0, 10.0, 15.0])


def test_what_is_not_taken_over_is_told(tmp_path, store_folder) -> None:
    def fill(make: EntityComposer) -> None:
        add_block(make, 2, 3, 4)
        make.add(212, [1, 3, 1.0, 1.0, 1, 1.5, 0.0, 0, 0, 0.0, 0.0, 0.0, b"abc"])
        make.add(158, [5.0])

    model, _ = _received(text_of(fill), tmp_path, store_folder)
    told = [n.text for n in model.notes if n.code == "entities-not-taken-over"]
    assert len(told) == 2 and any("sphere" in text for text in told)


@pytest.mark.slow
def test_damaged_files_give_errors_or_notes(tmp_path, store_folder) -> None:
    """300 damaged files, seeded: bytes changed, cut off, lines dropped and doubled, pointers redirected."""
    whole = text_of(lambda make: (add_block(make, 2, 3, 4), add_block(make, 2, 3, 4, as_solid=False)))
    dice = random.Random(5)
    path = tmp_path / "damaged.igs"
    outcomes = {"error": 0, "model": 0}
    for _ in range(300):
        data = bytearray(whole)
        way = dice.randrange(4)
        if way == 0:
            for _ in range(dice.randint(1, 8)):
                data[dice.randrange(len(data))] = dice.randrange(32, 127)
        elif way == 1:
            del data[dice.randrange(len(data)) :]
        elif way == 2:
            at = dice.randrange(len(data) // 81) * 81
            data[at : at + 81] = b"" if dice.random() < 0.5 else data[at : at + 81] * 2
        else:
            text = data.decode()
            number = str(dice.randrange(1, 60))
            data = bytearray(text.replace(f",{number},", f",{dice.randrange(0, 10**6)},", 1).encode())
        path.write_bytes(bytes(data))
        try:
            receive(str(path), store_folder)
            outcomes["model"] += 1
        except GondrelError:
            outcomes["error"] += 1
    assert outcomes["error"] > 50 and outcomes["model"] > 20, outcomes


def test_the_unit_scales_everything(tmp_path, store_folder) -> None:
    def fill(make: EntityComposer) -> None:
        pin = make.add(308, [0, b"Pin", 1, add_block(make, 2, 3, 4)])
        use = make.add(408, [pin, 10.0, 0.0, 0.0, 1.0])
        top = make.add(308, [1, b"Top", 1, use])
        make.add(408, [top, 0.0, 0.0, 0.0, 1.0])

    model, facts = _received(text_of(fill, header(1, "IN")), tmp_path, store_folder)
    assert model.products[0].occurrences[0].placement[3] == pytest.approx(254.0)
    ((_, body),) = model.bodies()
    assert facts[body.blob].volume == pytest.approx(24 * 25.4**3, rel=1e-12)
