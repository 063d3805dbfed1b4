"""STEP file to model: bodies and looks from the kernel, identity and properties from the records."""

from __future__ import annotations

import mmap
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

from gondrel.core.errors import InputError, MalformedFile
from gondrel.core.formats.step.card import (
    SHEETS,
    SOLIDS,
    card_of,
    check_complete,
)
from gondrel.core.formats.step.external import external_files, find_file
from gondrel.core.formats.step.graph import Graph, ProductFacts, read_graph
from gondrel.core.formats.step.records import Record, Records, open_records
from gondrel.core.formats.step.sheets import surface_models
from gondrel.core.formats.step.tokens import Reference
from gondrel.core.formats.step.units import length_units
from gondrel.core.formats.step.witness import Hearing
from gondrel.core.kernel.shape import shape_to_blob
from gondrel.core.kernel.step_in import (
    Transferred,
    TransferredBody,
    TransferredProduct,
    read_step,
)
from gondrel.core.model.body import Body, BodyKind, Witness
from gondrel.core.model.graft import graft
from gondrel.core.model.product import Occurrence, Product
from gondrel.core.model.provenance import Note, Provenance
from gondrel.core.model.receiving import AS_SENT, ReceiveSettings
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.model.units import MILLIMETRE
from gondrel.core.work import SILENT, Progress

__all__ = ["read", "read_component"]

_TAIL = 4096

_TURNED = "has loops that run the wrong way round in the file"
_READINGS = {
    "faces-elsewhere": "does not lie where the file's own records say, whichever way it is read",
    "faces-read-again": "was read another way: read as usual it lay elsewhere",
    "loops-turned": f"{_TURNED}; it was read as sent",
    "loops-mended": f"{_TURNED}; its seam shows what is meant, and so it was read",
}
"""What is told of faces that do not simply lie where the records say."""


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
    return _read(str(Path(path).resolve()), store, settings.search, (), progress)


def read_component(
    model: Model, product_id: str, store: BlobStore, search: tuple[str, ...], progress: Progress = SILENT
) -> Model | None:
    """The model with a missing file read into its place, None when it is still not found.

    Raises:
        InputError: when the file is there and can't be read.
    """
    product = model.product(product_id)
    base = Path(model.provenance.file.path).parent if model.provenance else Path()
    found = find_file(product.missing_file, base, search, (product.number, product.name))
    if found is None:
        return None
    other = _read(str(found), store, search, (), progress)
    grafted = graft(model, product_id, other)
    used = (str(found), *(p for p, _ in other.provenance.files)) if other.provenance else (str(found),)
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
    _refuse_cut_off(absolute)
    witness = Hearing(absolute, progress.part(0.0, 0.85))
    try:
        transferred = _transfer(absolute, store, witness, progress.part(0.0, 0.85))
        index, card, dangling = witness.rest()
    finally:
        witness.close()
    progress.at(0.85, "Reading the file's own records")
    with open_records(absolute, index) as records:
        check_complete(records)
        card = card or card_of(records)
        graph = read_graph(records)
        dangling = records.dangling() if dangling is None else dangling
        builder = _Builder(records, graph, transferred)
        model = builder.build()
        notes = [*card.notes, *_dangling_notes(dangling), *builder.notes]
        notes += _witness_notes(records, transferred, builder)
        if not any(True for _ in model.bodies()) and not builder.has_structure:
            _refuse_empty(absolute, records, dangling)
        units = length_units(records)
        known = builder.by_record
        wanted = {known[n]: name for n, name in external_files(records).items() if n in known}
    model = replace(model, units=units.most_common(1)[0][0] if units else MILLIMETRE)
    model, files, more = _with_files(model, wanted, absolute, store, search, above, progress.part(0.9, 1.0))
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
        provenance=Provenance(replace(card, missing_files=missing), "", files=files),
        notes=(*notes, *more),
    )


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
) -> tuple[Model, tuple[tuple[str, str], ...], list[Note]]:
    """The model with the files it refers to in place: the model, the files used, and what to tell."""
    used: dict[str, None] = {}
    notes: list[Note] = []
    placed: dict[Path, str] = {}
    for product_id, name in wanted.items():
        if product_id not in model.by_id:
            continue
        product = model.product(product_id)
        if product.bodies or product.occurrences:
            continue  # it has a shape of its own here
        found = find_file(name, Path(path).parent, search, (product.number, product.name))
        if found is None:
            model = model.with_product(replace(product, missing_file=name))
            continue
        if found in placed:
            model = _shared(model, product_id, placed[found])
            continue
        try:
            other = _read(str(found), store, search, (*above, path), progress)
        except InputError as error:
            notes.append(Note("file-not-read", f"its file {name} can't be read: {error}", product.label))
            model = model.with_product(replace(product, missing_file=name))
            continue
        model = graft(model, product_id, replace(other, notes=()))
        placed[found] = product_id
        used[str(found)] = None
        if other.provenance is not None:
            used.update(dict.fromkeys(p for p, _ in other.provenance.files))
        notes += [n for n in other.notes if n.code != "file-missing"]
    return model, tuple((p, "") for p in used), notes


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


def _refuse_cut_off(path: str) -> None:
    """Look at the end of the file; where that is missing, the records say what is wrong.

    The kernel comes first otherwise, so that the picture need not wait for the records.
    """
    try:
        with Path(path).open("rb") as stream:
            stream.seek(max(Path(path).stat().st_size - _TAIL, 0))
            tail = stream.read()
    except OSError as error:
        raise InputError(f"can't be opened: {error.strerror}", file=path) from error
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
    with tempfile.TemporaryDirectory(prefix="gondrel-") as folder:
        alone = Path(folder) / Path(path).name
        alone.symlink_to(path)
        yield str(alone)


def _transfer(path: str, store: BlobStore, witness: Hearing, progress: Progress) -> Transferred:
    def keep(shape: Any) -> str:
        blob = store.put(shape_to_blob(shape))
        progress.give(("body", blob))
        return blob

    try:
        with _alone(path) as alone:
            return read_step(alone, keep, witness.body, progress)
    except MalformedFile as error:
        error.file = path
        with open_records(path) as records:
            check_complete(records)
            if at := records.swallowed():
                raise MalformedFile(
                    "the record does not end before the next one begins", file=path, where=f"#{at}"
                ) from error
        raise


def _refuse_empty(path: str, records: Records, dangling: list[tuple[int, int]]) -> None:
    if dangling:
        source, target = dangling[0]
        raise MalformedFile(
            f"it refers to #{target}, which the file does not hold, and no product could be made",
            file=path,
            where=f"#{source}",
        )
    raise MalformedFile(
        "there is no product or shape in it that could be made",
        file=path,
        where=f"{len(records)} records",
    )


def _dangling_notes(dangling: list[tuple[int, int]]) -> list[Note]:
    return [
        Note(
            "dangling-reference",
            f"refers to #{target}, which the file does not hold; what depends on it is missing",
            f"#{source}",
        )
        for source, target in dangling
    ]


class _Builder:
    """Joins what the kernel made with what the records say."""

    def __init__(
        self,
        records: Records,
        graph: Graph,
        transferred: Transferred,
    ) -> None:
        self.records = records
        self.graph = graph
        self.transferred = transferred
        self.notes: list[Note] = []
        self.products: dict[str, Product] = {}
        self.made_records: set[int] = set()
        self.made_uses: set[int] = set()
        self.made_bodies: set[int] = set()
        self.serial = 0
        self.by_record: dict[int, str] = {}
        self.surface_models = surface_models(records)

    @property
    def has_structure(self) -> bool:
        """Whether any product has occurrences."""
        return any(product.occurrences for product in self.products.values())

    def build(self) -> Model:
        sources = list(self.transferred.products.values())
        aligned = self.transferred.records == len(self.records)
        if not aligned:
            text = (
                f"the kernel counts {self.transferred.records} records and the text holds "
                f"{len(self.records)}; names and properties may be missing"
            )
            self.notes.append(Note("record-count-differs", text))
        ids = {source.key: f"p{n}" for n, source in enumerate(sources, 1)}
        self.by_record = {
            self._number(source.record, aligned): ids[source.key] for source in sources if source.record
        }
        for source in sources:
            self.products[ids[source.key]] = self._product(source, ids, aligned)
        roots = [ids[key] for key in self.transferred.roots]
        self._add_unmade(ids, roots)
        roots = self._drop_wrappers(roots)
        used = _reachable(self.products, roots)
        kept = tuple(product for product in self.products.values() if product.id in used)
        return Model(products=kept, roots=tuple(roots))

    def _number(self, ordinal: int, aligned: bool) -> int:
        """Record number of an ordinal, 0 when there is none."""
        return self.records.at(ordinal).number if aligned and ordinal else 0

    def _product(self, source: TransferredProduct, ids: dict[str, str], aligned: bool) -> Product:
        number = self._number(source.record, aligned)
        facts = self.graph.products.get(number)
        if number:
            self.made_records.add(number)
        bodies = tuple(self._body(body, facts, aligned) for body in source.bodies)
        uses = []
        for use in source.uses:
            use_number = self._number(use.record, aligned)
            known = self.graph.uses.get(use_number)
            if known is not None:
                self.made_uses.add(use_number)
            self.serial += 1
            uses.append(
                Occurrence(
                    id=f"o{self.serial}",
                    product=ids[use.product],
                    name=known.name if known else "",
                    placement=use.placement,
                    colour=use.colour,
                    metadata=tuple(known.metadata) if known else (),
                )
            )
        return _identified(ids[source.key], facts, bodies, tuple(uses))

    def _body(self, source: TransferredBody, facts: ProductFacts | None, aligned: bool) -> Body:
        number = self._number(source.record, aligned)
        if source.kind is not BodyKind.SOLID:
            number = self.surface_models.get(number, number)
        record = self.records.get(number) if number else None
        self.made_bodies.add(number)
        self.serial += 1
        where = facts.name if facts else ""
        if record is not None and source.kind is BodyKind.SOLID:
            self._compare_faces(record, source.faces, where)
        return Body(
            id=f"b{self.serial}",
            kind=source.kind,
            name=_body_name(record),
            blob=source.blob,
            colour=source.colour,
            face_colours=source.face_colours,
            layers=source.layers,
            witness=self._witness(source, where),
        )

    def _witness(self, source: TransferredBody, where: str) -> Witness:
        """What the records say of a body; what was done where its faces lay elsewhere is noted."""
        facts = source.reading
        for code, faces, text in zip(
            _READINGS,
            (facts.elsewhere, facts.again, facts.wrong, facts.mended),
            _READINGS.values(),
            strict=True,
        ):
            if faces:
                more = f" (and {len(faces) - 1:,} more)" if len(faces) > 1 else ""
                self.notes.append(Note(code, f"a face {text}{more}", f"{where} #{faces[0]}".strip()))
        return Witness(source.blob, facts.area, facts.volume, not facts.elsewhere)

    def _compare_faces(self, record: Record, made: int, product: str) -> None:
        held = _faces_held(self.records, record)
        if held and held != made:
            text = f"the file gives this body {held} faces, {made} were made"
            self.notes.append(Note("faces-differ", text, f"{product} #{record.number}".strip()))

    def _add_unmade(self, ids: dict[str, str], roots: list[str]) -> None:
        """Keep products and usages that the kernel passed over, with a note for each."""
        by_record = {
            self._number(source.record, True): ids[source.key]
            for source in self.transferred.products.values()
            if source.record
        }
        wanted = {u.parent for u in self.graph.uses.values()}
        wanted |= {u.child for u in self.graph.uses.values()}
        for number, facts in self.graph.products.items():
            if number in by_record or (number not in wanted and not self._has_shape(number)):
                continue
            self.serial += 1
            product_id = f"p{len(ids) + self.serial}"
            by_record[number] = self.by_record[number] = product_id
            self.products[product_id] = _identified(product_id, facts, (), ())
            text = "no shape could be made of this product; its place in the structure is kept"
            self.notes.append(Note("product-without-shape", text, f"{facts.name} #{number}"))
        placed: set[str] = set()
        for number, use in self.graph.uses.items():
            if number in self.made_uses or use.parent not in by_record:
                continue
            parent, child = self.products[by_record[use.parent]], by_record.get(use.child)
            if child is None or any(o.name == use.name and o.product == child for o in parent.occurrences):
                continue
            self.serial += 1
            occurrence = Occurrence(f"o{self.serial}", child, use.name, metadata=tuple(use.metadata))
            self.products[parent.id] = replace(parent, occurrences=(*parent.occurrences, occurrence))
            placed.add(child)
            text = "its placement could not be read; it stands at the origin of its parent"
            self.notes.append(Note("occurrence-without-place", text, f"{use.name} #{number}"))
        used = {o.product for p in self.products.values() for o in p.occurrences}
        roots[:] = [root for root in roots if root not in placed]
        roots += [pid for pid in by_record.values() if pid not in used and pid not in roots]

    def _has_shape(self, number: int) -> bool:
        return any(s.ref(2) == number for s in self.records.of("PRODUCT_DEFINITION_SHAPE"))

    def _drop_wrappers(self, roots: list[str]) -> list[str]:
        """Take in own bodies that the kernel hung into an assembly as a nameless component."""
        made = {p.key: p for p in self.transferred.products.values()}
        nameless = {f"p{n}" for n, source in enumerate(made.values(), 1) if source.record == 0}
        for product in list(self.products.values()):
            own = [o for o in product.occurrences if o.product in nameless and not o.name]
            if not own or product.id in nameless:
                continue
            bodies = list(product.bodies)
            for occurrence in own:
                bodies += self.products[occurrence.product].bodies
            kept = tuple(o for o in product.occurrences if o not in own)
            self.products[product.id] = replace(product, bodies=tuple(bodies), occurrences=kept)
        return roots


def _identified(
    product_id: str,
    facts: ProductFacts | None,
    bodies: tuple[Body, ...],
    occurrences: tuple[Occurrence, ...],
) -> Product:
    if facts is None:
        return Product(product_id, "", "", bodies=bodies, occurrences=occurrences)
    return Product(
        id=product_id,
        number=facts.number,
        name=facts.name,
        revision=facts.revision,
        description=facts.description,
        material=facts.as_material(),
        metadata=tuple(facts.metadata),
        bodies=bodies,
        occurrences=occurrences,
        validation=facts.as_validation(),
    )


def _reachable(products: dict[str, Product], roots: list[str]) -> set[str]:
    seen: set[str] = set()
    stack = list(roots)
    while stack:
        product_id = stack.pop()
        if product_id in seen or product_id not in products:
            continue
        seen.add(product_id)
        stack.extend(o.product for o in products[product_id].occurrences)
    return seen


def _body_name(record: Record | None) -> str:
    if record is None:
        return ""
    name = record.text(0) if record.keyword else ""
    # Some writers put the record's own number there; that is not a name.
    return "" if name in (f"#{record.number}", "NONE") else name


def _faces_held(records: Records, solid: Record) -> int:
    """How many faces the file gives a solid, voids included; 0 when it can't be told."""
    shells = [solid.ref(1), *solid.refs(2)]
    total = 0
    for number in shells:
        shell = records.get(number)
        if shell is not None and shell.keyword == "ORIENTED_CLOSED_SHELL":
            inner = next((p for p in shell.parameters if isinstance(p, Reference)), None)
            shell = records.get(inner.number) if inner else None
        if shell is None:
            return 0
        total += len(shell.refs(1))
    return total


def _witness_notes(records: Records, transferred: Transferred, builder: _Builder) -> list[Note]:
    """What the records hold and the kernel did not make."""
    notes = []
    made = [body for product in transferred.products.values() for body in product.bodies]
    solids = sum(body.kind is BodyKind.SOLID for body in made)
    for record in records.of(*SOLIDS):
        if record.number in builder.made_bodies or solids >= records.count(*SOLIDS):
            continue
        text = f"no solid could be made of this {record.keyword or 'solid'}"
        notes.append(Note("body-not-made", text, f"#{record.number}"))
    sheets = sum(body.kind is BodyKind.SHEET for body in made)
    if records.count(*SHEETS) and not sheets:
        count = records.count(*SHEETS)
        notes.append(Note("body-not-made", f"none of {count} surface models could be made"))
    if builder.graph.unread_properties:
        text = f"{builder.graph.unread_properties} property values of other kinds are not taken over"
        notes.append(Note("properties-not-read", text))
    return notes
