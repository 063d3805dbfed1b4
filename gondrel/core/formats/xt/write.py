"""A model as an XT file, text or binary, schema 13006."""

from __future__ import annotations

import json
from collections.abc import Mapping
from datetime import datetime

from gondrel.core.errors import CannotExpress
from gondrel.core.formats.base import Target
from gondrel.core.formats.settings import SendSettings
from gondrel.core.formats.xt import attributes as named
from gondrel.core.formats.xt.appearance import layer_number
from gondrel.core.formats.xt.attributes import AttributeWriter
from gondrel.core.formats.xt.binary import write_binary
from gondrel.core.formats.xt.body_write import RES_LINEAR, RES_SIZE, add_body
from gondrel.core.formats.xt.builder import NodeBuilder
from gondrel.core.formats.xt.foresee import plan_of
from gondrel.core.formats.xt.nodes import Header
from gondrel.core.formats.xt.text import write_text
from gondrel.core.model.body import Body, BodyFacts, Rgba
from gondrel.core.model.boundary import Boundary
from gondrel.core.model.extras import body_extra, face_extra, model_extra, product_extra, use_extra
from gondrel.core.model.product import IDENTITY, Material, Metadatum, Occurrence, Placement, Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["VERSION", "write"]

VERSION = ": TRANSMIT FILE created by modeller version 1300000"
_MOVED, _TURNED = 1, 2
"""Bits of a transform's flag for a translation and a rotation (from memory)."""


def write(
    model: Model,
    target: Target,
    settings: SendSettings,
    store: BlobStore,
    facts: Mapping[str, BodyFacts],
    *,
    name: str,
    progress: Progress = SILENT,
) -> bytes:
    """The file as bytes.

    Raises:
        CannotExpress: when a body lies outside the modeller's size box, or can't be told in XT.
    """
    make = NodeBuilder()
    writer = _Writer(model, make, store, progress)
    writer.write()
    variant = "binary" if target.kind.endswith("binary") else "text"
    document = make.document(Header(variant, _entries(settings, name, variant), VERSION))
    return write_binary(document) if variant == "binary" else write_text(document)


def _entries(settings: SendSettings, name: str, variant: str) -> tuple[tuple[str, str], ...]:
    clean = {
        "APPL": settings.system,
        "SITE": settings.organisation,
        "USER": settings.author,
        "FORMAT": variant,
        "GUISE": "transmit",
        "KEY": name.rsplit(".", 1)[0],
        "FILE": name,
        "DATE": datetime.now().strftime("%d-%b-%Y").lower(),
    }
    return tuple(
        (key, "".join(c if 32 <= ord(c) < 127 and c not in ";=" else "_" for c in value))
        for key, value in clean.items()
        if value
    )


class _Writer:
    """Writes parts before the assemblies they are placed in; the root node stands first."""

    def __init__(
        self,
        model: Model,
        make: NodeBuilder,
        store: BlobStore,
        progress: Progress,
    ) -> None:
        self.model = model
        self.make = make
        self.store = store
        self.progress = progress
        self.attributes = AttributeWriter(make)
        self.parts: dict[str, int] = {}
        self.finished: set[str] = set()
        self.instances: dict[int, list[int]] = {}
        self.done = 0
        self.count = max(sum(1 for _ in model.bodies()), 1)

    def write(self) -> None:
        """All products, each once."""
        roots = [r for r in self.model.roots if r in self.model.by_id]
        single = len(roots) == 1
        listed = 0 if single else self.make.new("POINTER_LIS_BLOCK")
        if single and not _is_one_body(self.model.product(roots[0])):
            # the root stands first, its parts after it
            self.parts[roots[0]] = self.make.new("ASSEMBLY", res_size=RES_SIZE, res_linear=RES_LINEAR)
        for root in roots:
            self._part(root, ())
        if listed:
            entries = [self.parts[r] for r in roots]
            self.make.set(listed, n_entries=len(entries), entries=entries)
        for part, instances in self.instances.items():
            head = self.make.chain(instances, forth="next_of_part", back="prev_of_part")
            self.make.set(part, ref_instance=head)

    def _part(self, key: str, above: tuple[str, ...]) -> None:
        product = self.model.by_id.get(key)
        if product is None or key in above:
            raise CannotExpress(f"the structure refers to {key}, which is missing or contains itself")
        if key in self.finished:
            return
        for occurrence in product.occurrences:
            self._part(occurrence.product, (*above, key))
        one = _is_one_body(product)
        self.parts[key] = self._single(product) if one else self._assembly(product, self.parts.get(key, 0))
        self.finished.add(key)

    # --- bodies ----------------------------------------------------------------------------

    def _single(self, product: Product) -> int:
        first = len(self.make) + 1
        body = product.bodies[0]
        index, faces = self._body(product, body)
        self._identity(index, product)
        self._body_appearance(index, faces, body)
        self._name(index, product.label)
        self._finish(index, first)
        return index

    def _inner(self, product: Product, body: Body) -> int:
        first = len(self.make) + 1
        index, faces = self._body(product, body)
        self.attributes.add(index, named.INSIDE, 1)
        self._body_appearance(index, faces, body)
        self._name(index, body.name or product.label)
        self._finish(index, first)
        return index

    def _body(self, product: Product, body: Body) -> tuple[int, list[tuple[int, int]]]:
        """The body's node, and the node of each face with the place of the face it is part of; its edges
        have their colours."""
        self.progress.at(self.done / self.count, f"Writing {product.label}")
        self.done += 1
        boundary = self._boundary(product, body)
        written = add_body(self.make, boundary)
        faces = [(node, face.source) for node, face in zip(written.faces, boundary.faces, strict=True)]
        colours = dict(body.edge_colours)
        for node, edge in zip(written.edges, boundary.edges, strict=True):
            if edge.source in colours:
                self._colour(node, colours[edge.source])
        return written.body, faces

    def _boundary(self, product: Product, body: Body) -> Boundary:
        plan = plan_of(self.store, body.blob)
        if plan.boundary is None:
            raise CannotExpress(
                f"{product.label} can't be written: {plan.refused}",
                hint="send it as STEP, or mend it first",
            )
        return plan.boundary

    def _body_appearance(self, index: int, faces: list[tuple[int, int]], body: Body) -> None:
        add = self.attributes.add
        own = dict(body.face_colours)
        if body.name or own:
            places = [place for place, (_, source) in enumerate(faces) if source in own]
            add(index, named.BODY, body.name, places)
        if body.colour is not None:
            self._colour(index, body.colour)
        for node, source in faces:
            colour = own.get(source, body.colour)
            if colour is not None:
                self._colour(node, colour)
        self._layers(index, body.layers)
        self._more(index, body_extra(body), named.BODY_MORE)
        for node, source in faces:
            for name in (text for face, text in body.face_names if face == source):
                self._name(node, name)
            self._layers(node, tuple(text for face, text in body.face_layers if face == source))
            self._more(node, face_extra(body, source))

    def _layers(self, owner: int, layers: tuple[str, ...]) -> None:
        for place, layer in enumerate(layers, 1):
            self.attributes.add(owner, named.LAYER, layer_number(layer, place))
            self.attributes.add(owner, named.LAYER_NAME, layer)

    def _more(self, owner: int, text: str, identifier: str = named.MORE) -> None:
        if text:
            self.attributes.add(owner, identifier, text)

    def _colour(self, owner: int, colour: Rgba) -> None:
        self.attributes.add(owner, named.COLOUR, [colour.red, colour.green, colour.blue])
        if colour.alpha < 1.0:
            self.attributes.add(owner, named.TRANSPARENCY, 1.0 - colour.alpha)

    # --- products --------------------------------------------------------------------------

    def _identity(self, index: int, product: Product) -> None:
        add = self.attributes.add
        add(index, named.IDENTITY, product.number, product.name, product.revision, product.description)
        if product.material is not None:
            self._material(index, product.material)
        self._metadata(index, product.metadata)
        self._more(index, product_extra(product))
        if product.id in self.model.roots[:1]:
            self._more(index, model_extra(self.model), named.MODEL_MORE)

    def _material(self, index: int, material: Material) -> None:
        density = [] if material.density is None else [material.density]
        self.attributes.add(index, named.MATERIAL, material.name, material.description, density)
        if material.density is not None:
            self.attributes.add(index, named.DENSITY, material.density)

    def _metadata(self, index: int, metadata: tuple[Metadatum, ...]) -> None:
        for datum in metadata:
            self.attributes.add(index, named.DATUM, datum.key, datum.kind, json.dumps(datum.value))

    def _name(self, index: int, name: str) -> None:
        plain = name.encode("latin-1", "replace").decode("latin-1")
        if name:
            self.attributes.add(index, named.NAME, plain)
        if plain != name:
            self.attributes.add(index, named.UNICODE_NAME, name)

    # --- assemblies ------------------------------------------------------------------------

    def _assembly(self, product: Product, begun: int) -> int:
        make = self.make
        inner = [self._inner(product, body) for body in product.bodies]
        first = len(make) + 1
        index = begun or make.new("ASSEMBLY", res_size=RES_SIZE, res_linear=RES_LINEAR)
        make.set(index, state=1, type=1)
        instances = [self._instance(index, part, IDENTITY) for part in inner]
        for occurrence in product.occurrences:
            at = self._instance(index, self.parts[occurrence.product], occurrence.placement)
            self._occurrence(at, occurrence)
            instances.append(at)
        make.set(index, sub_instance=make.chain(instances, forth="next_in_part", back="prev_in_part"))
        self._identity(index, product)
        self._name(index, product.label)
        self._finish(index, first)
        return index

    def _instance(self, assembly: int, part: int, placement: Placement) -> int:
        make = self.make
        at = make.new("INSTANCE", type=1, part=part, assembly=assembly)
        if placement is not IDENTITY and tuple(placement) != IDENTITY:
            rows = [float(placement[r * 4 + c]) for r in range(3) for c in range(3)]
            moved = tuple(float(placement[i]) for i in (3, 7, 11))
            flag = (_MOVED if any(moved) else 0) | (_TURNED if rows != [1, 0, 0, 0, 1, 0, 0, 0, 1] else 0)
            make.set(
                at,
                transform=make.new(
                    "TRANSFORM", owner=at, rotation_matrix=rows, translation_vector=moved, scale=1.0,
                    flag=flag, perspective_vector=(0.0, 0.0, 0.0),
                ),
            )  # fmt: skip
        self.instances.setdefault(part, []).append(at)
        return at

    def _occurrence(self, at: int, occurrence: Occurrence) -> None:
        self._name(at, occurrence.name)
        if occurrence.colour is not None:
            self._colour(at, occurrence.colour)
        self._metadata(at, occurrence.metadata)
        self._more(at, use_extra(occurrence))
        self._layers(at, occurrence.layers)

    def _finish(self, index: int, first: int) -> None:
        self.attributes.finish(index)
        nodes = [index, *(i for i in range(first, len(self.make) + 1) if i != index)]
        self.make.set(index, highest_node_id=self.make.number(nodes))


def _is_one_body(product: Product) -> bool:
    return len(product.bodies) == 1 and not product.occurrences
