"""Hatching can be seen on every colour."""

from __future__ import annotations

import pytest

from gondrel.core.model import Rgba
from gondrel.ui.scene.hatching import ink_on


@pytest.mark.parametrize(
    ("colour", "is_light"),
    [("#0000ff", True), ("#000000", True), ("#1a661a", True), ("#991a1a", True),
     ("#ff0000", False), ("#ffff00", False), ("#00ff00", False), ("#ffffff", False), ("#b0bccc", False)],
)  # fmt: skip
def test_lines_are_light_on_dark_and_dark_on_light(colour: str, is_light: bool) -> None:
    assert (ink_on(Rgba.from_hex(colour)).luminance > 0.5) == is_light
