"""The page of checks says what the checks say."""

from __future__ import annotations

import runpy

from tests.conftest import ROOT


def test_the_page_is_up_to_date() -> None:
    script = runpy.run_path(str(ROOT / "scripts" / "document_checks.py"))
    for name in ("checks", "mends"):
        made = script[f"{name}_page"]()
        assert (ROOT / "docs" / f"{name}.md").read_text("utf-8") == made
