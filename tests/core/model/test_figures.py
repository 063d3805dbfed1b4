"""Check figures of a sender against the shape."""

from __future__ import annotations

from dataclasses import replace

import pytest

from gondrel.core.model import Validation
from gondrel.core.model.figures import (
    ASTRAY,
    CONTRADICTS,
    astray,
    contradicted,
    notional_of,
    placed_centroid,
)
from gondrel.core.model.mass import totals_of
from gondrel.core.model.notes import with_measured_notes
from gondrel.core.service.receive import measure_all, receive
from tests.ui.presenters.models import facts, gate


def _with(**figures):
    """The gate with check figures on its pin, whose body measures 1000 mm3 and 600 mm2."""
    model = gate()
    pin = replace(model.product("pin"), validation=Validation(**figures))
    return model.with_product(pin), {body.blob: facts() for _, body in model.bodies()}


def test_figures_that_agree_say_nothing() -> None:
    for figures in ({}, {"volume": 1000.0, "area": 600.0}, {"volume": 1000.0 * (1 + CONTRADICTS / 2)}):
        model, measured = _with(**figures)
        assert contradicted(model, measured) == {}


def test_each_figure_is_told_with_both_values() -> None:
    model, measured = _with(volume=1100.0, area=500.0, centroid=(0.0, 0.0, 5.0), occurrences=2)
    (told,) = contradicted(model, measured).values()
    assert len(told) == 4
    assert "1100 mm3 by the sender, 1000 mm3 as it stands" in told[0]
    assert "500 mm2 by the sender, 600 mm2 as it stands" in told[1]
    assert "(0.0000, 0.0000, 5.0000) by the sender, (0.0000, 0.0000, 0.0000) as it stands" in told[2]
    assert told[3] == "2 children by the sender, 0 as it stands"


def test_what_was_not_measured_contradicts_nothing() -> None:
    model, measured = _with(volume=1.0)
    del measured["blob-pin"]
    assert contradicted(model, measured) == {}


def test_a_part_whose_file_is_missing_contradicts_nothing() -> None:
    model, measured = _with(volume=1000.0)
    pin = replace(model.product("pin"), bodies=(), missing_file="pin.stp")
    top = replace(model.product("top"), validation=Validation(volume=5000.0))
    assert contradicted(model.with_product(pin).with_product(top), measured) == {}


def test_it_is_a_note_of_its_part() -> None:
    model, measured = _with(volume=1100.0)
    (note,) = [n for n in with_measured_notes(model, measured).notes if n.code == "figures-contradict"]
    assert note.where == "Pin" and "1100" in note.text
    again = with_measured_notes(with_measured_notes(model, measured), measured)
    assert sum(n.code == "figures-contradict" for n in again.notes) == 1


@pytest.mark.slow
def test_figures_of_components_meet_those_of_an_outside_assembly(as1, store_folder) -> None:
    """Debian's gmsh-doc: the sender's own centroids of 13 components and middles of four assemblies."""
    model = receive(as1, store_folder)
    measured = measure_all(model.blobs(), store_folder)
    totals = totals_of(model, measured)
    uses = [use for _, use in model.occurrences()]
    assert len(uses) == 13 and all(use.centroid is not None for use in uses)
    for use in uses:
        assert placed_centroid(use, totals) == pytest.approx(use.centroid, abs=5e-3)
    middles = [p for p in model.products if p.validation is not None and p.validation.notional is not None]
    assert len(middles) == 4
    for product in middles:
        assert product.validation is not None
        assert notional_of(product) == pytest.approx(product.validation.notional, abs=1e-8)
    assert astray(model, measured) == {} and contradicted(model, measured) == {}


@pytest.mark.slow
def test_a_component_that_lies_elsewhere_than_its_sender_says_is_told(as1, store_folder) -> None:
    model = receive(as1, store_folder)
    measured = measure_all(model.blobs(), store_folder)
    parent, use = next(iter(model.occurrences()))
    assert use.centroid is not None
    moved = replace(use, centroid=(use.centroid[0] + 2 * ASTRAY, *use.centroid[1:]))
    uses = tuple(moved if o.id == use.id else o for o in parent.occurrences)
    wrong = model.with_product(replace(parent, occurrences=uses))
    assert list(astray(wrong, measured)) == [use.id]
