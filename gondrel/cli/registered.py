"""The commands of the register, and what they say to people."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any

import typer
from rich.text import Text

from gondrel.cli.calls import run_command
from gondrel.cli.gathered import GatherOption, gathered_view
from gondrel.cli.places import check_output, given_files
from gondrel.cli.program import (
    AsOption,
    ForceOption,
    JsonOption,
    OneFile,
    SetOption,
    WrittenOption,
    app,
    kind_for,
    pairs_of,
    show,
)
from gondrel.cli.text import View, table_of
from gondrel.core.errors import UsageError
from gondrel.core.reports.figures import count_of, size_of_file
from gondrel.core.service.settings import receive_options_from
from gondrel.core.work.files import checked_file, state_folder

__all__ = ["AddressOption", "BlobsOption", "WhoOption", "ask_register", "put_view", "register_app"]

_FILE = "register.sqlite"
_COMMANDS = {
    "register": "gondrel.core.service.register:register_command",
    "crate": "gondrel.core.service.crates:crate_command",
}

AddressOption = Annotated[
    str,
    typer.Option(
        "--register", metavar="ADDRESS",
        help="A file, or postgresql://USER@HOST/NAME; your own register without it.",
    ),
]  # fmt: skip
BlobsOption = Annotated[
    str, typer.Option("--blobs", metavar="FOLDER", help="Where bodies lie; beside the file without it.")
]
WhoOption = Annotated[str, typer.Option("--who", metavar="NAME", help="Who does it; you without it.")]
SeenOption = Annotated[
    list[str] | None,
    typer.Option(
        "--seen", metavar="NAME=STAMP",
        help="Only if it is still as it was looked at: the stamp that show, list or a preview tells.",
    ),
]  # fmt: skip
Name = Annotated[
    str, typer.Argument(metavar="NUMBER[/REVISION]", help="As PG-101/B.2; the newest without.")
]

register_app = typer.Typer(
    name="register", no_args_is_help=True,
    help="Items and their revisions that live together: put in, released in order, repointed, compared.",
)  # fmt: skip
app.add_typer(register_app, name="register")


def _seen(texts: list[str] | None) -> dict[str, int]:
    """Stamps by name. Raises UsageError."""
    found = {}
    for text in texts or ():
        name, _, stamp = text.rpartition("=")
        if not name or not stamp.isdigit():
            raise UsageError(f"--seen wants NUMBER/REVISION=STAMP (got {text!r})")
        found[name] = int(stamp)
    return found


def _only(texts: list[str] | None) -> dict[str, list[int]]:
    """Places of components by the assembly they are in. Raises UsageError."""
    found: dict[str, list[int]] = {}
    for text in texts or ():
        name, _, place = text.rpartition("#")
        if not name or not place.isdigit():
            raise UsageError(f"--component wants NUMBER/REVISION#PLACE (got {text!r})")
        found.setdefault(name, []).append(int(place))
    return found


def _place(address: str) -> str:
    return address or str(state_folder() / _FILE)


def ask_register(
    group: str, what: str, address: str, blobs: str, args: Mapping[str, Any], paths: list[str]
) -> dict[str, Any]:
    """What a command of the register, or of crates, answers; your own register without an address."""
    place = _place(address)
    doing = f"{what.replace('-', ' ')} in the register" if group == "register" else f"{what} a crate"
    return run_command(_COMMANDS[group], (what, place, blobs, dict(args)), doing, paths, (0, 0))


# --- register ----------------------------------------------------------------------------------------


@register_app.command(
    "add", help="Put a model in: what is there is recognised, what changed is a new revision."
)
def add(
    file: OneFile,
    next_major: Annotated[
        bool, typer.Option("--next-major", help="What changed becomes the next major revision.")
    ] = False,
    settings: SetOption = None,
    who: WhoOption = "", register: AddressOption = "", blobs: BlobsOption = "", as_json: JsonOption = False,
) -> int:  # fmt: skip
    options = receive_options_from(pairs_of(settings))
    with given_files([file]) as (path,):
        checked_file(path)
        args = {"path": path, "options": options, "next_major": next_major, "who": who}
        show(ask_register("register", "add", register, blobs, args, [path]), as_json, put_view)
    return 0


@register_app.command("list", help="Items, each with its newest revision.")
def list_items(
    text: Annotated[str, typer.Argument(metavar="[TEXT]", help="A part of number or name.")] = "",
    state: Annotated[
        str, typer.Option("--state", metavar="STATE", help="in work, released, withdrawn.")
    ] = "",
    most: Annotated[int, typer.Option("--most", metavar="N", help="No more than so many.", min=1)] = 1000,
    register: AddressOption = "", blobs: BlobsOption = "", as_json: JsonOption = False,
) -> int:  # fmt: skip
    args = {"text": text, "state": state, "most": most}
    show(ask_register("register", "list", register, blobs, args, []), as_json, _list_view)
    return 0


@register_app.command(
    "scheme",
    help="How major revisions follow one another: letters, clear letters (without I, O, Q, S, X, Z), "
    "numbers; chosen while the register is empty.",
)
def scheme(
    chosen: Annotated[str, typer.Argument(metavar="[SCHEME]")] = "",
    register: AddressOption = "", blobs: BlobsOption = "", as_json: JsonOption = False,
) -> int:  # fmt: skip
    result = ask_register("register", "scheme", register, blobs, {"scheme": chosen}, [])
    show(result, as_json, lambda r: [Text(f"revisions are called by {r['scheme']}")])
    return 0


@register_app.command("show", help="A revision, all revisions of its item, and its history.")
def show_item(
    name: Name, register: AddressOption = "", blobs: BlobsOption = "", as_json: JsonOption = False
) -> int:
    show(ask_register("register", "show", register, blobs, {"name": name}, []), as_json, _show_view)
    return 0


@register_app.command("release", help="Fix a revision for good, where all it uses is released.")
def release(
    name: Name,
    with_all: Annotated[bool, typer.Option("--all", help="Release all it uses first, in order.")] = False,
    seen: SeenOption = None,
    who: WhoOption = "", register: AddressOption = "", blobs: BlobsOption = "", as_json: JsonOption = False,
) -> int:  # fmt: skip
    args = {"name": name, "all": with_all, "who": who, "seen": _seen(seen)}
    result = ask_register("register", "release", register, blobs, args, [])
    show(result, as_json, lambda r: [Text(f"released {each}", "green") for each in r["released"]])
    return 0


@register_app.command("withdraw", help="Say that a revision is not to be used any more.")
def withdraw(
    name: Name, seen: SeenOption = None, who: WhoOption = "", register: AddressOption = "",
    blobs: BlobsOption = "", as_json: JsonOption = False,
) -> int:  # fmt: skip
    args = {"name": name, "who": who, "seen": _seen(seen)}
    result = ask_register("register", "withdraw", register, blobs, args, [])
    show(result, as_json, lambda r: [Text(f"withdrawn {r['withdrawn']}", "green")])
    return 0


@register_app.command("remark", help="Write a remark on a revision.")
def remark(
    name: Name, text: Annotated[str, typer.Argument(metavar="TEXT")], seen: SeenOption = None,
    who: WhoOption = "", register: AddressOption = "", blobs: BlobsOption = "", as_json: JsonOption = False,
) -> int:  # fmt: skip
    args = {"name": name, "text": text, "who": who, "seen": _seen(seen)}
    result = ask_register("register", "remark", register, blobs, args, [])
    show(result, as_json, lambda r: [Text(f"remarked on {r['remarked']}", "green")])
    return 0


@register_app.command("repoint", help="Use another revision where one is used, and make new what must be.")
def repoint(
    old: Annotated[str, typer.Argument(metavar="OLD")],
    new: Annotated[str, typer.Argument(metavar="NEW")],
    within: Annotated[
        list[str] | None,
        typer.Option("--in", metavar="NAME", help="In this assembly only; may be given again."),
    ] = None,
    component: Annotated[
        list[str] | None,
        typer.Option(
            "--component", metavar="NAME#PLACE",
            help="Of this assembly this component only, by its place from 1; may be given again.",
        ),
    ] = None,
    preview: Annotated[bool, typer.Option("--preview", help="Only say what would change.")] = False,
    seen: SeenOption = None,
    who: WhoOption = "", register: AddressOption = "", blobs: BlobsOption = "", as_json: JsonOption = False,
) -> int:  # fmt: skip
    args = {"old": old, "new": new, "within": tuple(within or ()), "only": _only(component),
            "preview": preview, "seen": _seen(seen), "who": who}  # fmt: skip
    show(ask_register("register", "repoint", register, blobs, args, []), as_json, _repoint_view)
    return 0


@register_app.command("compare", help="What differs between two revisions.")
def compare(
    one: Annotated[str, typer.Argument(metavar="ONE")],
    other: Annotated[str, typer.Argument(metavar="OTHER")],
    register: AddressOption = "", blobs: BlobsOption = "", as_json: JsonOption = False,
) -> int:  # fmt: skip
    from gondrel.cli.compared import compared_view

    result = ask_register("register", "compare", register, blobs, {"one": one, "other": other}, [])
    show(result, as_json, compared_view)
    return 0


@register_app.command("where-used", help="What uses a revision, upward through all levels.")
def where_used(
    name: Name, register: AddressOption = "", blobs: BlobsOption = "", as_json: JsonOption = False
) -> int:
    show(ask_register("register", "where-used", register, blobs, {"name": name}, []), as_json, _used_view)
    return 0


@register_app.command("take", help="Take a revision out, with all it uses, as a file that is proved.")
def take(
    name: Name,
    out: WrittenOption,
    kind: AsOption = "", force: ForceOption = False, register: AddressOption = "", blobs: BlobsOption = "",
    as_json: JsonOption = False,
) -> int:  # fmt: skip
    check_output(out, [], force=force)
    args = {"name": name, "out": out, "kind": kind_for(out, kind), "force": force}
    result = ask_register("register", "take", register, blobs, args, [])
    show(result, as_json, _sent_view)
    return int(bool(result["proof"]["unannounced_losses"]))


@register_app.command("gather", help="Gather the received files that are kept of items and all they use.")
def gather_items(
    names: Annotated[list[str], typer.Argument(metavar="NUMBER[/REVISION] ...")],
    out: GatherOption, register: AddressOption = "", blobs: BlobsOption = "", as_json: JsonOption = False,
) -> int:  # fmt: skip
    result = run_command(
        "gondrel.core.service.gather:gather_register_command", (_place(register), blobs, tuple(names), out),
        "gather files", [], (0, 0),
    )  # fmt: skip
    show(result, as_json, gathered_view)
    return int(bool(result["missing"]))


# --- for people --------------------------------------------------------------------------------------


def put_view(result: Mapping[str, Any]) -> View:
    """What became of each revision that was put in."""
    table = table_of("revision", "")
    for each in result["put"]:
        table.add_row(each["name"], each["what"])
    yield table


def _list_view(result: Mapping[str, Any]) -> View:
    table = table_of("number", "revision", "name", "state", "components", "changed")
    for each in result["items"]:
        changed = f"{each['changed']['at'][:16].replace('T', ' ')} {each['changed']['by']}"
        table.add_row(each["number"], each["revision"], each["name"], each["state"],
                      str(each["components"] or ""), changed)  # fmt: skip
    yield table
    yield Text(count_of(len(result["items"]), "item"))


def _show_view(result: Mapping[str, Any]) -> View:
    one = result["revision"]
    yield Text(f"{one['number']}/{one['revision']} {one['name']}, {one['state']}", "bold")
    for label, text in (("remarks", one["remarks"]), ("from", one["source"]["name"])):
        if text:
            yield Text(f"  {label}: {text}")
    table = table_of("revision", "state", "made", "by")
    for each in result["revisions"]:
        made = each["made"]["at"][:16].replace("T", " ")
        table.add_row(each["revision"], each["state"], made, each["made"]["by"])
    yield table
    for event in result["history"]:
        yield Text(
            f"{event['at'][:16].replace('T', ' ')}  {event['revision']} {event['what']}, {event['by']}",
            "dim",
        )


def _repoint_view(result: Mapping[str, Any]) -> View:
    table = table_of("assembly", "becomes", "components that change")
    for each in result["changes"]:
        becomes = "changed in place" if each["in_place"] else each["becomes"]
        named = ", ".join(f"#{c['place']} {c['name']}".strip() for c in each["components"])
        table.add_row(each["assembly"], becomes, named or "by what it uses")
    yield table
    for each in result["changes"]:
        for face in each["interfaces"] or ():
            yield Text(f"{each['assembly']}: {face} is not where it was", "yellow")
    yield Text("nothing was changed: this is what would be" if result["preview"] else "repointed", "green")


def _used_view(result: Mapping[str, Any]) -> View:
    table = table_of("level", "assembly", "uses", "times", "state")
    for each in result["uses"]:
        table.add_row(str(each["level"]), each["assembly"], each["uses"], str(each["times"]), each["state"])
    yield table if result["uses"] else Text(f"nothing uses {result['revision']}")


def _sent_view(result: Mapping[str, Any]) -> View:
    for sent in result["sent"]:
        yield Text(f"wrote {sent['path']}, {size_of_file(sent['bytes'])}", "green")
    yield Text(f"proof: {result['proof']['verdict']}")
