"""How the parts of a STEP file are put together, by its records, as the kernel would tell it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping

import numpy as np

from gondrel.core.formats.step.card import document_definitions
from gondrel.core.formats.step.graph import Graph
from gondrel.core.formats.step.listed import Matrix
from gondrel.core.formats.step.records import Records
from gondrel.core.kernel.exchange.transferred import Transferred, TransferredOccurrence, TransferredProduct
from gondrel.core.model.product import IDENTITY

__all__ = ["put_together", "structure_alone"]

Uses = dict[int, list[TransferredOccurrence]]


def structure_alone(records: Records, graph: Graph, places: Mapping[int, Matrix]) -> Transferred:
    """All products without their bodies.

    Args:
        places: the placement of each usage, child to parent in mm, by its record.
    """
    known = _known(records, graph)
    uses = _uses(records, graph, places, set(known))
    products = {
        str(number): TransferredProduct(
            str(number), records.ordinal(number), (), tuple(uses.get(number, ()))
        )
        for number in known
    }
    used = {use.product for product in products.values() for use in product.uses}
    return Transferred(products, [key for key in products if key not in used], len(records))


def put_together(
    parts: Transferred, records: Records, graph: Graph, places: Mapping[int, Matrix]
) -> Transferred:
    """What the kernel made of the parts of a file, as components of what the records put together of them.

    A product that neither has a shape nor anything in it that has one is left out, as the kernel leaves it.

    Args:
        parts: by the kernel, without any usage; places: as structure_alone has them.
    """
    made = {str(records.number_at(p.record - 1)): p for p in parts.products.values() if p.record}
    known = _known(records, graph)
    uses = _uses(records, graph, places, set(known))
    products: dict[str, TransferredProduct] = {}
    empty: set[str] = set()

    def add(key: str) -> bool:
        """Add a product after those in it; whether there is anything of it."""
        if key in products or key in empty:
            return key in products
        own = tuple(use for use in uses.get(int(key), ()) if add(use.product))
        part = made.get(key)
        if part is None and not own:
            empty.add(key)
            return False
        bodies = part.bodies if part is not None else ()
        products[key] = TransferredProduct(key, records.ordinal(int(key)), bodies, own)
        return True

    used = {use.product for listed in uses.values() for use in listed}
    tops = [key for key in map(str, known) if key not in used]
    roots = [key for key in (*tops, *made) if key not in products and add(key)]
    nameless = {key: part for key, part in parts.products.items() if not part.record}
    products |= nameless
    return Transferred(products, [*roots, *nameless], parts.records)


def _known(records: Records, graph: Graph) -> list[int]:
    """Product definitions that are no documents."""
    documents = document_definitions(records)
    return [number for number in graph.products if number not in documents]


def _uses(records: Records, graph: Graph, places: Mapping[int, Matrix], known: set[int]) -> Uses:
    """Usages by the record of their parent. What has no place, or stands for several, is told of by who
    finds it passed over."""
    uses: defaultdict[int, list[TransferredOccurrence]] = defaultdict(list)
    for use in graph.uses.values():
        matrix = places.get(use.record)
        if matrix is None or use.quantity is not None or use.child not in known or use.parent not in known:
            continue
        placement = tuple(matrix.ravel().tolist()) if np.isfinite(matrix).all() else IDENTITY
        ordinal = records.ordinal(use.record)
        uses[use.parent].append(TransferredOccurrence(ordinal, str(use.child), placement, None))
    return dict(uses)
