"""IGES there and back, and outside files against another reader."""

from __future__ import annotations

from collections import Counter
from pathlib import Path

import pyiges
import pytest

from gondrel.core.formats.iges.records import open_iges
from gondrel.core.model.store import BlobStore
from gondrel.core.service.cards import file_card
from gondrel.core.service.receive import measure_all, receive
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from tests.builders import small_assembly
from tests.conftest import outside

pytestmark = pytest.mark.slow

OUTSIDE = "usr/share/opencascade/data/iges"
KINDS = ("iges-solid", "iges-surface")


def _sent(model, out, kind: str, store: str, **values):
    sent = send(model, str(out), kind, settings_from(values), store)
    assert not sent.proof.unannounced, sent.proof.unannounced
    assert not sent.proof.false_alarms, sent.proof.false_alarms
    return sent


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("which", ["demo", "as1"])
def test_assemblies_there_and_back(which, kind, demo_file, as1, tmp_path, store_folder) -> None:
    model = receive(demo_file if which == "demo" else as1, store_folder)
    there = _sent(model, tmp_path / "out.igs", kind, store_folder)
    fates = {e.thing: e.verdict for e in there.proof.ledger.entries}
    assert there.proof.max_volume_error < 1e-6 and there.proof.max_deviation < 1e-5
    for thing in ("bodies", "structure", "placement", "numbers", "revisions", "layers"):
        assert fates[thing] == "carried", thing
    assert fates["validation"] == "lost"


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("unit", ["mm", "inch", "m"])
def test_everything_a_model_can_have(kind, unit, tmp_path, store_folder) -> None:
    model = small_assembly(BlobStore(Path(store_folder)))
    sent = _sent(model, tmp_path / "out.igs", kind, store_folder, unit=unit, author="A", organisation="B")
    altered = {c.item.aspect for e in sent.proof.ledger.entries for c in e.items if c.verdict == "altered"}
    assert {"body name", "Text#1", "body colour"} <= altered
    card = file_card(str(tmp_path / "out.igs"))
    assert card.length_unit == unit and card.written_by.author == "A"
    typed = {m.key: m.value for m in sent.returned.products[0].metadata}
    assert typed["Count"] == 7 and typed["Weight"] == 0.125 and typed["Checked"] is True


@pytest.mark.parametrize("name", ["bearing.iges", "hammer.iges"])
def test_outside_files_are_counted_as_another_reader_counts_them(name, tmp_path, store_folder) -> None:
    """Source: package occt-misc (the kernel's data), read by pyiges, which shares no code with us."""
    path = str(outside(OUTSIDE) / name)
    theirs = Counter(entity.d["entity_type_number"] for entity in pyiges.read(path).items)
    ours = open_iges(path).counts
    assert ours == theirs
    model = receive(path, store_folder)
    facts = measure_all(model.blobs(), store_folder)
    assert sum(f.faces for f in facts.values()) == ours[144]
    for kind, suffix in (("step-ap214", "stp"), ("xt-text", "x_t")):
        _sent(model, tmp_path / f"out.{suffix}", kind, store_folder)
