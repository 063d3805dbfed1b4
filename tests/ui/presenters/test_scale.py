"""The colours of a deviation."""

from __future__ import annotations

import numpy as np
import pytest

from gondrel.ui.presenters.scale import least_shown, scale_for


@pytest.mark.parametrize(("largest", "top"), [(0.037, 0.05), (0.05, 0.05), (0.0501, 0.1), (3.0, 5.0)])
def test_bands_end_at_a_round_figure_above_the_largest(largest: float, top: float) -> None:
    scale = scale_for(largest)
    assert scale.limits[-1] == pytest.approx(top)
    assert list(scale.limits) == sorted(scale.limits)
    assert len(scale.names) == len(scale.limits) + 1


def test_nothing_to_tell_is_one_band() -> None:
    assert scale_for(0.0).limits == ()
    assert scale_for(4e-5, least_shown(200.0)).limits == ()
    assert scale_for(9e-5, least_shown(200.0)).limits != ()


def test_values_fall_into_their_bands() -> None:
    scale = scale_for(0.04)
    colours = scale.colours(np.array([0.0, 0.004, 0.02, 0.049, 9.0]))
    assert colours.shape == (5, 3)
    assert (colours[0] == colours[1]).all()
    assert len({tuple(c) for c in colours.tolist()}) == 4


def test_the_least_told_grows_with_the_mesh() -> None:
    assert least_shown(1.0) == 1e-6
    assert least_shown(1000.0) == pytest.approx(2e-4)
