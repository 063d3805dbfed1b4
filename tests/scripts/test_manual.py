"""The manual page says what the commands say."""

from __future__ import annotations

import runpy

from tests.conftest import ROOT


def test_the_page_is_up_to_date() -> None:
    made = runpy.run_path(str(ROOT / "scripts" / "manual.py"))["manual"]()
    assert (ROOT / "docs" / "gondrel.1").read_text("utf-8") == made
