"""A STEP file through the kernel: given it whole, cleansed of what it would die of, or the parts alone."""

from __future__ import annotations

import mmap
import re
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from gondrel.core.errors import InputError, MalformedFile
from gondrel.core.formats.step.card import check_complete
from gondrel.core.formats.step.cleansed import cleansed
from gondrel.core.formats.step.graph import Graph, read_graph
from gondrel.core.formats.step.integrity import integrity_of
from gondrel.core.formats.step.join import BODIES
from gondrel.core.formats.step.links import links_of
from gondrel.core.formats.step.listed import Matrix, Shapes
from gondrel.core.formats.step.outline import Topology
from gondrel.core.formats.step.parts_alone import has_many_usages, is_plain, write_parts
from gondrel.core.formats.step.placed import Geometry
from gondrel.core.formats.step.put_together import put_together
from gondrel.core.formats.step.records import Records, open_records
from gondrel.core.formats.step.structure import places_of
from gondrel.core.formats.step.witness import Hearing
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.derive import keep_said
from gondrel.core.kernel.exchange.step_in import MAKING, Keep, Trace, read_step
from gondrel.core.kernel.exchange.transferred import Transferred
from gondrel.core.model.store import BlobStore
from gondrel.core.work import Progress
from gondrel.core.work.files import private_folder

__all__ = ["PutTogether", "refuse_cut_off", "transfer"]

_TAIL = 4096
_DEEPEST = 60
_NESTED = re.compile(rb"\((?:\s*+\w*+\s*+\(){%d}" % _DEEPEST)
"""Brackets that the kernel's parser would follow until its stack is used up."""

_MOST_NAMED = 12
_WORTH_SAYING = 1_500
"""Bodies of fewer bytes, as of a face or a wire, are measured anew (0.3 ms) faster than a file is made that
would spare it (0.4 ms)."""


def refuse_cut_off(path: str) -> None:
    """Look at the end of the file; where that is missing, the records say what is wrong.

    The kernel comes first otherwise, so that the picture need not wait for the records.
    """
    try:
        with Path(path).open("rb") as stream:
            stream.seek(max(Path(path).stat().st_size - _TAIL, 0))
            tail = stream.read()
    except OSError as error:
        raise InputError(f"can't be opened: {error.strerror}", file=path) from error
    with Path(path).open("rb") as stream, mmap.mmap(stream.fileno(), 0, access=mmap.ACCESS_READ) as data:
        if nested := _NESTED.search(data):
            raise MalformedFile(
                f"brackets are nested deeper than {_DEEPEST} times",
                file=path,
                where=f"byte {nested.start():,}",
            )
    if b"END-ISO-10303-21" not in tail:
        with open_records(path) as records:
            check_complete(records)


@contextmanager
def _alone(path: str) -> Iterator[str]:
    """A path of the file in a folder where it stands alone, when it refers to other files.

    The kernel would read those by itself, one label for all that is in them.
    """
    with Path(path).open("rb") as stream, mmap.mmap(stream.fileno(), 0, access=mmap.ACCESS_READ) as data:
        refers = data.find(b"DOCUMENT_FILE") >= 0
    if not refers:
        yield path
        return
    with private_folder() as folder:
        alone = Path(folder) / Path(path).name
        alone.symlink_to(path)
        yield str(alone)


@dataclass(frozen=True, slots=True)
class PutTogether:
    """What was made of a file, and what its records say of how it is put together where they were asked.

    Args:
        records: still open, to be closed by whoever has this; places: the placement of each usage, child to
            parent in mm, by its record.
    """

    made: Transferred
    records: Records | None = None
    graph: Graph | None = None
    places: dict[int, Matrix] | None = None


def transfer(path: str, store: BlobStore, witness: Hearing, progress: Progress) -> PutTogether:
    """Everything the kernel makes of one file, whatever others it refers to; each body is put in the store
    and its hash handed out through the progress.

    Raises:
        MalformedFile: when the kernel refuses the file, or assemblies contain each other in a ring.
        KernelRefused: when it fails over it.
    """

    def keep(shape: Any) -> str:
        blob = store.put(shape_to_blob(shape))
        progress.give(("body", blob))
        return blob

    def traced(blob: str, record: int) -> None:
        if store.size_of(blob) >= _WORTH_SAYING and (said := witness.whole_at_once(record)) is not None:
            keep_said(store, blob, *said)

    careful = progress.is_deadly(MAKING)
    try:
        with _alone(path) as alone, _cleansing(path, witness, careful=careful) as clean:
            if not careful and has_many_usages(path):
                apart = _by_parts(path, keep, traced, witness, clean, progress)
                if apart is not None:
                    return apart
            # A small file is looked at before the kernel sees any of it, a large one meanwhile.
            first = clean() if careful or not witness.is_aside else ""
            if first:
                return PutTogether(read_step(first, keep, witness.body, progress, traced=traced))
            return PutTogether(read_step(alone, keep, witness.body, progress, clean, traced=traced))
    except MalformedFile as error:
        error.file = path
        with open_records(path) as records:
            check_complete(records)
            if at := records.swallowed():
                raise MalformedFile(
                    "the record does not end before the next one begins", file=path, where=f"#{at}"
                ) from error
        raise


def _by_parts(
    path: str, keep: Keep, traced: Trace, witness: Hearing, clean: Callable[[], str], progress: Progress
) -> PutTogether | None:
    """A large assembly of which the kernel gets the parts alone; None where it has to get the whole."""
    progress.at(0.0, "Reading the structure")
    with ExitStack() as stack, private_folder() as folder:
        records = stack.enter_context(open_records(path))
        graph = read_graph(records)
        places = Shapes(records, graph).placements(places_of(records, graph))
        if not is_plain(records, graph, places) or clean():
            return None
        parts = write_parts(records, witness.links() or links_of(records), folder / Path(path).name)
        if parts is None:
            return None
        rest = progress.part(0.3, 1.0)
        made = read_step(parts.path, keep, witness.body, rest, numbering=parts.ordinals, traced=traced)
        if made.records == len(parts.ordinals):
            made.records = len(records)
        made = put_together(made, records, graph, places)
        stack.pop_all()
        return PutTogether(made, records, graph, places)


@contextmanager
def _cleansing(path: str, witness: Hearing, *, careful: bool) -> Iterator[Callable[[], str]]:
    """Gives what the kernel is to be given instead of the file, empty where the file itself will do.

    Args:
        careful: whether the kernel died over the whole: it gets the structure alone, no body.

    Raises:
        MalformedFile: when assemblies contain each other in a ring.
    """
    with private_folder() as folder:

        def clean() -> str:
            integrity = witness.integrity()
            if integrity is None:  # it raises what stood in the way
                with open_records(path) as records:
                    integrity = integrity_of(
                        records, links_of(records), Topology(records), Geometry(records)
                    )
            if integrity.circle:
                ring = " > ".join(integrity.circle[:_MOST_NAMED])
                raise MalformedFile(f"an assembly contains itself: {ring}", file=path, where="structure")
            if not (integrity.senseless or integrity.doubles or integrity.respelt or careful):
                return ""
            copy = Path(folder) / Path(path).name
            with open_records(path) as records:
                links = links_of(records)
                bodies = [records.ordinal(r.number) - 1 for r in records.of(*BODIES)] if careful else []
                left_out = (*integrity.senseless, *bodies)
                copy.write_bytes(cleansed(records, links, left_out, integrity.doubles, integrity.respelt))
            return str(copy)

        yield clean
