"""Contract objects for people, as trees, tables and lines: what matters is said, long lists are cut."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

from rich import box
from rich.console import RenderableType
from rich.table import Table
from rich.text import Text
from rich.tree import Tree

from gondrel.core.model.provenance import FileFacts
from gondrel.core.model.verdicts import Verdict
from gondrel.core.reports.figures import NOT_MEASURED, Figures, count_of, size_of_file
from gondrel.core.reports.findings import changed_figures
from gondrel.core.reports.other import other_sentences

__all__ = [
    "card_view",
    "check_view",
    "forecast_view",
    "inspect_view",
    "mend_view",
    "proof_view",
    "sent_view",
]

_MARK = {"carried": "+", "altered": "~", "lost": "-", "added": "*", "unproved": "?"}
_SEVERITY = {"fault": "!", "doubt": "?", "note": "."}
_OUTCOME = {"mended": "+", "improved": "~", "unchanged": ".", "refused": "-"}
_STYLES = {"+": "green", "~": "yellow", "-": "red", "*": "cyan", "?": "yellow", "!": "red", ".": "dim"}
_SHOWN, _FEW = 8, 3
_FIGURES = Figures()

View = Iterator[RenderableType]


def _marked(mark: str, text: str) -> Text:
    return Text.assemble((mark, _STYLES[mark]), " ", text)


def table_of(*headings: str) -> Table:
    """A table without rules but one under its headings; nothing in it is cut."""
    table = Table(box=box.SIMPLE_HEAD, pad_edge=False, show_edge=False)
    for heading in headings:
        table.add_column(heading, overflow="fold", justify="right" if heading in _NUMBERS else "left")
    return table


_NUMBERS = ("count", "before", "after")


# --- inspect ---------------------------------------------------------------------------------------


def card_view(card: FileFacts) -> View:
    """What a file says of itself."""
    yield Text(card.path, "bold")
    by = card.written_by.system or "an unnamed system"
    unit = card.length_unit or "no unit said"
    said = (card.schema or card.format, unit, size_of_file(card.bytes))
    yield Text(f"  {', '.join(said)}, written by {by} {card.written_by.date}")


def inspect_view(result: dict[str, Any]) -> View:
    """What is in a file, below its card."""
    totals, taken = result["totals"], result.get("unit_taken")
    if taken is not None and not result["file"]["length_unit"]:
        how = "assumed (--set unit=... takes another)" if taken["is_assumed"] else "as asked for"
        yield Text(f"  {taken['unit']} {how}")
    counts = [
        count_of(totals["products"], "product"), count_of(totals["occurrences"], "placed component"),
        f"{count_of(totals['solids'], 'solid')} ({totals['placed_solids']:,} placed)",
        count_of(totals["sheets"], "sheet"),
    ]  # fmt: skip
    yield Text(f"  {', '.join(counts)}")
    if waits := totals.get("bodies_not_loaded", 0):
        told = count_of(waits, "body")
        yield Text(f"  {told} not loaded: no volume and no area of the whole", "yellow")
    else:
        volume, area = _FIGURES.volume(totals["placed_volume"]), _FIGURES.area(totals["placed_area"])
        yield Text(f"  in place: volume {volume}, area {area}")
    for root in result["roots"]:
        tree = Tree(_product(result["products"][root], 1))
        _grow(tree, result, root)
        yield tree
    yield from _census(result)
    for note in result["notes"]:
        yield Text(f"note: {note['where'] + ': ' if note['where'] else ''}{note['text']}", "yellow")


def _product(product: dict[str, Any], times: int) -> Text:
    bodies = product["bodies"]
    parts = [product["name"] or product["number"] or "(unnamed)"]
    if product["revision"]:
        parts.append(f"rev {product['revision']}")
    if waits := product.get("bodies_not_loaded", 0):
        parts.append(f"{count_of(waits, 'body')} not loaded")
    if bodies:
        volume = sum(body.get("volume", 0.0) for body in bodies)
        parts.append(f"{count_of(len(bodies), 'body')}, {_FIGURES.volume(volume)}")
    if times > 1:
        parts.append(f"\u00d7 {times}")
    return Text.assemble((parts[0], "bold"), *(f"  {part}" for part in parts[1:]))


def _grow(tree: Tree, result: dict[str, Any], index: int) -> None:
    counted: dict[int, int] = {}
    for child in result["products"][index]["children"]:
        counted[child["product"]] = counted.get(child["product"], 0) + 1
    for child, times in counted.items():
        _grow(tree.add(_product(result["products"][child], times)), result, child)


def _census(result: dict[str, Any]) -> View:
    """How many records were read, and what remains, by kind."""
    census = result["census"]
    if census is None:
        return
    yield Text(
        f"{census['all']:,} {census['noun']}: {census['carried']:,} read, {census['serving']:,} serving "
        f"them, {census['remainder']:,} in the remainder"
    )
    kinds: dict[str, list[dict[str, Any]]] = {}
    for rest in result["remainder"]:
        kinds.setdefault(rest["kind"], []).append(rest)
    for kind, rests in kinds.items():
        types = ", ".join(f"{rest['count']} {rest['type']}" for rest in rests[:_SHOWN])
        more = f" and {len(rests) - _SHOWN} more types" if len(rests) > _SHOWN else ""
        yield Text(f"  remainder: {kind}: {types}{more}")


# --- check and mend --------------------------------------------------------------------------------


def _counted(counts: dict[str, int], *words: str) -> str:
    return ", ".join(count_of(counts[word], word) for word in words)


def check_view(result: dict[str, Any]) -> View:
    """What is not sound, by kind."""
    yield Text(result["file"]["path"], "bold")
    yield Text(
        f"  {_counted(result['counts'], 'fault', 'doubt', 'note')}; "
        f"{count_of(result['bodies_clean'], 'body')} clean, "
        f"{result['bodies_with_findings']} with findings; "
        f"{result['examined']:,} faces, edges and vertices examined"
    )
    kinds: dict[tuple[str, str, str], list[dict[str, Any]]] = {}
    for finding in result["findings"]:
        kinds.setdefault((finding["severity"], finding["code"], finding["title"]), []).append(finding)
    for (severity, code, title), findings in kinds.items():
        tree = Tree(_marked(_SEVERITY[severity], f"{code} {title}: {len(findings)}"), guide_style="dim")
        for finding in findings[:_SHOWN]:
            tree.add(Text(_finding(finding)))
        if len(findings) > _SHOWN:
            tree.add(Text(f"and {len(findings) - _SHOWN} more"))
        yield tree
    for each in result["not_run"]:
        yield Text(f"not run: {each['code']} {each['why']}", "yellow")


def _finding(finding: dict[str, Any]) -> str:
    who = " / ".join(t for t in dict.fromkeys((finding["product"], finding["body"])) if t)
    at = finding["where"].get("point")
    place = f" at ({', '.join(f'{v:.3f}' for v in at)}) mm" if at else ""
    return f"#{finding['number']} {who}: {finding['text']}{place}"


def mend_view(result: dict[str, Any]) -> View:
    """What was mended, with the figures that changed."""
    for mend in result["mends"]:
        text = f"{mend['code']} {mend['title']}: {mend['product']}: {mend['outcome']}, {mend['why']}"
        tree = Tree(_marked(_OUTCOME[mend["outcome"]], text), guide_style="dim")
        if mend["outcome"] in ("mended", "improved"):
            for key, before, after in changed_figures(mend["before"], mend["after"]):
                tree.add(Text(f"{key} {before:,.7g} > {after:,.7g}"))
        yield tree
    if not result["mends"]:
        yield Text("nothing to mend")
    table = table_of("", "before", "after")
    for word in ("fault", "doubt"):
        before, after = result["check_before"][word], result["check_after"][word]
        table.add_row(f"{word}s", str(before), str(after))
    yield table
    yield from _places(result)


def _places(result: dict[str, Any]) -> View:
    for sent in result.get("sent", ()):
        path = "standard output" if sent["path"] == "-" else sent["path"]
        yield Text(f"Written: {path}, {size_of_file(sent['bytes'])}")


# --- send and prove --------------------------------------------------------------------------------


def forecast_view(result: dict[str, Any]) -> View:
    """What will not simply be carried."""
    groups = [group for group in result["forecast"] if group["fate"] != "carried"]
    if groups:
        table = table_of("Forecast", "thing", "count", "why")
        for group in groups:
            fate = _marked(_MARK[group["fate"]], group["fate"])
            table.add_row(fate, group["thing"], str(group["count"]), Text(group["why"]))
        yield table
    else:
        yield Text("Forecast: everything is carried")
    for remark in result.get("remarks", ()):
        yield Text(f"  {remark}")


def sent_view(result: dict[str, Any]) -> View:
    """Forecast, proof, what is still wrong, and where it went."""
    yield from forecast_view(result)
    yield from proof_view(result["proof"])
    for fault in result["remaining_faults"]:
        yield Text(f"remaining fault: {fault['where']}: {fault['text']}", "red")
    yield from _places(result)


def proof_view(proof: dict[str, Any]) -> View:
    """The ledger and what did not come across."""
    yield Text(f"Proof: {proof['verdict']}", "bold")
    table = table_of("", "thing", "before", "after", "verdict")
    for entry in proof["ledger"]:
        if entry["items"]:
            mark = _MARK[entry["verdict"]]
            before, after = _cell(entry)
            table.add_row(Text(mark, _STYLES[mark]), entry["thing"], before, after, entry["verdict"])
    yield table
    for entry in proof["ledger"]:
        yield from _troubled(entry["items"])
    off, error = proof["max_deviation"], proof["max_volume_error"]
    yield Text(
        f"largest deviation {_FIGURES.deviation(off)}, "
        f"volume error {NOT_MEASURED if error is None else f'{error:.2g} relative'}"
    )
    for sentence in other_sentences(proof.get("other_reader", ())):
        yield Text(sentence)
    if proof["unannounced_losses"] and any(e["announced"] is not None for e in proof["ledger"]):
        count = proof["unannounced_losses"]
        yield Text(f"{count:,} {'LOSS' if count == 1 else 'LOSSES'} NOT ANNOUNCED", "bold red")


def _cell(entry: dict[str, Any]) -> tuple[str, str]:
    """Before and after of a thing, both counts; the deviation of shapes is told by itself."""
    if entry["thing"] != "geometry":
        return str(entry["before"]), str(entry["after"])
    kept = sum(item["verdict"] in (Verdict.CARRIED, Verdict.ALTERED) for item in entry["items"])
    return str(entry["before"]), str(kept)


def _troubled(items: Iterable[dict[str, Any]]) -> View:
    listed = list(items)
    troubled = [item for item in listed if item["verdict"] not in (Verdict.CARRIED, Verdict.ADDED)]
    for item in troubled[:_SHOWN]:
        change = f"{item['before'] or 'nothing'} > {item['after'] or 'nothing'}"
        path, aspect = item["path"], item["aspect"]
        where = path if path.endswith(aspect) else f"{path}: {aspect}"
        detail = f" ({item['detail']})" if item["detail"] and item["after"] else ""
        yield _marked(_MARK[item["verdict"]], f"{where}: {change}{detail}")
    if len(troubled) > _SHOWN:
        yield Text(f"  and {len(troubled) - _SHOWN} more")
    added = [item for item in listed if item["verdict"] == Verdict.ADDED]
    for item in added[:_FEW]:
        yield _marked(_MARK[Verdict.ADDED], f"{item['path']}: {item['aspect']}: {item['after']} was added")
    if len(added) > _FEW:
        yield Text(f"  and {len(added) - _FEW} more that were added")
