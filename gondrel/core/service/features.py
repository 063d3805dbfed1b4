"""Features of the dumb solids of a file."""

from __future__ import annotations

from collections import Counter
from pathlib import Path
from typing import Any

from gondrel.core.errors import KernelRefused
from gondrel.core.features.find import find_features
from gondrel.core.features.rebuild import recipe_of
from gondrel.core.kernel.base.shape import shape_from_blob
from gondrel.core.kernel.derive import holes_of_body
from gondrel.core.kernel.inspect.face_graph import face_graph_of
from gondrel.core.model.beneath import bodies_beneath
from gondrel.core.model.body import BodyKind
from gondrel.core.model.features import KINDS, Feature
from gondrel.core.model.part_recipe import Base, PartRecipe, Rebuilt
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.reports.features import features_object
from gondrel.core.service.intake import receive_by
from gondrel.core.service.settings import ReceiveOptions
from gondrel.core.work import SILENT, Progress

__all__ = ["features_command", "features_of_model", "rebuilt_parts"]

FeatureRows = tuple[tuple[str, str, tuple[Feature, ...], str], ...]


def features_of_model(
    model: Model,
    kinds: tuple[str, ...],
    store_folder: str,
    products: tuple[str, ...] = (),
    *,
    progress: Progress = SILENT,
) -> FeatureRows:
    """The features of every solid of a model.

    Args:
        kinds: what is looked for, of KINDS; everything where it is empty.
        products: whose solids, with all that occurs in them; of all where it is empty.

    Returns: for each solid the id of its product, that of the body, its features, and why it has none
        where it could not be looked at.
    """
    store, rows = BlobStore(Path(store_folder)), []
    known: dict[str, tuple[tuple[Feature, ...], str]] = {}
    wanted = {body.id for key in products or model.roots for body in bodies_beneath(model, key)}
    solids = [(p, body) for p, body in model.bodies() if body.kind is BodyKind.SOLID and body.id in wanted]
    for product, body in progress.each(solids, "Looking for features"):
        if body.blob not in known:
            try:
                graph = face_graph_of(shape_from_blob(store.get(body.blob)))
                found = find_features(graph, holes_of_body(store, body.blob), kinds or KINDS)
                known[body.blob] = tuple(found), ""
            except KernelRefused as error:
                known[body.blob] = (), error.message
        rows.append((product.id, body.id, *known[body.blob]))
    return tuple(rows)


def features_command(
    path: str, options: ReceiveOptions, kinds: tuple[str, ...], rebuild: bool, store: str, *,
    progress: Progress = SILENT,
) -> dict[str, Any]:  # fmt: skip
    """The object of ``gondrel features``.

    Args:
        rebuild: whether each part is computed anew from its features, of whatever kind, and proven.

    Raises:
        InputError, KernelError.
    """
    model = receive_by(path, store, options, progress=progress.part(0.0, 0.4))
    rows = features_of_model(model, kinds, store, progress=progress.part(0.4, 0.6))
    counts = Counter(feature.kind for _, _, features, _ in rows for feature in features)
    rebuilt = rebuilt_parts(model, store, progress=progress.part(0.6, 1.0)) if rebuild else {}
    return features_object(model, rows, counts, rebuilt)


def rebuilt_parts(
    model: Model, store_folder: str, products: tuple[str, ...] = (), *, progress: Progress = SILENT
) -> dict[str, Rebuilt]:
    """Solids computed anew from their features, by the id of the body.

    Args:
        products: whose solids, with all that occurs in them; of all where it is empty.
    """
    store, known, made = BlobStore(Path(store_folder)), dict[str, Rebuilt](), {}
    wanted = {body.id for key in products or model.roots for body in bodies_beneath(model, key)}
    solids = [body for _, body in model.bodies() if body.kind is BodyKind.SOLID and body.id in wanted]
    for body in progress.each(solids, "Computing parts anew"):
        if body.blob not in known:
            try:
                solid = shape_from_blob(store.get(body.blob))
                graph = face_graph_of(solid)
                features = find_features(graph, holes_of_body(store, body.blob))
                known[body.blob], _ = recipe_of(solid, graph, features)
            except KernelRefused as error:
                known[body.blob] = Rebuilt(
                    PartRecipe(Base("remains"), ()), False, None, None, error.message
                )
        made[body.id] = known[body.blob]
    return made
