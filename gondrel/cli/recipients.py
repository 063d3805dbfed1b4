"""``gondrel rehearse`` and ``gondrel recipients``: who the other side is and what comes of a file there."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Annotated, Any

import typer

from gondrel.cli.calls import run_command
from gondrel.cli.places import given_files
from gondrel.cli.program import (
    AsOption,
    ForceOption,
    JsonOption,
    MegabytesOption,
    OneFile,
    SecondsOption,
    SetOption,
    VerboseOption,
    app,
    examples_help,
    help_of,
    kind_for,
    kind_toward,
    kinds_help,
    pairs_of,
    sending_settings,
    show,
)
from gondrel.core.errors import UsageError
from gondrel.core.model.store import write_whole
from gondrel.core.recipients.card import Card, card_named, card_or_none, cards, save_card
from gondrel.core.recipients.questions import answered, questions_html, questions_text
from gondrel.core.recipients.stand_ins.keys import STAND_IN_KEYS, stand_in_of_card
from gondrel.core.reports.recipients import card_object
from gondrel.core.service.recipes import values_toward
from gondrel.core.service.settings import parted, receive_options_from
from gondrel.core.work.files import checked_file

__all__ = ["recipients", "rehearse"]

_ACTIONS = ("list", "show", "ask", "answer", "choose")


def _rehearsed_view(result: dict[str, Any]) -> Iterator[str]:
    who = f" held to the card {result['card']}" if result["card"] else ""
    yield f"Stand-in {result['stand_in']}{who}: {result['verdict']}"
    for complaint in result["complaints"][:12]:
        yield f"  it says: {complaint}"
    if len(result["complaints"]) > 12:
        yield f"  and {len(result['complaints']) - 12} more"
    for entry in result["ledger"]:
        yield f"  {entry['thing']:<11} {entry['before']} \u2192 {entry['after']}  {entry['verdict']}"
    found = result["unannounced_losses"], result["false_alarms"]
    if result["card"] and any(found):
        yield f"The card is wrong: {found[0]} losses it does not say, {found[1]} that are none."


@app.command(
    short_help="Try a file on a simulated receiving system.",
    help=help_of(
        "Write a file as it would be sent, let a stand-in take it as its system would, and judge what "
        "comes of it like a proof. Held to a card, what the card does not say is a finding about the card.",
        examples_help(
            "gondrel rehearse gear.stp --with flat --as step-ap214",
            "gondrel rehearse gear.stp --card rigger",
        ),
        "\b\nStand-ins: " + ", ".join(STAND_IN_KEYS),
        kinds_help(),
    ),
)
def rehearse(  # noqa: D103
    file: OneFile,
    key: Annotated[str, typer.Option("--with", metavar="STAND_IN", help="Which stand-in.")] = "",
    recipient: Annotated[str, typer.Option("--card", metavar="CARD", help="Whose card holds.")] = "",
    kind: AsOption = "",
    settings: SetOption = None,
    as_json: JsonOption = False,
    limit_seconds: SecondsOption = 0,
    limit_memory: MegabytesOption = 0,
    verbose: VerboseOption = False,
) -> int:
    card = card_or_none(recipient)
    if not key and card is None:
        raise UsageError("say a stand-in with --with, or a card with --card", hint=", ".join(STAND_IN_KEYS))
    key = key or stand_in_of_card(card.key if card is not None else "")
    received, own = parted(pairs_of(settings), "receive.")
    own = values_toward(card, own)
    kind = kind_for("", kind_toward(card, kind, own))
    sending, options = sending_settings(own, True), receive_options_from(received)
    with given_files([file]) as (path,):
        checked_file(path)
        args = (path, key, recipient, kind, options, sending)
        doing = f"rehearsing {Path(path).name}"
        result = run_command("rehearse_command", args, doing, [path], (limit_seconds, limit_memory))
        show(result, as_json, _rehearsed_view)
    return int(bool(result["unannounced_losses"] or result["false_alarms"]))


def _choices_view(result: dict[str, Any]) -> Iterator[str]:
    if result["same_system"]:
        yield f"First: {result['same_system']}"
    for number, each in enumerate(result["choices"], 1):
        size = f", {each['bytes'] / 1000:,.0f} kB" if each["bytes"] is not None else ""
        if each["why_not"]:
            yield f"{number}. {each['title']}: can't be written: {each['why_not']}"
            continue
        yield (
            f"{number}. {each['title']} ({each['kind']}): {each['carried']} carried, {each['altered']} "
            f"altered, {each['lost']} lost{size}"
        )
        for reason in each["reasons"]:
            yield f"     {reason}"


@app.command(
    short_help="Recipient cards: list, show, ask, answer, choose.",
    help=help_of(
        "list the cards; show one; ask: write the page of questions for a new recipient; answer: read an "
        "answered one into a card; choose: rank the formats for a file and a card.",
        examples_help(
            "gondrel recipients list",
            "gondrel recipients show rigger",
            "gondrel recipients ask questions.html",
            "gondrel recipients answer questions.txt",
            "gondrel recipients choose gear.stp --card rigger",
        ),
    ),
)
def recipients(  # noqa: D103
    action: Annotated[str, typer.Argument(metavar="|".join(_ACTIONS), help="What to do.")],
    name: Annotated[str, typer.Argument(metavar="CARD|FILE", help="A card, or a file.")] = "",
    recipient: Annotated[str, typer.Option("--card", metavar="CARD", help="Whose card.")] = "",
    settings: SetOption = None,
    force: ForceOption = False,
    as_json: JsonOption = False,
    limit_seconds: SecondsOption = 0,
    limit_memory: MegabytesOption = 0,
    verbose: VerboseOption = False,
) -> int:
    if action == "list":
        rows = [card_object(card) for card in cards()]
        show({"cards": rows}, as_json, lambda made: (_line(card) for card in made["cards"]))
        return 0
    if action not in _ACTIONS or not name:
        raise UsageError(f"there is nothing to do called {action!r}" if action not in _ACTIONS else
                         f"{action}: of what?", hint=", ".join(_ACTIONS))  # fmt: skip
    if action == "show":
        shown = card_named(name)
        show(card_object(shown), as_json, lambda _: _described(shown))
    elif action == "ask":
        target = Path(name)
        if target.exists() and not force:
            raise UsageError(f"{name} is there already", hint="--force replaces it")
        page = questions_html() if target.suffix.lower() in (".html", ".htm") else questions_text()
        write_whole(target, page.encode())
        show(
            {"sent": [{"path": name, "bytes": len(page.encode())}]}, as_json, lambda _: [f"Written: {name}"]
        )
    elif action == "answer":
        checked_file(name)
        card = answered(Path(name).read_text("utf-8", "replace"))
        path = save_card(card)
        show(card_object(card), as_json, lambda _: [f"Kept the card of {card.name} as {path}"])
    else:
        received, own = parted(pairs_of(settings), "receive.")
        sending, options = sending_settings(own, False), receive_options_from(received)
        checked_file(name)
        args, doing = (name, recipient, options, sending), f"trying formats for {Path(name).name}"
        result = run_command("choose_command", args, doing, [name], (limit_seconds, limit_memory))
        show(result, as_json, _choices_view)
    return 0


def _line(card: dict[str, Any]) -> str:
    return f"{card['key']:<16} {card['name']}: {card['system'] or 'system not told'}"


def _described(card: Card) -> Iterator[str]:
    """What a card says, in lines."""
    yield f"{card.name} ({card.key})"
    keeps, limits = card.keeps, card.limits
    if card.system:
        yield f"  works with {card.system}"
    if card.reads.kinds:
        yield f"  reads {', '.join(card.reads.kinds)}, the first best"
    lost = [word for word in ("structure", "layers", "names", "numbers", "revisions", "materials",
                              "metadata", "validation") if not getattr(keeps, word)]  # fmt: skip
    yield f"  keeps no {', '.join(lost)}" if lost else "  keeps every thing of the ledger"
    yield f"  colours of {keeps.colours}" if keeps.colours != "none" else "  no colours"
    if keeps.name_length:
        yield f"  names of at most {keeps.name_length} characters"
    if limits.surfaces:
        yield "  surfaces only"
    if limits.closed or limits.tolerance:
        yield f"  closed solids that gape by {limits.tolerance:g} mm at most"
    yield from _limits(card)
    if limits.unit:
        trust = "" if limits.trusts_unit else ", whatever the file says"
        yield f"  works in {limits.unit}{trust}"
    if card.indifferent:
        yield f"  does not mind {', '.join(card.indifferent)}"
    if card.remarks:
        yield f"  {card.remarks}"


def _limits(card: Card) -> Iterator[str]:
    """What a card says of single limits and of files, in lines."""
    limits = card.limits
    if not limits.cavities:
        yield "  no hollow solids"
    if limits.degree:
        yield f"  splines up to degree {limits.degree}"
    if limits.xt:
        yield f"  Parasolid files up to version {limits.xt}"
    if limits.megabytes:
        yield f"  files up to {limits.megabytes:g} MB"
    if card.reads.external:
        yield "  assemblies in several files too"
    for required in card.required:
        yield f"  asks for {required.key} of every part, as {required.pattern}"
    if card.files.name:
        yield f"  files of parts are named {card.files.name}"
    if card.recipe:
        yield f"  sent to by the recipe {card.recipe}"
