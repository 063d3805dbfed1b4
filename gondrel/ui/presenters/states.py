"""What stands in the State column: the gravest of what there is to say of each product, in words."""

from __future__ import annotations

from collections import Counter
from collections.abc import Container, Iterator
from dataclasses import dataclass

from gondrel.core.model import Model
from gondrel.core.model.findings import CheckReport, Severity
from gondrel.core.reports.figures import count_of
from gondrel.core.service.messages import Compared, Proof, is_of_its_own
from gondrel.ui.presenters.cells import EXPECTED, TITLES, held_never, weighed

__all__ = ["NO_STATE", "State", "states_of"]

_WEIGHTS = {
    "lost": 1, "fault": 2, "altered": 3, "added": 4, "unproved": 5, "doubt": 6,
    f"lost{EXPECTED}": 7, f"altered{EXPECTED}": 8, "carried": 9, "clean": 10,
}  # fmt: skip
"""What is told first. What somebody has to do something about comes before what was announced."""


@dataclass(frozen=True, slots=True)
class State:
    """What there is to say of a product.

    Args:
        mark: the verdict or severity it is drawn by; text: what, in a few words; tip: all of it.
    """

    mark: str
    text: str = ""
    tip: str = ""

    @property
    def weight(self) -> int:
        """How it is sorted: the gravest first."""
        return _WEIGHTS.get(self.mark, len(_WEIGHTS))

    def says(self, word: str) -> bool:
        """Whether a word of a filter is in it: a verdict, a severity, or a thing."""
        return word in f"{self.mark} {self.text}".lower().split() or word in self.tip.lower().split()


NO_STATE = State("")


def states_of(
    model: Model,
    proof: Proof | None,
    problems: Container[str] = frozenset(),
    report: CheckReport | None = None,
) -> dict[str, State]:
    """The state of each product by its id; nothing of those nothing is known of.

    What no file of the target can hold is not told of every product again: it is told once, elsewhere.

    Args:
        problems: hashes of bodies that could not be shown or measured.
    """
    said: dict[str, list[State]] = {product.id: [] for product in model.products}
    for product in model.products:
        if product.missing_file:
            said[product.id].append(State("lost", "file missing", f"{product.missing_file} was not found"))
        if product.unread is not None:
            said[product.id].append(State("unproved", "not loaded", "its shape is not loaded"))
        if any(body.blob in problems for body in product.bodies):
            said[product.id].append(State("fault", "not measured", "a body could not be measured"))
    for product_id, state in _checked(model, report):
        said[product_id].append(state)
    if proof is not None:
        for product_id, state in _proved(model, proof):
            said[product_id].append(state)
    states = {}
    for product_id, several in said.items():
        if several:
            several.sort(key=lambda state: state.weight)
            tip = "\n".join(state.tip for state in several if state.tip)
            states[product_id] = State(several[0].mark, several[0].text, tip)
    return states


def _checked(model: Model, report: CheckReport | None) -> Iterator[tuple[str, State]]:
    if report is None:
        return
    counts: dict[str, Counter[Severity]] = {}
    for finding in report.findings:
        counts.setdefault(finding.product, Counter())[finding.severity] += 1
    examined = {product for product, count in report.examined if count}
    for product in model.products:
        of_product = counts.get(product.id, Counter())
        faults, doubts = of_product[Severity.FAULT], of_product[Severity.DOUBT]
        parts = [count_of(n, word) for n, word in ((faults, "fault"), (doubts, "doubt")) if n]
        if parts:
            yield product.id, State("fault" if faults else "doubt", parts[0], ", ".join(parts))
        elif product.id in examined:
            yield product.id, State("clean", "clean", "no fault and no doubt")


def _proved(model: Model, proof: Proof) -> Iterator[tuple[str, State]]:
    never = held_never(proof)
    by_product: dict[str, dict[str, dict[str, None]]] = {}
    for each in _items(proof):
        own = each.verdict == "added" and is_of_its_own(each.item.aspect)
        if own or each.item.thing in never:
            continue
        weight = weighed(each.verdict, each.announced)
        for number in each.item.products[:1]:
            by_product.setdefault(number, {}).setdefault(weight, {})[each.item.thing] = None
    for product in model.products:
        outcome = by_product.get(product.id, {})
        worst = min(
            (w for w in outcome if w != "carried"), key=lambda w: _WEIGHTS.get(w, 99), default="carried"
        )
        if worst == "carried":
            yield product.id, State("carried", "carried", "all of it came back as it was")
            continue
        things = [TITLES[thing].lower() for thing in outcome[worst]]
        text = things[0] + (f" +{len(things) - 1}" if len(things) > 1 else "")
        lines = [
            f"{', '.join(TITLES[t].lower() for t in of)} {weight}"
            for weight, of in sorted(outcome.items(), key=lambda pair: _WEIGHTS.get(pair[0], 99))
            if weight != "carried"
        ]
        yield product.id, State(worst, text, "\n".join(lines))


def _items(proof: Proof) -> Iterator[Compared]:
    for entry in proof.ledger.entries:
        yield from entry.items
