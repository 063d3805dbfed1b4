"""The record of a product's one body, against the kernel's own search through all it transferred."""

from __future__ import annotations

import hashlib

import pytest

from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.exchange import step_in


def records(path: str) -> list[tuple[int, int, tuple[int, ...]]]:
    """Record, number of faces and their order of every body of a file."""
    result = step_in.read_step(path, lambda shape: hashlib.sha256(shape_to_blob(shape)).hexdigest())
    return [(b.record, b.faces, b.order) for p in result.products.values() for b in p.bodies]


@pytest.fixture
def files(as1: str, demo_file: str, occt_files: list[str]) -> list[str]:
    steps = [path for path in occt_files if path.lower().endswith((".step", ".stp"))]
    return [as1, demo_file, *(path for path in steps if "linkrods" not in path)]


def test_it_is_the_record_that_the_kernel_names(files: list[str], monkeypatch: pytest.MonkeyPatch) -> None:
    known = []
    alone = step_in._Collector.alone

    def counted(self, label):  # type: ignore[no-untyped-def]
        found = alone(self, label)
        known.append(bool(found))
        return found

    for path in files:
        monkeypatch.setattr(step_in._Collector, "alone", counted)
        fast = records(path)
        monkeypatch.setattr(step_in._Collector, "alone", lambda self, label: {})
        assert fast == records(path), path
        assert all(record for record, _, _ in fast)
    assert sum(known) >= 30, "the bodies of as1 and of the demo at least are known at once"
