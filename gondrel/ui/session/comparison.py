"""What stands in the second pane beside the current model."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from pathlib import Path

from gondrel.core.model import Model
from gondrel.core.recipients.results import Rehearsal
from gondrel.core.service.messages import Proof, Sent

__all__ = [
    "Against", "Comparison", "comparison_with_rehearsed", "comparison_with_returned", "paired_by",
    "partners_of", "same_bodies",
]  # fmt: skip


Against = dict[str, tuple[str, ...]]
"""Hash of a body to the hashes of the bodies it is compared with."""


@dataclass(frozen=True, slots=True)
class Comparison:
    """A model to compare the current one with: what came back, or what a mend makes or made of it.

    Args:
        captions: of the left and of the right pane; detail: what stands behind the right one, quietly.
        ours: hash of each body of the current model to those of the bodies of the other it is compared
            with; theirs: the same the other way.
        products: ids of the products that differ, to be marked; is_proof: whether it is what was returned;
            is_before: whether it comes before the current one, so that it stands at the left.
    """

    model: Model
    captions: tuple[str, str]
    detail: str = ""
    ours: Against = field(default_factory=dict)
    theirs: Against = field(default_factory=dict)
    products: frozenset[str] = frozenset()
    is_proof: bool = False
    is_before: bool = False


def comparison_with_returned(model: Model, sent: Sent) -> Comparison:
    """What came back beside what was sent, its bodies paired as the proof matched them."""
    return Comparison(
        sent.returned,
        ("RECEIVED", "RETURNED"),
        f"from {Path(sent.path).name}",
        *paired_by(model, sent.returned, sent.proof),
        is_proof=True,
    )


def comparison_with_rehearsed(model: Model, rehearsal: Rehearsal) -> Comparison:
    """What a stand-in made of the file beside what would be sent."""
    taken = rehearsal.taken.model
    title = rehearsal.stand_in.replace("-", " ")
    return Comparison(taken, ("RECEIVED", "AT THEIRS"), title, *paired_by(model, taken, rehearsal.proof))


def paired_by(model: Model, other: Model, proof: Proof) -> tuple[Against, Against]:
    """What bodies of two models are compared with, as a proof matched them."""
    ours = {body.id: body.blob for _, body in model.bodies()}
    theirs = {body.id: body.blob for _, body in other.bodies()}
    pairs = [(ours[a], theirs[b]) for a, b in proof.pairs if a in ours and b in theirs]
    return {a: (b,) for a, b in pairs}, {b: (a,) for a, b in pairs}


def same_bodies(ours: Model, theirs: Model) -> tuple[Against, Against, frozenset[str]]:
    """What bodies of two states of a model are compared with, ours and theirs, and which products differ.

    A body that changed is compared with the one of the same id; where bodies of a product became one, or
    one became several, each that is new is compared with all there were. What did not change needs no
    comparison.
    """
    mine: Against = {}
    others: Against = {}
    for product in ours.products:
        if product.id not in theirs.by_id:
            continue
        before = {body.id: body.blob for body in product.bodies}
        after = {body.id: body.blob for body in theirs.product(product.id).bodies}
        for uses, here, there in ((mine, before, after), (others, after, before)):
            for key, blob in here.items():
                if blob in there.values() or not there:
                    continue
                uses[blob] = (there[key],) if here.keys() == there.keys() else tuple(there.values())
    changed = {p.id for p in theirs.products if p.id not in ours.by_id or ours.product(p.id) != p}
    changed |= {p.id for p in ours.products if p.id not in theirs.by_id}
    return mine, others, frozenset(changed)


def partners_of(comparison: Comparison, sent: Sent | None, chosen: Iterable[str]) -> frozenset[str]:
    """Products in the second pane that some products of the first stand for or came back as."""
    wanted = set(chosen)
    if not comparison.is_proof or sent is None:
        return frozenset(wanted)
    return frozenset(
        compared.returned_products[0]
        for entry in sent.proof.ledger.entries
        for compared in entry.items
        if compared.item.products and compared.returned_products and compared.item.products[0] in wanted
    )
