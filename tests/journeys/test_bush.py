"""The demo's bush as its supplier sends it: one half kept, mirrored and united to the whole."""

from __future__ import annotations

from pathlib import Path

import pytest

from gondrel.cli.main import main
from gondrel.core.service.intake import receive_by
from gondrel.core.service.receive import measure_all
from gondrel.core.service.settings import receive_options_from
from gondrel.demo.bush import half_volume
from gondrel.demo.make import BUSH_NAME

pytestmark = pytest.mark.slow

STEPS = """
version = 1

[[step]]
do = "drop"
names = ["Roller"]

[[step]]
do = "independent"
items = { name = "Plummer bush half" }
name = "Other half"
place = 2

[[step]]
do = "delete"
items = { name = "Other half" }

[[step]]
do = "mirror-body"
items = { name = "Plummer bush half" }
normal = [0.0, 1.0, 0.0]
"""


def test_a_half_is_mirrored_and_united_to_the_whole(
    demo_file: str, store_folder: str, tmp_path: Path
) -> None:
    """Twice half of a ring with two collars, in closed form."""
    steps, out = tmp_path / "steps.toml", tmp_path / "bush.stp"
    steps.write_text(STEPS)
    path = str(Path(demo_file).with_name(BUSH_NAME))
    assert main(["arrange", path, "--steps", str(steps), "--out", str(out), "--as", "step-ap242"]) == 0
    model = receive_by(str(out), store_folder, receive_options_from({}))
    facts = measure_all(model.blobs(), store_folder)
    bodies = [b for place in model.walk() for b in model.product(place.product).bodies]
    assert len(bodies) == 1
    assert facts[bodies[0].blob].volume == pytest.approx(2 * half_volume(), rel=1e-6)
