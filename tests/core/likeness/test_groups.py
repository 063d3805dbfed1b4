"""Many bodies by shape."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from scipy.spatial.transform import Rotation

from gondrel.core.kernel.base.shape import moved_copy, shape_to_blob
from gondrel.core.kernel.derive import facts_of, landmarks_of
from gondrel.core.kernel.modelling import build
from gondrel.core.likeness.groups import grouped
from gondrel.core.model.store import BlobStore
from gondrel.demo import parts


def test_copies_join_and_mirror_images_and_near_misses_do_not(tmp_path: Path) -> None:
    store = BlobStore(tmp_path)
    rng = np.random.default_rng(7)
    kinds = [parts.crank(), parts.washer(), build.cylinder(5, 20), build.cylinder(5, 20.02)]
    blobs: list[str] = []
    for number in range(20):
        matrix = np.eye(4)
        matrix[:3, :3] = Rotation.random(random_state=number).as_matrix()
        matrix[:3, 3] = rng.uniform(-100, 100, 3)
        shape = moved_copy(kinds[number % 4], tuple(matrix.ravel().tolist()))
        blobs.append(store.put(shape_to_blob(shape)))
    mirror = moved_copy(parts.crank(), (-1, 0, 0, 3, 0, 1, 0, 4, 0, 0, 1, 5, 0, 0, 0, 1))
    blobs.append(store.put(shape_to_blob(mirror)))
    groups = grouped(blobs, {b: facts_of(store, b) for b in blobs}, lambda b: landmarks_of(store, b))
    assert [len(group.members) for group in groups] == [5, 5, 5, 5, 1]
    assert [list(group.members) for group in groups[:4]] == [blobs[k:20:4] for k in range(4)]
    assert groups[4].mirror_of == blobs[0] and groups[4].mirror.is_mirrored
    assert max(fit.accuracy for group in groups for fit in group.members.values()) < 1e-6
