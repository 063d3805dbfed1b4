"""The contract's objects for arranging: the proposal, steps, and figures."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from gondrel.core.arrange.cutdown import Left
from gondrel.core.arrange.proposal import Proposal, ProposedPart
from gondrel.core.arrange.steps.outcome import StepOutcome

__all__ = ["left_object", "proposal_object", "step_object"]

Json = dict[str, Any]


def proposal_object(proposal: Proposal) -> Json:
    """A proposed structure."""
    return {
        "products": [_part(part) for part in proposal.parts],
        "assemblies": [
            {
                "name": group.name, "parent": group.parent, "evidence": list(group.evidence),
                "uses": [
                    {"placement": [float(v) for v in placement], "members": list(members)}
                    for placement, members in group.uses
                ],
            }
            for group in proposal.groups
        ],
        "unassigned": len(proposal.unassigned),
        "unassigned_why": [{"body": body, "why": why} for body, why in proposal.unassigned],
    }  # fmt: skip


def _part(part: ProposedPart) -> Json:
    standard = part.standard
    return {
        "name": part.name,
        "number": part.number,
        "bodies": list(part.bodies),
        "uses": [
            {
                "parent": use.parent, "name": use.name, "placement": [float(v) for v in use.placement],
                "mirrored": False, "accuracy": use.accuracy,
            }
            for use in part.uses
        ],
        "pattern": part.pattern.kind if part.pattern else None,
        "pattern_text": part.pattern.words if part.pattern else "",
        "standard_part": {
            "standard": standard.standard, "designation": standard.designation,
            "evidence": standard.evidence,
        } if standard else None,
        "mirror_of": part.mirror_of,
        "evidence": list(part.evidence),
    }  # fmt: skip


def step_object(outcome: StepOutcome) -> Json:
    """What came of a step."""
    return {
        "what": outcome.what, "items": outcome.items, "outcome": outcome.outcome, "why": outcome.why,
        "lost": list(outcome.told),
    }  # fmt: skip


def left_object(left: Left) -> Json:
    """How much a model is; volume in mm3."""
    return asdict(left)
