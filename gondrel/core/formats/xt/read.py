"""An XT file as a model: parts, instances and bodies as sent."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from operator import itemgetter
from typing import Any

import numpy as np

from gondrel.core.errors import GondrelError, MalformedFile
from gondrel.core.formats.settings import AS_SENT, ReceiveSettings
from gondrel.core.formats.xt import attributes as named
from gondrel.core.formats.xt.appearance import (
    body_of,
    colour_of,
    identity_of,
    layers_of,
    material_of,
    metadata_of,
    more_of,
    name_of,
    own_faces_of,
)
from gondrel.core.formats.xt.attributes import AttributeReader
from gondrel.core.formats.xt.audit import audit
from gondrel.core.formats.xt.body_read import ReadBody, chain_of, read_body
from gondrel.core.formats.xt.census import census_of
from gondrel.core.formats.xt.document import card_of, open_document
from gondrel.core.formats.xt.geometry_read import GeometryReader
from gondrel.core.formats.xt.nodes import Document, Node
from gondrel.core.formats.xt.schema import base_schema
from gondrel.core.integral.outline import BodyOutline
from gondrel.core.integral.plain import boundary_outline
from gondrel.core.kernel.base.shape import changed, shape_to_blob
from gondrel.core.kernel.convert.boundary_in import BodyMaker, MadeBody
from gondrel.core.kernel.convert.edge_places import edge_places
from gondrel.core.kernel.convert.incidence import find_incidence
from gondrel.core.kernel.derive import keep_said
from gondrel.core.kernel.exchange.outline_fit import fitted_to_outline
from gondrel.core.model.appearance import Appearance
from gondrel.core.model.body import Body, Rgba, Witness
from gondrel.core.model.extras import (
    face_extra_in,
    with_body_extra,
    with_model_extra,
    with_product_extra,
    with_use_extra,
)
from gondrel.core.model.metadata import Metadatum
from gondrel.core.model.origins import Origins, keep_origins
from gondrel.core.model.places import Change, split_placement
from gondrel.core.model.product import IDENTITY, Occurrence, Product
from gondrel.core.model.provenance import DEADLY, Note, Provenance
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.model.units import METRE
from gondrel.core.work import SILENT, Progress

__all__ = ["read"]


_POINTS = 100_000
"""Points on surfaces that are not elementary that may be taken for each body."""

_NOT_MADE = frozenset(("FEATURE", "MEMBER_OF_FEATURE", "KEY", "FIELD_NAMES", "WORLD"))
_UNDERSTOOD = frozenset(kind.name for kind in base_schema().values()) - _NOT_MADE


def read(
    path: str, store: BlobStore, *, settings: ReceiveSettings = AS_SENT, progress: Progress = SILENT
) -> Model:
    """Read an XT file as sent.

    Each body is put in the store and its hash handed out through the progress as soon as it is made.

    Raises:
        InputError: when it can't be opened.
        MalformedFile: when it breaks the format's rules or nothing can be made of it.
        UnsupportedContent: when it is of a form that is not read.
    """
    progress.at(0.0, "Reading nodes")
    document = open_document(path)
    card = card_of(path, document)
    progress.at(0.1, "Looking at nodes")
    reader = _Reader(document, store, progress.part(0.2, 1.0))
    try:
        flaws = audit(document)
        model = reader.read()
    except (KeyError, TypeError, ValueError, IndexError, OverflowError) as error:
        raise MalformedFile(f"a node's values make no sense ({error})", file=path) from error
    except GondrelError as error:
        error.file = error.file or path
        raise
    if reader.failures and not any(True for _ in model.bodies()):
        first = reader.failures[0]
        raise MalformedFile(f"no body of it could be made: {first.message}", file=path, where=first.where)
    keep_origins(store, path, Origins(reader.parts, reader.uses, reader.body_nodes, reader.face_nodes))
    flawed = _grouped([*flaws, *reader.flaws])
    notes = (*card.notes, *flawed, *reader.notes, *_unused(document))
    census = census_of(document, reader.made)
    return replace(model, units=METRE, provenance=Provenance(card, "", census=census), notes=notes)


def _is_as_whole(rigid: tuple[float, ...], below: Change, change: Change) -> bool:
    """Whether a place in a mirrored or scaled assembly is none of its own: it has what the whole has."""
    return np.allclose(rigid, IDENTITY, atol=1e-12) and bool(below) and np.allclose(below, change)


@dataclass(slots=True)
class _Reader:
    document: Document
    store: BlobStore
    progress: Progress
    notes: list[Note] = field(default_factory=list)
    failures: list[GondrelError] = field(default_factory=list)
    parts: dict[str, int] = field(default_factory=dict)
    uses: dict[str, int] = field(default_factory=dict)
    body_nodes: dict[str, int] = field(default_factory=dict)
    face_nodes: dict[str, tuple[int, ...]] = field(default_factory=dict)
    products: dict[str, Product] = field(default_factory=dict)
    bodies: dict[int, list[tuple[MadeBody, ReadBody]]] = field(default_factory=dict)
    flaws: list[Note] = field(default_factory=list)
    open: set[str] = field(default_factory=set)
    made: dict[int, str] = field(default_factory=dict)
    more: list[str] = field(default_factory=list)
    done: int = 0
    total: int = 1

    def read(self) -> Model:
        """All parts."""
        listed = self._listed()
        instanced = {n["part"] for n in self.document.nodes.values() if n.kind == "INSTANCE"}
        roots = [n for n in listed if n.index not in instanced]
        reached: set[int] = set()
        for root in roots:
            self._reach(root, reached)
        parts = [n for n in self.document.nodes.values() if n.kind in ("BODY", "ASSEMBLY")]
        self.total = max(sum(n.kind == "BODY" for n in parts), 1)
        roots += [n for n in parts if n.index not in reached and n.index not in instanced]
        if not roots and parts:
            roots = [parts[0]]
        ids = [self._product(root, ()) for root in roots]
        model = Model(tuple(self.products.values()), tuple(ids))
        for text in self.more[:1]:
            model = with_model_extra(model, text)
        return model

    def _listed(self) -> list[Node]:
        root = self.document.root
        if root.kind == "POINTER_LIS_BLOCK":
            nodes = [self.document.at(index) for index in root["entries"]]
            return [n for n in nodes if n is not None and n.kind in ("BODY", "ASSEMBLY")]
        heads = [root["assembly"], root["body"]] if root.kind == "WORLD" else [root.index]
        chains = (chain_of(self.document, head, "next") for head in heads)
        return [n for chain in chains for n in chain if n.kind in ("BODY", "ASSEMBLY")]

    def _reach(self, part: Node, reached: set[int]) -> None:
        stack = [part]
        while stack:
            at = stack.pop()
            if at.index in reached:
                continue
            reached.add(at.index)
            for instance in self._instances(at):
                below = self.document.at(instance["part"])
                if below is not None:
                    stack.append(below)

    def _instances(self, part: Node) -> Iterator[Node]:
        if part.kind == "ASSEMBLY":
            yield from chain_of(self.document, part["sub_instance"], "next_in_part", "INSTANCE")

    # --- parts -----------------------------------------------------------------------------

    def _product(self, node: Node, change: Change) -> str:
        key = f"part{node.index}" + "".join(f",{v:.9g}" for v in change)
        if key in self.products:
            return key
        if key in self.open:
            raise MalformedFile("an assembly is placed in itself", where=f"{node.kind} {node.index}")
        self.open.add(key)
        said = AttributeReader(self.document).of(node)
        number, name, revision, description = identity_of(said)
        product = Product(key, number, name, revision, description, material_of(said), metadata_of(said))
        product = with_product_extra(product, more_of(said))
        self.more += [text for text in (more_of(said, named.MODEL_MORE),) if text]
        self.products[key] = product  # parents stand before their parts
        if node.kind == "BODY":
            product = replace(product, bodies=tuple(self._bodies(node, change)))
        else:
            bodies, uses = self._content(node, change)
            product = replace(product, bodies=tuple(bodies), occurrences=tuple(uses))
        if not product.name and not product.number:
            kind = "Assembly" if node.kind == "ASSEMBLY" else "Part"
            product = replace(product, name=f"{kind} {node.index}")
        self.products[key] = product
        self.parts[key] = node.index
        if node.kind == "ASSEMBLY" or product.bodies:
            self.made[node.index] = product.label
        self.open.discard(key)
        return key

    def _content(self, node: Node, change: Change) -> tuple[list[Body], list[Occurrence]]:
        reader = AttributeReader(self.document)
        bodies: list[Body] = []
        uses: list[Occurrence] = []
        for instance in self._instances(node):
            part = self.document.at(instance["part"])
            if part is None or part.kind not in ("BODY", "ASSEMBLY"):
                self._note("part-missing", "an instance leads to no part", instance)
                continue
            matrix = _placed(self.document.at(instance["transform"]), change)
            rigid, below = split_placement(matrix)
            is_here = not below and rigid is IDENTITY if not change else _is_as_whole(rigid, below, change)
            if is_here and part.kind == "BODY" and named.INSIDE in reader.of(part):
                inner = list(self._bodies(part, below))
                bodies += inner
                if inner:
                    self.made[part.index] = inner[0].name or name_of(reader.of(node))
                    self.made[instance.index] = self.made[part.index]
                continue
            said = reader.of(instance)
            use = Occurrence(
                f"use{instance.index}of{node.index}" + "".join(f",{v:.9g}" for v in change),
                self._product(part, below), name_of(said), rigid, colour_of(said),
                metadata=metadata_of(said), layers=layers_of(said),
            )  # fmt: skip
            uses.append(with_use_extra(use, more_of(said)))
            self.uses[use.id] = instance.index
            self.made[instance.index] = uses[-1].name
            if below:
                text = "it is placed mirrored or scaled; a part of that shape was made"
                self._note("placed-mirrored", text, instance)
        return bodies, uses

    def _note(self, code: str, text: str, node: Node) -> None:
        self.notes.append(Note(code, text, f"{node.kind} {node.index}"))

    # --- bodies ----------------------------------------------------------------------------

    def _bodies(self, node: Node, change: Change) -> Iterator[Body]:
        said = AttributeReader(self.document).of(node)
        name, _ = body_of(said)
        own, colour = own_faces_of(said), colour_of(said)
        made = self._made(node)
        for place, (body, read_) in enumerate(made):
            shape = changed(body.shape, change) if change else body.shape
            alone = len(made) == 1 and not change
            blob = self.store.put(shape_to_blob(shape))
            if alone:
                keep_said(self.store, blob, read_.area, read_.volume)
            self.progress.give(("body", blob))
            looks = tuple(self._face_colours(body, read_, own, colour))
            shown = name if len(made) == 1 or not name else f"{name} {place + 1}"
            suffix = "".join(f",{v:.9g}" for v in change)
            witness = Witness(blob, read_.area, read_.volume, read_.agrees) if alone else None
            of_parts = self._said_of_faces(body, read_) | self._edge_colours(body, read_)
            made_body = Body(
                f"body{node.index}.{place}{suffix}", body.kind, shown, blob, colour, looks,
                layers_of(said), witness,
            )  # fmt: skip
            self._note_origins(made_body.id, node, body, read_)
            yield replace(with_body_extra(made_body, more_of(said, named.BODY_MORE)), **of_parts)

    def _note_origins(self, key: str, node: Node, body: MadeBody, read_: ReadBody) -> None:
        """Keep of which node a body is made, and each of its faces."""
        self.body_nodes[key] = node.index
        places = {place: read_.faces[number] for number, held in body.faces.items() for place in held}
        self.face_nodes[key] = tuple(places.get(n, 0) for n in range(max(places, default=-1) + 1))

    def _edge_colours(self, body: MadeBody, read_: ReadBody) -> dict[str, Any]:
        """Colours of single edges, by the field of the body they belong into."""
        reader = AttributeReader(self.document)
        nodes = ((number, self.document.nodes[index]) for number, index in enumerate(read_.edges))
        said = ((number, colour_of(reader.of(n))) for number, n in nodes if n.get("attributes_groups", 0))
        colours = {number: colour for number, colour in said if colour is not None}
        if not colours:
            return {}
        places = edge_places(read_.boundary, body.shape, list(colours))
        coloured = ((place, colours[number]) for number, place in places.items())
        return {"edge_colours": tuple(sorted(coloured, key=itemgetter(0)))}

    def _said_of_faces(self, body: MadeBody, read_: ReadBody) -> dict[str, Any]:
        """What is said of single faces by their places, by the field of the body it belongs into."""
        reader = AttributeReader(self.document)
        names: list[tuple[int, str]] = []
        layers: list[tuple[int, str]] = []
        metadata: list[tuple[int, Metadatum]] = []
        looks: list[tuple[int, Appearance]] = []
        for number, places in body.faces.items():
            node = self.document.nodes[read_.faces[number]]
            if not node.get("attributes_groups", 0):
                continue
            said = reader.of(node)
            for place in places:
                names += [(place, name) for name in (name_of(said),) if name]
                layers += [(place, layer) for layer in layers_of(said)]
                own, own_looks = face_extra_in(more_of(said))
                metadata += [(place, datum) for datum in (*own, *metadata_of(said))]
                looks += [(place, look) for look in own_looks]
        by_aspect: dict[str, list[tuple[int, Any]]] = {
            "face_names": names,
            "face_layers": layers,
            "face_metadata": metadata,
            "face_appearance": looks,
        }
        return {field: tuple(sorted(said, key=itemgetter(0))) for field, said in by_aspect.items()}

    def _made(self, node: Node) -> list[tuple[MadeBody, ReadBody]]:
        if node.index not in self.bodies:
            self.done += 1
            step = f"Making {node.kind} {node.index}, body {self.done} of {self.total}"
            self.progress.at(min(self.done / self.total, 0.99), step)
            if self.progress.is_deadly(step):
                self.notes.append(Note("body-not-made", DEADLY, f"{node.kind} {node.index}"))
                self.bodies[node.index] = []
                return []
            try:
                read = read_body(self.document, node, GeometryReader(self.document))
                maker = BodyMaker(read.boundary)
                self._look(read, maker)
                outline = boundary_outline(read.boundary, budget=_POINTS)
                obeying = fitted_to_outline(read.boundary, outline, maker.make())
                making = obeying.making
                self._tell_astray(read, obeying.astray, outline)
            except GondrelError as error:
                self.failures.append(error)
                where = error.where or f"{node.kind} {node.index}"
                self.notes.append(
                    Note("body-not-made", f"a body could not be made: {error.message}", where)
                )
                self.bodies[node.index] = []
                return []
            for remark in making.remarks:
                self._note("made-otherwise", remark, node)
            if len(making.bodies) > 1:
                kinds = ", ".join(b.kind.value for b in making.bodies)
                self._note(
                    "general-body", f"one body holds {len(making.bodies)} and was split: {kinds}", node
                )
            self.bodies[node.index] = [(body, read) for body in making.bodies]
        return self.bodies[node.index]

    def _tell_astray(self, read: ReadBody, astray: tuple[int, ...], outline: BodyOutline) -> None:
        """Note faces that do not lie where their nodes say, and loops that run the wrong way round."""
        elsewhere = "does not lie where the file's own records say, whichever way it is read"
        turned = "has loops that run the wrong way round in the file; it was read as sent"
        wrong = tuple(outline.wrong.nonzero()[0].tolist())
        for code, numbers, text in (
            ("faces-elsewhere", astray, elsewhere),
            ("loops-turned", wrong, turned),
        ):
            if len(numbers):
                more = f" (and {len(numbers) - 1:,} more)" if len(numbers) > 1 else ""
                where = f"FACE {read.faces[numbers[0]]}"
                self.notes.append(Note(code, f"a face {text}{more}", where))
        area, volume = (None if math.isnan(figure) else figure for figure in outline.whole)
        read.area, read.volume, read.agrees = area, volume, not astray

    def _look(self, read: ReadBody, maker: BodyMaker) -> None:
        """Note where geometry does not lie on geometry."""
        for code, text, what, number in find_incidence(maker):
            index = (read.faces if what == "face" else read.edges)[number]
            self.flaws.append(Note(code, text, f"{what.upper()} {index}"))

    def _face_colours(
        self, body: MadeBody, read_: ReadBody, own: frozenset[int] | None, colour: Rgba | None
    ) -> Iterator[tuple[int, Rgba]]:
        reader = AttributeReader(self.document)
        colours: dict[int, Rgba] = {}
        for number, places in body.faces.items():
            node = self.document.nodes[read_.faces[number]]
            shown = colour_of(reader.of(node))
            if shown is None or (own is None and shown == colour):
                continue
            if own is not None and not own:
                continue
            if own is not None and shown == colour and number not in own:
                continue
            colours.update(dict.fromkeys(places, shown))
        yield from sorted(colours.items())


def _unused(document: Document) -> Iterator[Note]:
    """A note of the nodes of which nothing is made."""
    counts = {k: n for k, n in document.counts().items() if k not in _UNDERSTOOD}
    if counts:
        counts_text = ", ".join(f"{count:,} {kind}" for kind, count in sorted(counts.items()))
        yield Note("nodes-not-taken-over", f"nodes of which nothing is made: {counts_text}")


def _grouped(flaws: list[Note]) -> Iterator[Note]:
    """One note for all flaws of a code, with the first of them."""
    counts = Counter(flaw.code for flaw in flaws)
    for code, count in counts.items():
        first = next(flaw for flaw in flaws if flaw.code == code)
        more = f" (and {count - 1:,} more of this kind)" if count > 1 else ""
        yield Note(code, f"as sent, {first.text}{more}", first.where)


def _placed(transform: Node | None, change: Change) -> np.ndarray:  # type: ignore[type-arg]
    """The 4x4 matrix of an instance, mm, in an assembly that is itself changed.

    A point goes x' = (R x + T) s (from memory of the published reference).
    """
    matrix = np.eye(4)
    if transform is not None:
        scale = transform["scale"] or 1.0
        matrix[:3, :3] = np.array(transform["rotation_matrix"], float).reshape(3, 3) * scale
        matrix[:3, 3] = np.array(transform.in_mm("translation_vector") or (0, 0, 0), float) * scale
    if not np.isfinite(matrix).all():
        raise MalformedFile(
            "a transform is not finite", where=f"TRANSFORM {transform.index if transform else 0}"
        )
    if change:
        wide = np.eye(4)
        wide[:3, :3] = np.array(change).reshape(3, 3)
        matrix = wide @ matrix
    return matrix
