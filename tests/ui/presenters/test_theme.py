"""Text can be read in both themes: contrast by the formula of WCAG 2.2, level AA.

Source: W3C, Web Content Accessibility Guidelines 2.2, success criterion 1.4.3 (4.5 to 1 for text) and
1.4.11 (3 to 1 for marks), with the relative luminance as defined there.
"""

from __future__ import annotations

import pytest

from gondrel.ui.widgets.theme import DARK, LIGHT, Palette

TEXT, MARK = 4.5, 3.0
THEMES = {"light": LIGHT, "dark": DARK}


def luminance(colour: str) -> float:
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    linear = [p / 12.92 if p <= 0.04045 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(one: str, other: str) -> float:
    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def test_the_formula_gives_the_published_extremes() -> None:
    assert contrast("#000000", "#ffffff") == pytest.approx(21.0)
    assert contrast("#777777", "#777777") == 1.0
    assert contrast("#767676", "#ffffff") == pytest.approx(4.54, abs=0.01), "just enough"


@pytest.mark.parametrize("theme", THEMES)
@pytest.mark.parametrize("ground", ["paper", "sheet", "field", "pine_soft", "ochre_soft", "brick_soft"])
def test_text_on_its_grounds(theme, ground) -> None:
    p: Palette = THEMES[theme]
    assert contrast(p.ink, getattr(p, ground)) >= 7.0
    assert contrast(p.quiet, getattr(p, ground)) >= TEXT


@pytest.mark.parametrize("theme", THEMES)
def test_the_band_and_the_verdicts(theme) -> None:
    p: Palette = THEMES[theme]
    assert contrast(p.on_band, p.band) >= 7.0
    assert contrast(p.band_quiet, p.band) >= TEXT
    assert contrast(p.band_quiet, p.band_field) >= TEXT
    for verdict in (p.pine, p.ochre, p.brick, p.accent):
        assert contrast(verdict, p.sheet) >= TEXT and contrast(verdict, p.paper) >= TEXT
    for verdict, soft in ((p.pine, p.pine_soft), (p.ochre, p.ochre_soft), (p.brick, p.brick_soft)):
        assert contrast(verdict, soft) >= MARK
