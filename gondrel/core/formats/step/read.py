"""STEP file to model: bodies and looks from the kernel, identity and properties from the records."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path

from gondrel.core.errors import InputError, MalformedFile
from gondrel.core.formats.missing import find_file, leads_outside
from gondrel.core.formats.step.alone import item_making
from gondrel.core.formats.step.card import card_of, check_complete
from gondrel.core.formats.step.census import Taking, taking_of
from gondrel.core.formats.step.external import external_files
from gondrel.core.formats.step.graph import read_graph
from gondrel.core.formats.step.integrity import Integrity, integrity_of
from gondrel.core.formats.step.item_appearance import with_item_appearance
from gondrel.core.formats.step.item_facts import with_item_facts
from gondrel.core.formats.step.join import ModelBuilder, unmade_notes
from gondrel.core.formats.step.links import Links, links_of
from gondrel.core.formats.step.outline import Topology
from gondrel.core.formats.step.placed import Geometry
from gondrel.core.formats.step.records import Records, open_records
from gondrel.core.formats.step.source import origins_in
from gondrel.core.formats.step.transfer import refuse_cut_off, transfer
from gondrel.core.formats.step.units import length_units
from gondrel.core.formats.step.witness import Hearing
from gondrel.core.kernel.exchange.step_in import MAKING
from gondrel.core.model.census import Census, merged
from gondrel.core.model.graft import graft
from gondrel.core.model.origins import keep_origins
from gondrel.core.model.provenance import FileFacts, Note, Provenance
from gondrel.core.model.receiving import AS_SENT, ReceiveSettings
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.model.units import MILLIMETRE
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.machine import give_memory_back

__all__ = ["ReadAlone", "joined", "read", "read_alone", "read_component"]

_IN_THE_REMAINDER = frozenset(("annotations-not-read", "approvals-not-read"))
"""What the card says before a file is read and the census says better afterwards."""

Counts = tuple[tuple[str, int], ...]


def read(
    path: str, store: BlobStore, *, settings: ReceiveSettings = AS_SENT, progress: Progress = SILENT
) -> Model:
    """Read a STEP file as sent, with every file it refers to that is found.

    A file that is not found leaves its place in the structure, as a product without a body.

    Each body is put in the store and its hash handed out through the progress as soon as it is
    made, so that others can measure and tessellate it meanwhile.

    Raises:
        InputError: when it can't be opened.
        MalformedFile: when it is cut off, has no data, or nothing can be made of it.
    """
    whole = str(Path(path).resolve())
    try:
        return _read(whole, store, settings.search, (), progress)
    except (IndexError, KeyError, TypeError, ValueError, OverflowError) as error:
        raise MalformedFile(
            f"a record has fewer attributes than its kind, or others ({error})", file=whole
        ) from error


def read_component(
    model: Model, product_id: str, store: BlobStore, search: tuple[str, ...], progress: Progress = SILENT
) -> Model | None:
    """The model with a missing file read into its place, None when it is still not found.

    Raises:
        InputError: when the file is there and can't be read.
    """
    product = model.product(product_id)
    base = Path(model.provenance.file.path).parent if model.provenance else Path()
    file = find_file(product.missing_file, base, search, (product.number, product.name))
    if file is None:
        return None
    other = _read(str(file), store, search, (), progress)
    grafted = graft(model, product_id, other)
    used = (str(file), *(p for p, _ in other.provenance.files)) if other.provenance else (str(file),)
    if grafted.provenance is None:
        return grafted
    missing = tuple(dict.fromkeys(p.missing_file for p in grafted.products if p.missing_file))
    card = replace(grafted.provenance.file, missing_files=missing)
    files = dict.fromkeys((*grafted.provenance.files, *((p, "") for p in used)))
    return replace(grafted, provenance=replace(grafted.provenance, file=card, files=tuple(files)))


def _read(
    absolute: str, store: BlobStore, search: tuple[str, ...], above: tuple[str, ...], progress: Progress
) -> Model:
    if absolute in above:
        raise MalformedFile("it is a component of itself", file=absolute, where="external references")
    with read_alone(absolute, store, progress) as alone:
        model, records, integrity = alone.model, alone.builder.records, alone.integrity
        if not any(True for _ in model.bodies()) and not alone.builder.has_structure:
            _refuse_empty(absolute, records, integrity)
        keep_origins(store, absolute, origins_in(alone.builder, model))
        known = alone.builder.by_record
        wanted = {known[n]: name for n, name in external_files(records).items() if n in known}
        card, census, notes = alone.card, alone.census, list(alone.notes)
    model, files, more, others, cards = _with_files(
        model, wanted, absolute, store, search, above, progress.part(0.9, 1.0)
    )
    missing = tuple(dict.fromkeys(p.missing_file for p in model.products if p.missing_file))
    resolved = {i for i in wanted if i in model.by_id and not model.product(i).missing_file}
    labels = {model.product(i).label for i in wanted if i in model.by_id}
    notes = [n for n in notes if not _is_told_otherwise(n, labels)]
    for product in model.products:
        if product.missing_file and product.id not in resolved:
            text = f"its file {product.missing_file} was not found; its place in the structure is kept"
            more.append(Note("file-missing", text, product.label))
    return replace(
        model,
        provenance=Provenance(
            replace(card, missing_files=missing, counts=_counts_with(card.counts, cards)),
            "",
            files=files,
            census=merged((census, *others)),
        ),
        notes=(*notes, *more),
    )


@dataclass(frozen=True, slots=True)
class ReadAlone:
    """A file as it was read, before other files are put into it, its records still open.

    Args:
        notes: what there is to tell, of the card, the records and the model.
    """

    model: Model
    builder: ModelBuilder
    card: FileFacts
    integrity: Integrity
    taking: Taking
    notes: tuple[Note, ...]

    @property
    def census(self) -> Census:
        """Every record accounted for."""
        return self.taking.census


@contextmanager
def read_alone(absolute: str, store: BlobStore, progress: Progress) -> Iterator[ReadAlone]:
    """Read one file, whatever others it refers to. Raises as read."""
    refuse_cut_off(absolute)
    witness = Hearing(absolute, progress.part(0.0, 0.85))
    try:
        found = transfer(absolute, store, witness, progress.part(0.0, 0.85))
        give_memory_back()
        integrity, rest = witness.integrity(), witness.rest()
    finally:
        witness.close()
    progress.at(0.85, "Reading the file's own records")
    with found.records or open_records(absolute, rest.index) as records:
        check_complete(records)
        making = item_making(records, store, witness, progress)
        builder = ModelBuilder(records, found.graph or read_graph(records), found.made, making)
        if found.places is not None:
            builder.placements = found.places
        yield joined(builder, rest.card or card_of(records), rest.links, integrity, progress)


def joined(
    builder: ModelBuilder,
    card: FileFacts,
    links: Links | None,
    integrity: Integrity | None,
    progress: Progress,
) -> ReadAlone:
    """The model that a builder makes, with what its records say besides.

    Args:
        links, integrity: of the records; found out here where they are not known yet.
    """
    records = builder.records
    model = with_item_appearance(builder, with_item_facts(builder, builder.build()))
    links = links or links_of(records)
    integrity = integrity or integrity_of(records, links, Topology(records), Geometry(records))
    notes = [n for n in card.notes if n.code not in _IN_THE_REMAINDER]
    if progress.is_deadly(MAKING):
        text = "the kernel died over the file as a whole; its bodies were made one by one"
        notes.append(Note("read-carefully", text))
        builder.notes = [note for note in builder.notes if note.code != "body-made-alone"]
    notes += [*integrity.notes, *builder.notes, *unmade_notes(records, builder)]
    units = length_units(records)
    model = replace(model, units=units.most_common(1)[0][0] if units else MILLIMETRE)
    taking = taking_of(records, links, builder, model)
    return ReadAlone(model, builder, card, integrity, taking, tuple(notes))


def _is_told_otherwise(note: Note, labels: set[str]) -> bool:
    """Whether a product has no shape here because a file of its own holds it."""
    return note.code == "product-without-shape" and note.where.partition(" #")[0] in labels


def _with_files(
    model: Model,
    wanted: dict[str, str],
    path: str,
    store: BlobStore,
    search: tuple[str, ...],
    above: tuple[str, ...],
    progress: Progress,
) -> tuple[Model, tuple[tuple[str, str], ...], list[Note], list[Census | None], list[FileFacts]]:
    """The model with the files it refers to in place: the model, the files used, what to tell, and the
    censuses and cards of those files."""
    cards: list[FileFacts] = []
    used: dict[str, None] = {}
    notes: list[Note] = []
    censuses: list[Census | None] = []
    placed: dict[Path, str] = {}
    for product_id, name in wanted.items():
        if product_id not in model.by_id:
            continue
        product = model.product(product_id)
        if product.bodies or product.occurrences:
            continue  # it has a shape of its own here
        file = find_file(name, Path(path).parent, search, (product.number, product.name))
        if leads_outside(name, Path(path).parent, search):
            text = f"the name of its file, {name}, leads out of the folder; it is not read from there"
            notes.append(Note("file-outside", text, product.label))
        if file is None:
            model = model.with_product(replace(product, missing_file=name))
            continue
        if file in placed:
            model = _shared(model, product_id, placed[file])
            continue
        try:
            other = _read(str(file), store, search, (*above, path), progress)
        except InputError as error:
            notes.append(Note("file-not-read", f"its file {name} can't be read: {error}", product.label))
            model = model.with_product(replace(product, missing_file=name))
            continue
        said = tuple(p for p in product.particulars if not (p.kind == "document" and name in p.values))
        model = model.with_product(replace(product, particulars=said))
        model = graft(model, product_id, replace(other, notes=()))
        placed[file] = product_id
        used[str(file)] = None
        if other.provenance is not None:
            used.update(dict.fromkeys(p for p, _ in other.provenance.files))
            censuses.append(other.provenance.census)
            cards.append(other.provenance.file)
        notes += [n for n in other.notes if n.code != "file-missing"]
    return model, tuple((p, "") for p in used), notes, censuses, cards


def _counts_with(counts: Counts, files: list[FileFacts]) -> Counts:
    """What the records of a file count, with those of the files it refers to; the product of each of those
    is one that the file has itself."""
    total = Counter(dict(counts))
    for card in files:
        total.update(dict(card.counts))
        total["products"] -= 1
    return tuple((thing, total[thing]) for thing in dict.fromkeys((*dict(counts), *total)))


def _shared(model: Model, product_id: str, other: str) -> Model:
    """The model with one product in the place of two that are the same file."""
    products = []
    for product in model.products:
        uses = tuple(
            replace(o, product=other) if o.product == product_id else o for o in product.occurrences
        )
        if product.id != product_id:
            products.append(replace(product, occurrences=uses))
    return replace(model, products=tuple(products))


def _refuse_empty(path: str, records: Records, integrity: Integrity) -> None:
    for note in integrity.notes[:1]:
        raise MalformedFile(f"{note.text}, and no product could be made", file=path, where=note.where)
    raise MalformedFile(
        "there is no product or shape in it that could be made",
        file=path,
        where=f"{len(records)} records",
    )
