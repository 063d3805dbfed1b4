"""Prove: what was meant against what came back, by two witnesses."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path

from gondrel.core.carriage.forecast import Forecast
from gondrel.core.carriage.ledger import Proof
from gondrel.core.carriage.proof import prove_models
from gondrel.core.carriage.sides import Measure
from gondrel.core.carriage.witness import compare_witnesses
from gondrel.core.kernel.derive import deviation_of, edge_spots_of, landmarks_of, spots_of
from gondrel.core.kernel.measure.deviation import Deviation
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.graft import side_by_side
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.model.verdicts import Verdict
from gondrel.core.service.beside import measuring_beside
from gondrel.core.service.other import OtherReader
from gondrel.core.service.receive import measure_all, receive
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.machine import give_memory_back

__all__ = ["deviations_of", "prove_against", "prove_files"]


def prove_files(
    meant_path: str, returned_path: str, store_folder: str, *, progress: Progress = SILENT
) -> tuple[Proof, Model, Model]:
    """Read two files raw and compare the second with the first.

    Returns: the proof, and both models.

    Raises:
        InputError: when one of them can't be read.
    """
    with measuring_beside(store_folder, progress.part(0.0, 0.3)) as reading:
        meant = receive(meant_path, store_folder, progress=reading)
        facts = measure_all(meant.blobs(), store_folder, progress=progress.part(0.3, 0.4))
    rest = progress.part(0.4, 1.0)
    back, proof, _ = prove_against(meant, facts, [returned_path], store_folder, None, rest)
    return proof, meant, back


def prove_against(
    meant: Model,
    facts: Mapping[str, BodyFacts],
    paths: Sequence[str],
    store_folder: str,
    forecast: Forecast | None,
    progress: Progress = SILENT,
    *,
    other_reader: bool = True,
) -> tuple[Model, Proof, dict[str, BodyFacts]]:
    """Read files raw and compare them with the model they were meant to be.

    Args:
        paths: of files that stand side by side; those they refer to are read with them.
        other_reader: whether another reader reads them too.

    Returns: the returned model, the proof and the measures of the returned bodies.

    Raises:
        InputError: when the file can't be read back.
    """
    give_memory_back()  # what writing needed; the other reader begins as a copy of this process
    other = OtherReader(paths, tuple(facts.values()), wanted=other_reader)
    try:
        with measuring_beside(store_folder, progress.part(0.0, 0.5)) as share:
            parts = [
                receive(path, store_folder, progress=share.part(n / len(paths), (n + 1) / len(paths)))
                for n, path in enumerate(paths)
            ]
            returned = side_by_side(parts)
            back = measure_all(returned.blobs(), store_folder, progress=progress.part(0.5, 0.7))
        proof = prove_models(
            meant,
            returned,
            {**facts, **back},
            spots=partial(spots_of, BlobStore(Path(store_folder))),
            edge_spots=partial(edge_spots_of, BlobStore(Path(store_folder))),
            landmarks=partial(landmarks_of, BlobStore(Path(store_folder))),
            measure=deviations_of(BlobStore(Path(store_folder)), progress.part(0.7, 0.95)),
            forecast=forecast,
        )
        seen = other.lines(returned, back, progress.part(0.95, 1.0))
    finally:
        other.close()
    lines, agree = compare_witnesses(returned)
    verdict = proof.verdict if agree or proof.verdict is Verdict.LOST else Verdict.ALTERED
    return returned, replace(proof, witness=lines, verdict=verdict, other=seen), back


def deviations_of(store: BlobStore, progress: Progress = SILENT) -> Measure:
    """A measure of deviation that is told each body pair once."""
    done: dict[tuple[str, str], Deviation] = {}

    def measure(one: str, other: str) -> Deviation:
        if (one, other) not in done:
            progress.at(0.5, f"Comparing surfaces of body {len(done) + 1}")
            done[one, other] = deviation_of(store, one, other)
        return done[one, other]

    return measure
