"""The page on steps files lists the steps there are, and its example can be read."""

from __future__ import annotations

import importlib.util
import re
from pathlib import Path

from gondrel.core.arrange.steps.file import ALL_KINDS, read_steps
from tests.conftest import ROOT


def test_the_page_is_up_to_date_and_its_example_is_a_steps_file(tmp_path: Path) -> None:
    spec = importlib.util.spec_from_file_location("steps_page", ROOT / "scripts" / "steps_page.py")
    assert spec is not None and spec.loader is not None
    script = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(script)
    text = (ROOT / "docs" / "steps.md").read_text("utf-8")
    assert script.page(text) == text, "run scripts/steps_page.py"
    assert all(f"**{key}**" in text for key in ALL_KINDS)
    example = re.search(r"```toml\n(.*?)```", text, re.DOTALL)
    assert example is not None
    path = tmp_path / "example.toml"
    path.write_text(example.group(1))
    assert [step.do for step in read_steps(path)] == ["recover", "set", "hole", "keep"]
