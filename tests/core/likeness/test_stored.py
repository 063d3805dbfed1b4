"""Many stored bodies by shape, in pieces and in two processes."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from gondrel.core.kernel.base.shape import moved_copy, shape_to_blob
from gondrel.core.kernel.derive import facts_of, landmarks_of
from gondrel.core.kernel.modelling import build
from gondrel.core.likeness import stored
from gondrel.core.likeness.groups import grouped
from gondrel.core.model.store import BlobStore
from gondrel.demo import parts


@pytest.mark.parametrize("share_from", [1, 10_000])
def test_pieces_give_what_all_at_once_gives(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, share_from: int
) -> None:
    monkeypatch.setattr(stored, "_PIECE", 3)
    monkeypatch.setattr(stored, "_WORTH_SHARING", share_from)
    store = BlobStore(tmp_path)
    kinds = [parts.crank(), build.block(3, 4, 5), build.cylinder(5, 20), build.cylinder(5, 20.02)]
    blobs: list[str] = []
    for number in range(32):
        matrix = np.eye(4)
        matrix[:3, :3] = Rotation.random(random_state=number).as_matrix()
        if number % 8 == 4:
            matrix[:3, 0] *= -1
        blobs.append(
            store.put(shape_to_blob(moved_copy(kinds[number % 4], tuple(matrix.ravel().tolist()))))
        )
    facts = {blob: facts_of(store, blob) for blob in blobs}
    told = grouped(blobs, facts, lambda blob: landmarks_of(store, blob))
    made = stored.like_bodies(blobs, facts, store)
    assert [(g.first, set(g.members)) for g in made] == [(g.first, set(g.members)) for g in told]
    assert [g.mirror_of for g in made] == [g.mirror_of for g in told]
    middle = {blob: np.array([*facts[blob].centroid, 1.0]) for blob in blobs}
    for group in made:
        for blob, fit in group.members.items():
            assert fit.placement is not None
            placed = np.reshape(fit.placement, (4, 4)) @ middle[group.first]
            assert np.abs(placed - middle[blob]).max() < 1e-6
