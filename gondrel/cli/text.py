"""Contract objects as lines for people."""

from __future__ import annotations

from typing import Any

from gondrel.core.reports.figures import NOT_MEASURED
from gondrel.core.reports.findings import changed_figures
from gondrel.core.reports.other import other_sentences

__all__ = ["check_lines", "forecast_lines", "inspect_lines", "mend_lines", "proof_lines"]

_MARK = {"carried": "+", "altered": "~", "lost": "-", "added": "*", "unproved": "?"}
_SHOWN = 8


def inspect_lines(result: dict[str, Any]) -> list[str]:
    """What is in a file."""
    file, totals = result["file"], result["totals"]
    writer = file["written_by"]
    lines = [
        f"{file['path']}",
        f"  {file['schema'] or file['format']}, {_unit(result)}, "
        f"{file['bytes'] / 1e6:.2f} MB, written by {writer['system'] or 'an unnamed system'}"
        f" {writer['date']}",
        f"  {totals['products']} products, {totals['occurrences']} placed components, "
        f"{totals['solids']} solids ({totals['placed_solids']} placed), {totals['sheets']} sheets",
        f"  volume {totals['placed_volume']:,.3f} mm3, area {totals['placed_area']:,.3f} mm2",
        "",
    ]
    for root in result["roots"]:
        lines += _tree(result, root, 0)
    lines += _census_lines(result)
    for note in result["notes"]:
        lines.append(f"note: {note['where'] + ': ' if note['where'] else ''}{note['text']}")
    return lines


def _unit(result: dict[str, Any]) -> str:
    """The unit a file says, else the one that was taken and how that is changed."""
    said, taken = result["file"]["length_unit"], result.get("unit_taken")
    if said or taken is None:
        return said or "no unit"
    if taken["is_assumed"]:
        return f"no unit said, {taken['unit']} assumed (--set unit=... takes another)"
    return f"no unit said, {taken['unit']} as asked for"


def _census_lines(result: dict[str, Any]) -> list[str]:
    """How many records were read, and what remains, by kind."""
    census = result["census"]
    if census is None:
        return []
    lines = [
        f"{census['all']:,} {census['noun']}: {census['carried']:,} read, {census['serving']:,} serving "
        f"them, {census['remainder']:,} in the remainder"
    ]
    kinds: dict[str, list[dict[str, Any]]] = {}
    for rest in result["remainder"]:
        kinds.setdefault(rest["kind"], []).append(rest)
    for kind, rests in kinds.items():
        types = ", ".join(f"{rest['count']} {rest['type']}" for rest in rests[:_SHOWN])
        more = f" and {len(rests) - _SHOWN} more types" if len(rests) > _SHOWN else ""
        lines.append(f"  remainder: {kind}: {types}{more}")
    return lines


def _tree(result: dict[str, Any], index: int, depth: int) -> list[str]:
    product = result["products"][index]
    bodies = len(product["bodies"])
    parts = [product["name"] or product["number"] or "(unnamed)"]
    if product["revision"]:
        parts.append(f"rev {product['revision']}")
    if bodies:
        volume = sum(b.get("volume", 0.0) for b in product["bodies"])
        parts.append(f"{bodies} {'body' if bodies == 1 else 'bodies'}, {volume:,.3f} mm3")
    lines = ["  " * (depth + 1) + "  ".join(parts)]
    counted: dict[int, int] = {}
    for child in product["children"]:
        counted[child["product"]] = counted.get(child["product"], 0) + 1
    for child, times in counted.items():
        below = _tree(result, child, depth + 1)
        below[0] += f"  x {times}" if times > 1 else ""
        lines += below
    return lines


_SEVERITY = {"fault": "!", "doubt": "?", "note": "."}


def check_lines(result: dict[str, Any]) -> list[str]:
    """What is not sound, by kind."""
    counts = result["counts"]
    lines = [
        f"{result['file']['path']}",
        f"  {counts['fault']} faults, {counts['doubt']} doubts, {counts['note']} notes; "
        f"{result['bodies_clean']} bodies clean, {result['bodies_with_findings']} with findings; "
        f"{result['examined']:,} faces, edges and vertices examined",
    ]
    kinds: dict[tuple[str, str, str], list[dict[str, Any]]] = {}
    for finding in result["findings"]:
        kinds.setdefault((finding["severity"], finding["code"], finding["title"]), []).append(finding)
    for (severity, code, title), found in kinds.items():
        lines.append(f"  {_SEVERITY[severity]} {code} {title}: {len(found)}")
        for finding in found[:_SHOWN]:
            who = " / ".join(t for t in dict.fromkeys((finding["product"], finding["body"])) if t)
            at = finding["where"].get("point")
            place = f" at ({', '.join(f'{v:.3f}' for v in at)})" if at else ""
            lines.append(f"      #{finding['number']} {who}: {finding['text']}{place}")
        if len(found) > _SHOWN:
            lines.append(f"      and {len(found) - _SHOWN} more")
    lines += [f"  not run: {n['code']} {n['why']}" for n in result["not_run"]]
    return lines


_OUTCOME = {"mended": "+", "improved": "~", "unchanged": ".", "refused": "-"}


def mend_lines(result: dict[str, Any]) -> list[str]:
    """What was mended, with figures before and after."""
    lines = []
    for mend in result["mends"]:
        lines.append(
            f"  {_OUTCOME[mend['outcome']]} {mend['code']} {mend['title']}: {mend['product']}: "
            f"{mend['outcome']}, {mend['why']}"
        )
        changed = changed_figures(mend["before"], mend["after"])
        if changed and mend["outcome"] in ("mended", "improved"):
            lines.append("      " + ", ".join(f"{key} {a:,.7g} to {b:,.7g}" for key, a, b in changed))
    if not lines:
        lines.append("  nothing to mend")
    for key, title in (("check_before", "before"), ("check_after", "after")):
        counts = result[key]
        lines.append(f"  {title}: {counts['fault']} faults, {counts['doubt']} doubts")
    return lines


def forecast_lines(result: dict[str, Any]) -> list[str]:
    """What will not simply be carried."""
    groups = [g for g in result["forecast"] if g["fate"] != "carried"]
    if not groups:
        return ["Forecast: everything is carried", *_remarks(result)]
    lines = ["Forecast:"]
    for group in groups:
        lines.append(
            f"  {_MARK[group['fate']]} {group['thing']}: {group['count']} {group['fate']}: {group['why']}"
        )
    return [*lines, *_remarks(result)]


def _remarks(result: dict[str, Any]) -> list[str]:
    return [f"  {remark}" for remark in result.get("remarks", ())]


def proof_lines(proof: dict[str, Any]) -> list[str]:
    """The ledger and what did not come across."""
    lines = [f"Proof: {proof['verdict']}"]
    for entry in proof["ledger"]:
        if not entry["items"]:
            continue
        mark = _MARK[entry["verdict"]]
        lines.append(
            f"  {mark} {entry['thing']:<11} {entry['before']:>9} > {entry['after']:<12} {entry['verdict']}"
        )
        troubled = [i for i in entry["items"] if i["verdict"] != "carried"]
        for item in troubled[:_SHOWN]:
            change = f"{item['before'] or 'nothing'} > {item['after'] or 'nothing'}"
            path, aspect = item["path"], item["aspect"]
            where = path if path.endswith(aspect) else f"{path}: {aspect}"
            lines.append(f"      {where}: {change} {item['detail']}".rstrip())
        if len(troubled) > _SHOWN:
            lines.append(f"      and {len(troubled) - _SHOWN} more")
    off, error = proof["max_deviation"], proof["max_volume_error"]
    lines.append(
        f"  largest deviation {NOT_MEASURED if off is None else f'{off:.2g} mm'}, "
        f"volume error {NOT_MEASURED if error is None else f'{error:.2g} relative'}"
    )
    lines += [f"  {sentence}" for sentence in other_sentences(proof.get("other_reader", ()))]
    if proof["unannounced_losses"]:
        lines.append(f"  {proof['unannounced_losses']} LOSSES WERE NOT ANNOUNCED")
    return lines
