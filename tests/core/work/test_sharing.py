"""Work shared with a second process: everything is done once, whatever becomes of the helper."""

from __future__ import annotations

import os
import time
from pathlib import Path

import pytest

from gondrel.core.work import share_work


def note(item: int, folder: str, seconds: float) -> None:
    """Leave a file that says who did it."""
    time.sleep(seconds)
    Path(folder, str(item)).write_text(str(os.getpid()))


def die_elsewhere(item: int, folder: str, owner: int) -> None:
    """End any process but the first."""
    if os.getpid() != owner:
        os._exit(3)
    Path(folder, str(item)).write_text("done")


def test_both_do_some_and_all_is_done(tmp_path) -> None:
    told: list[int] = []
    share_work(
        note, list(range(24)), (str(tmp_path), 0.15), before_each=lambda done, item: told.append(done)
    )
    owners = {p.read_text() for p in tmp_path.iterdir()}
    assert sorted(int(p.name) for p in tmp_path.iterdir()) == list(range(24))
    assert str(os.getpid()) in owners and told == sorted(told)
    assert len(owners) == 2 or (os.cpu_count() or 1) < 2


def test_a_helper_that_dies_leaves_nothing_undone(tmp_path) -> None:
    share_work(
        die_elsewhere,
        list(range(12)),
        (str(tmp_path), os.getpid()),
        before_each=lambda done, item: time.sleep(0.2),
    )
    assert len(list(tmp_path.iterdir())) == 12


def test_one_item_needs_no_helper(tmp_path) -> None:
    share_work(note, [7], (str(tmp_path), 0.0), before_each=lambda done, item: None)
    assert (tmp_path / "7").read_text() == str(os.getpid())


def test_a_cancel_ends_both(tmp_path) -> None:
    class Enough(Exception):
        pass

    def tell(done: int, item: int) -> None:
        if done >= 3:
            raise Enough

    with pytest.raises(Enough):
        share_work(note, list(range(50)), (str(tmp_path), 0.05), before_each=tell)
    before = len(list(tmp_path.iterdir()))
    time.sleep(0.4)
    assert len(list(tmp_path.iterdir())) == before < 50, "the helper is gone too"
