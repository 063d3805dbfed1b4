"""The sending log: what went to whom, when, by which choices, and what its proof said."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass, replace

from gondrel.core.model.codec import to_plain
from gondrel.core.model.snapshot import Model

__all__ = ["Sending", "changed_since", "digests_of"]


@dataclass(frozen=True, slots=True)
class Sending:
    """One sending.

    Args:
        when: ISO 8601, with the offset from UTC; to: for whom, as people say it; card: key of the recipient
            card, recipe: name of the recipe, both empty where none was chosen.
        kind: of the target; files: path and SHA-256 of each file.
        carried, altered, lost, unannounced: items of the ledger.
        settings: what was chosen, by the keys of settings.
        digests: id of each product that went, and a hash of what was said of it.
    """

    when: str
    to: str
    card: str
    recipe: str
    kind: str
    files: tuple[tuple[str, str], ...]
    carried: int = 0
    altered: int = 0
    lost: int = 0
    unannounced: int = 0
    digests: tuple[tuple[str, str], ...] = ()
    settings: tuple[tuple[str, str], ...] = ()


def digests_of(model: Model) -> tuple[tuple[str, str], ...]:
    """A hash of what is said of each product: its facts, bodies and components."""
    made = []
    for product in model.products:
        plain = json.dumps(to_plain(replace(product, validation=None)), sort_keys=True)
        made.append((product.id, hashlib.sha256(plain.encode()).hexdigest()))
    return tuple(made)


def changed_since(sending: Sending, model: Model) -> frozenset[str]:
    """Ids of the products of a model that are other than when it was sent, or new."""
    then = dict(sending.digests)
    return frozenset(i for i, digest in digests_of(model) if then.get(i) != digest)
