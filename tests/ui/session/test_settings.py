"""What is kept between starts."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from gondrel.ui.session.settings import Settings, SettingsStore


def file_of(tmp_path: Path) -> Path:
    return tmp_path / "config" / "gondrel" / "settings.json"


def test_a_change_is_kept_and_told_once(tmp_path: Path) -> None:
    store, told = SettingsStore(), []
    store.changed.connect(lambda: told.append(1))
    store.change(author="A. Weir", decimals=2)
    store.change(author="A. Weir")
    assert told == [1]
    assert SettingsStore().now == Settings(author="A. Weir", decimals=2)


@pytest.mark.parametrize(
    "text", ["", "not json", "[]", '{"decimals": "many", "columns": [1], "recent": 3}']
)
def test_a_broken_file_falls_back_to_what_is_usual(tmp_path: Path, text: str) -> None:
    file_of(tmp_path).parent.mkdir(parents=True)
    file_of(tmp_path).write_text(text)
    assert SettingsStore().now.decimals == 3
    assert SettingsStore().now.recent == ()


def test_unknown_columns_and_odd_figures_are_brought_back_into_range(tmp_path: Path) -> None:
    file_of(tmp_path).parent.mkdir(parents=True)
    file_of(tmp_path).write_text(json.dumps({"columns": ["mass", "weather"], "decimals": 99, "later": 1}))
    now = SettingsStore().now
    assert now.columns == ("mass",)
    assert now.decimals == 6


def test_recent_files_come_newest_first_each_once() -> None:
    now = Settings()
    for number in range(20):
        now = now.with_recent(f"/f{number}")
    now = now.with_recent("/f15")
    assert now.recent[:2] == ("/f15", "/f19")
    assert len(now.recent) == len(set(now.recent)) == 12
