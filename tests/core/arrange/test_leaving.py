"""Components that stay here when the model is sent."""

from __future__ import annotations

from pathlib import Path

import pytest

from gondrel.core.arrange.leaving import going, leave_out
from gondrel.core.errors import UsageError
from gondrel.core.formats.settings import SendSettings
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling import build
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.store import BlobStore
from gondrel.core.service.send import forecast_for, send


@pytest.fixture
def model(store_folder: str) -> Model:
    store = BlobStore(Path(store_folder))

    def part(key: str, shape: object) -> Product:
        blob = store.put(shape_to_blob(shape))  # type: ignore[arg-type]
        return Product(key, key, key, bodies=(Body(f"b{key}", BodyKind.SOLID, key, blob),))

    away = (1.0, 0.0, 0.0, 50.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0)
    uses = (Occurrence("u", "Plate", ""), Occurrence("v", "Pin", "", away), Occurrence("w", "Pin", ""))
    parts = part("Plate", build.block(9, 8, 7)), part("Pin", build.cylinder(2, 9))
    return Model((Product("top", "T", "Top", occurrences=uses), *parts), ("top",))


def test_it_stays_in_the_model_and_not_in_what_goes(model: Model) -> None:
    words, changed = leave_out(model, {"v", "w"})
    assert words == "Leave 2 components out of what is sent" and len(changed.products) == 3
    left, told = going(changed)
    assert {p.id for p in left.products} == {"top", "Plate"}
    assert told == ("Left out of what is sent, as chosen: Pin (2 places).",)
    assert going(leave_out(changed, {"v", "w"}, out=False)[1]) == (model, ())
    with pytest.raises(UsageError, match="nothing would be sent"):
        leave_out(changed, {"u"})
    with pytest.raises(UsageError, match="nothing is changed"):
        leave_out(model, {"v"}, out=False)


@pytest.mark.parametrize("kind", ["step-ap242", "xt-text", "iges-solid", "obj"])
def test_every_target_leaves_it_out_and_says_so(
    model: Model, store_folder: str, tmp_path: Path, kind: str
) -> None:
    _, changed = leave_out(model, {"v"})
    forecast = forecast_for(changed, kind, SendSettings(), store_folder)
    assert forecast.remarks[0] == "Left out of what is sent, as chosen: Pin."
    sent = send(changed, str(tmp_path / "out"), kind, SendSettings(), store_folder)
    assert sent.forecast.remarks[0] == forecast.remarks[0]
    assert sum(
        1 for place in sent.returned.walk() for _ in sent.returned.product(place.product).bodies
    ) == (1 if kind == "stl" else 2)
