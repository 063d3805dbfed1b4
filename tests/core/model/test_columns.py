"""Objects that go between processes by columns come out as they went in."""

from __future__ import annotations

import pickle
from dataclasses import FrozenInstanceError, replace

import pytest

from gondrel.core.carriage.forecast import Forecast, Foreseen
from gondrel.core.carriage.items import Item
from gondrel.core.model import IDENTITY, Metadatum, Model, Occurrence, Product, Rgba
from gondrel.core.model.columns import columns_of, from_columns
from gondrel.core.model.verdicts import Fate

PLAIN = Occurrence("a", "p", "Pin")
TOLD = Occurrence(
    "b", "q", "Gear", (1, 0, 0, 0.1 + 0.2, 0, 1, 0, -0.0, 0, 0, 1, 1e-300, 0, 0, 0, 1), Rgba(0.1, 0.2, 0.3),
    hidden=True, metadata=(Metadatum("made of", "steel"),), centroid=(1.0, 2.0, 3.0), layers=("L1",),
    own_colours=(("b1", -1, Rgba(1.0, 0.0, 0.0)),), left_out=True,
)  # fmt: skip


@pytest.mark.parametrize("uses", [(), (PLAIN,), (PLAIN, TOLD, PLAIN)])
def test_they_come_back_as_they_were(uses: tuple[Occurrence, ...]) -> None:
    assert from_columns(Occurrence, columns_of(Occurrence, uses)) == uses


def test_a_product_goes_whole_through_a_pipe() -> None:
    product = Product("t", "T-1", "Top", "B", metadata=(Metadatum("x", 1.5),), occurrences=(PLAIN, TOLD))
    again = pickle.loads(pickle.dumps(Model((product,), ("t",)))).products[0]
    assert again == product and hash(again.occurrences) == hash(product.occurrences)
    assert [type(n) for n in again.occurrences[1].placement] == [type(n) for n in TOLD.placement]
    assert again.occurrences[0].placement == IDENTITY
    with pytest.raises(FrozenInstanceError):
        again.occurrences[0].name = "other"
    assert replace(again.occurrences[0], name="other").name == "other"


def test_a_forecast_goes_whole_through_a_pipe() -> None:
    entries = (
        Foreseen(Item("name", "p", "", "Pin", "Pin", 1, ("p",)), Fate.CARRIED),
        Foreseen(Item("colour", "p", "2", "Pin", "red"), Fate.LOST, "colours of faces have no place", 3),
    )
    forecast = Forecast("STEP", entries, ("said",), "mm")
    assert pickle.loads(pickle.dumps(forecast)) == forecast
    assert pickle.loads(pickle.dumps(Forecast("STEP", ()))).entries == ()
