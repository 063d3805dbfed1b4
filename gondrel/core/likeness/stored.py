"""Which of many stored bodies are the same shape, looked at by two processes where there are many."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence
from functools import partial
from pathlib import Path

from gondrel.core.kernel.derive import landmarks_of
from gondrel.core.likeness.groups import Group, clusters, grouped, joined
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.codec import from_plain, to_plain
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import private_folder
from gondrel.core.work.sharing import share_work

__all__ = ["like_bodies"]

_PIECE = 40
"""Most bodies that are looked at as one piece of work."""

_WORTH_SHARING = 400
"""Bodies from which on a second process makes up for the time it takes to start."""


def like_bodies(
    blobs: Sequence[str], facts: Mapping[str, BodyFacts], store: BlobStore, *, progress: Progress = SILENT
) -> list[Group]:
    """Bodies by shape, in the order in which the first of each comes.

    Raises:
        KernelRefused: when the kernel fails over one.
    """
    order = {blob: place for place, blob in enumerate(dict.fromkeys(blobs))}
    pieces: list[list[str]] = []
    homes: list[int] = []
    found = clusters(order, facts)
    for number, cluster in enumerate(found):
        for start in range(0, len(cluster), _PIECE):
            pieces.append(cluster[start : start + _PIECE])
            homes.append(number)

    def told(done: int, _: object) -> None:
        progress.at(done / max(len(pieces), 1), "Comparing bodies")

    with private_folder() as folder:
        args = (str(store.folder), str(folder))
        jobs = [
            (n, piece, {b: facts[b] for b in piece}) for n, piece in enumerate(pieces) if len(piece) > 1
        ]
        if sum(len(piece) for _, piece, _ in jobs) >= _WORTH_SHARING:
            share_work(_look, jobs, args, before_each=told)
        else:
            for done, job in enumerate(jobs):
                told(done, job)
                _look(job, *args)
        parts: list[list[list[Group]]] = [[] for _ in found]
        for number, (piece, home) in enumerate(zip(pieces, homes, strict=True)):
            made = _read(folder, number) if len(piece) > 1 else [Group.of(piece[0])]
            parts[home].append(made)
    groups: list[Group] = []
    for each in parts:
        groups += joined(each, facts, partial(landmarks_of, store)) if len(each) > 1 else each[0]
    return sorted(groups, key=lambda group: order[group.first])


def _look(job: tuple[int, list[str], dict[str, BodyFacts]], store_folder: str, out: str) -> None:
    """Group the bodies of one piece and leave what was found in a file."""
    number, piece, facts = job
    store = BlobStore(Path(store_folder))
    groups = grouped(piece, facts, partial(landmarks_of, store, keep=False))
    target = Path(out) / str(number)
    target.with_suffix(".new").write_text(json.dumps([to_plain(group) for group in groups]))
    target.with_suffix(".new").replace(target)


def _read(folder: Path, number: int) -> list[Group]:
    return list(_groups((folder / str(number)).read_text()))


def _groups(text: str) -> Iterator[Group]:
    for plain in json.loads(text):
        yield from_plain(plain, Group)
