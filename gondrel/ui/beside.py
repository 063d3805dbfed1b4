"""What stands in the second pane beside the current model."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from pathlib import Path

from gondrel.core.model import Model
from gondrel.core.service.messages import Sent

__all__ = ["Beside", "partners_of", "returned_beside", "same_bodies"]


@dataclass(frozen=True, slots=True)
class Beside:
    """A model to compare the current one with: what came back, or what a mend makes or made of it.

    Args:
        captions: of the left and of the right pane; detail: what stands behind the right one, quietly.
        pairs: hash of each of its bodies to the hash of the current one it is compared with.
        products: ids of the products that differ, to be marked; is_proof: whether it is what was returned;
            is_before: whether it comes before the current one, so that it stands at the left.
    """

    model: Model
    captions: tuple[str, str]
    detail: str = ""
    pairs: dict[str, str] = field(default_factory=dict)
    products: frozenset[str] = frozenset()
    is_proof: bool = False
    is_before: bool = False


def returned_beside(model: Model, sent: Sent) -> Beside:
    """What came back beside what was sent, its bodies paired as the proof matched them."""
    ours = {body.id: body.blob for _, body in model.bodies()}
    theirs = {body.id: body.blob for _, body in sent.returned.bodies()}
    pairs = {theirs[b]: ours[a] for a, b in sent.proof.pairs if a in ours and b in theirs}
    name = f"from {Path(sent.path).name}"
    return Beside(sent.returned, ("RECEIVED", "RETURNED"), name, pairs, is_proof=True)


def same_bodies(ours: Model, theirs: Model) -> tuple[dict[str, str], frozenset[str]]:
    """Pairs of hashes of bodies that have the same id in two states of a model but differ, theirs to ours,
    and the products that differ between them."""
    mine = {body.id: body.blob for _, body in ours.bodies()}
    pairs = {
        body.blob: mine[body.id]
        for _, body in theirs.bodies()
        if body.id in mine and mine[body.id] != body.blob
    }
    changed = {p.id for p in theirs.products if p.id not in ours.by_id or ours.product(p.id) != p}
    changed |= {p.id for p in ours.products if p.id not in theirs.by_id}
    return pairs, frozenset(changed)


def partners_of(beside: Beside, sent: Sent | None, chosen: Iterable[str]) -> frozenset[str]:
    """Products in the second pane that some products of the first stand for or came back as."""
    wanted = set(chosen)
    if not beside.is_proof or sent is None:
        return frozenset(wanted)
    return frozenset(
        compared.returned_products[0]
        for entry in sent.proof.ledger.entries
        for compared in entry.items
        if compared.item.products and compared.returned_products and compared.item.products[0] in wanted
    )
