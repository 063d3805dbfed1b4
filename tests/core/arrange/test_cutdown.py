"""The demo cut down by filters."""

from __future__ import annotations

from pathlib import Path

import pytest

from gondrel.core.arrange.cutdown import PartFilter, Traits, cut_down, figures_of, matching_parts
from gondrel.core.arrange.steps.base import Context
from gondrel.core.arrange.steps.cutting import standard_ids
from gondrel.core.errors import UsageError
from gondrel.core.model import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.service.intake import receive_by
from gondrel.core.service.receive import measure_all
from gondrel.core.service.settings import receive_options_from


@pytest.fixture
def demo(demo_file: str, store_folder: str) -> Model:
    return receive_by(demo_file, store_folder, receive_options_from({}))


def names(model: Model) -> set[str]:
    return {p.name for p in model.products if p.bodies and model.quantities[p.id]}


def test_frames_and_shaft_for_a_founder(demo: Model, store_folder: str) -> None:
    facts = measure_all(demo.blobs(), store_folder)
    wanted = PartFilter(names=("base plate", "side frame*", "pinion shaft"))
    _, cut = cut_down(demo, matching_parts(demo, wanted, facts), keep=True)
    assert names(cut) == {"Base plate", "Side frame, right", "Side frame, left", "Pinion shaft"}
    cut.check_structure()
    sizes = dict.fromkeys(demo.blobs(), 1)
    before, after = figures_of(demo, facts, sizes), figures_of(cut, facts, sizes)
    assert (after.parts, after.places, after.bodies) == (4, 4, 4) and before.places == 65
    assert after.bytes == 4 and after.volume < before.volume
    left = sum(facts[b.blob].volume for _, b in cut.bodies())
    assert after.volume == pytest.approx(left)


def test_each_condition(demo: Model, store_folder: str) -> None:
    facts = measure_all(demo.blobs(), store_folder)

    def found(**wanted: object) -> set[str]:
        chosen = PartFilter(**wanted)  # type: ignore[arg-type]
        traits = Traits()
        if chosen.standard is not None:
            traits = Traits(standard_ids(Context(demo, BlobStore(Path(store_folder)))))
        return {demo.product(i).name for i in matching_parts(demo, chosen, facts, traits)}

    assert "Washer 12" in found(smaller=35.0) and "Base plate" not in found(smaller=35.0)
    assert found(larger=400.0) & {"Base plate", "Rack bar"} == {"Base plate", "Rack bar"}
    assert found(layers=("fasteners",)) == found(standard=True)
    assert found(least_share=0.3) <= {"Base plate", "Rack bar", "Spur wheel 40 T"}
    assert found(numbers=("PG-81?",)) == {"Hexagon screw M12 \u00d7 45", "Hexagon nut M12",
                                          "Hexagon nut M16", "Washer 12"}  # fmt: skip
    assert found(kinds=("sheet",)) == set()
    assert found(materials=("*steel*",)) or found(materials=("*",))


def test_nothing_left_and_nothing_cut_are_refused(demo: Model) -> None:
    parts = [p.id for p in demo.products if p.bodies]
    with pytest.raises(UsageError, match="nothing would be cut"):
        cut_down(demo, parts, keep=True)
    with pytest.raises(UsageError, match="no part would be left"):
        cut_down(demo, parts, keep=False)
    with pytest.raises(UsageError, match="nothing is said"):
        matching_parts(demo, PartFilter(), {})
