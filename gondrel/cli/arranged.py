"""The object of arranging for people: proposal as a table, what came of steps, figures before and after."""

from __future__ import annotations

from typing import Any

from rich.text import Text

from gondrel.cli.text import View, sent_view, table_of
from gondrel.core.reports.figures import Figures, count_of, size_of_file

__all__ = ["arranged_view"]

_FIGURES = Figures()
_OUTCOMES = {"done": ("+", "green"), "not applicable": ("?", "yellow"), "refused": ("-", "red")}


def arranged_view(result: dict[str, Any]) -> View:
    """What was proposed, done and sent."""
    if result["proposal"] is not None:
        yield from _proposal(result["proposal"])
    for step in result["steps"]:
        mark, style = _OUTCOMES[step["outcome"]]
        why = f": {step['why']}" if step["why"] else ""
        yield Text.assemble((mark, style), f" {step['what']}, {step['items']}{why}")
        for lost in step["lost"]:
            yield Text(f"    lost: {lost}", "yellow")
    if figures := result.get("figures"):
        yield from _figures(figures["before"], figures["after"])
    if result["sent"]:
        yield from sent_view(result)


def _proposal(proposal: dict[str, Any]) -> View:
    table = table_of("part", "count", "what speaks for it")
    for part in proposal["products"]:
        standard = part["standard_part"]
        told = [f"{standard['standard']} {standard['designation']}"] if standard else []
        told += [t for t in part["evidence"] if not standard or t != standard["evidence"]]
        table.add_row(part["name"], f"{len(part['uses']):,}", "; ".join(told))
    yield table
    for group in proposal["assemblies"]:
        yield Text(
            f"sub-assembly {group['name']} \u00d7 {len(group['uses'])}: {'; '.join(group['evidence'])}"
        )
    uses = sum(len(part["uses"]) for part in proposal["products"])
    left = f", {proposal['unassigned']} bodies not assigned" if proposal["unassigned"] else ""
    yield Text(f"{count_of(len(proposal['products']), 'part')} in {count_of(uses, 'place')}{left}")
    if stands := proposal.get("stands"):
        yield Text(
            f"measured in {stands['measured']} of {stands['of']} places: at most "
            f"{stands['max_deviation']:.1e} mm off where it stood"
        )


def _figures(before: dict[str, Any], after: dict[str, Any]) -> View:
    table = table_of("", "before", "after")
    for key in ("parts", "places", "bodies", "faces"):
        table.add_row(key, f"{before[key]:,}", f"{after[key]:,}")
    table.add_row("volume in place", _FIGURES.volume(before["volume"]), _FIGURES.volume(after["volume"]))
    table.add_row("size of all bodies", size_of_file(before["bytes"]), size_of_file(after["bytes"]))
    yield table
