"""The page of checks says what the checks say."""

from __future__ import annotations

import runpy

from tests.conftest import ROOT


def test_the_page_is_up_to_date() -> None:
    made = runpy.run_path(str(ROOT / "scripts" / "document_checks.py"))["page"]()
    assert (ROOT / "docs" / "checks.md").read_text("utf-8") == made
