"""Messages between processes, packed in turns with another thread."""

from __future__ import annotations

import pickle
import time

import numpy as np
import pytest

from gondrel.core.work import in_turns
from gondrel.jobs.packing import pack, unpack


def _long() -> dict[str, object]:
    return {
        "names": tuple(f"part {number}" for number in range(100_000)),
        "corners": np.arange(300_000.0).reshape(-1, 3),
        "raw": b"solid" * 100_000,
        "few": (1, 2.5, None),
    }


def test_a_message_comes_out_as_it_went_in() -> None:
    sent = _long()
    got = unpack(pack(sent, lambda: None), lambda: None)
    assert got["names"] == sent["names"]
    np.testing.assert_array_equal(got["corners"], sent["corners"])
    assert (got["raw"], got["few"]) == (sent["raw"], sent["few"])


def test_packing_gives_way_again_and_again(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(in_turns, "_TURN", 0.0)
    turns: list[float] = []
    data = pack(_long(), lambda: turns.append(time.perf_counter()))
    packing, frames = len(turns), len(data) // (1 << 16)
    assert frames > 15
    unpack(data, lambda: turns.append(time.perf_counter()))
    assert packing > 15
    assert len(turns) - packing > 15


def test_what_is_cut_off_is_an_error() -> None:
    data = pack(_long(), lambda: None)
    with pytest.raises((EOFError, pickle.UnpicklingError)):
        unpack(data[: len(data) // 2], lambda: None)
