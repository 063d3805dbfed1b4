"""What is done with a register: put in, looked at, released, withdrawn, repointed, compared, taken out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

from gondrel.core.formats.settings import SendSettings
from gondrel.core.likeness.same_shape import is_same_shape
from gondrel.core.measuring.interfaces import moved_interfaces
from gondrel.core.model.registered import Change, Reach, Revision
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.register.keeping import Author, number_of, plain_product, put_model, take_out
from gondrel.core.register.living import release, remark, withdraw
from gondrel.core.register.looking import events_of, listed, revision_named, revisions_of, where_used
from gondrel.core.register.opening import Opened, open_register
from gondrel.core.register.recognising import pairs_to_compare
from gondrel.core.register.repointing import repoint
from gondrel.core.register.scheme import choose_scheme, scheme_of
from gondrel.core.reports.compared import differences_object
from gondrel.core.reports.contract import proof_object
from gondrel.core.service.compare import compare_models
from gondrel.core.service.intake import receive_by
from gondrel.core.service.previews import previews
from gondrel.core.service.send import send
from gondrel.core.service.settings import ReceiveOptions
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import private_folder

__all__ = ["author_of", "register_command"]

Json = dict[str, Any]


def register_command(
    what: str, address: str, blobs: str, args: Mapping[str, Any], store: str, *, progress: Progress = SILENT
) -> Json:
    """The object of ``gondrel register``: what is add, list, show, release, withdraw, remark, repoint,
    compare, where-used or take.

    Raises:
        InputError, UsageError, RuleBroken, RegisterBusy, KernelError, OutputError.
    """
    opened = open_register(address, blobs)
    try:
        return _ACTS[what](opened, args, store, progress)
    finally:
        opened.close()


def author_of(args: Mapping[str, Any]) -> Author:
    """Who does it, as the caller says."""
    return Author(str(args.get("who", "")))


def _seen(args: Mapping[str, Any]) -> dict[str, int]:
    """Stamps of revisions when they were looked at, by name; none where the caller does not say."""
    return dict(args.get("seen") or {})


def revision_object(revision: Revision) -> Json:
    """A revision as the contract tells it."""
    return {
        "number": revision.name.number, "revision": revision.name.text, "name": revision.label,
        "description": revision.description, "state": str(revision.state), "content": revision.content,
        "bodies": len(revision.bodies), "components": revision.uses,
        "made": {"at": revision.made[0], "by": revision.made[1]},
        "changed": {"at": revision.changed[0], "by": revision.changed[1]},
        "source": {"name": revision.source[0], "sha256": revision.source[1]}, "remarks": revision.remarks,
        "lineage": revision.lineage, "stamp": revision.stamp,
    }  # fmt: skip


def _add(opened: Opened, args: Mapping[str, Any], store: str, progress: Progress) -> Json:
    model = args.get("model")
    if model is None:
        options = args.get("options") or ReceiveOptions()
        model = receive_by(args["path"], store, options, progress=progress.part(0.0, 0.7))
    same = _same_bodies(opened, model, store, progress.part(0.7, 0.9))
    with opened.writing() as connection:
        put = put_model(
            connection, opened.store, model, BlobStore(Path(store)), author_of(args),
            next_major=bool(args.get("next_major")), same=lambda one, other: (one, other) in same,
            progress=progress.part(0.9, 1.0),
        )  # fmt: skip
    return {"put": [{"name": str(each.name), "what": each.what} for each in put]}


def _same_bodies(
    opened: Opened, model: Model, store: str, progress: Progress
) -> frozenset[tuple[str, str]]:
    """Pairs of a body of the register and one of the model that are one shape in one place, found before
    the register is written to, so that nobody waits for it."""
    products = [(number_of(p), plain_product(p)) for p in model.products if not p.is_reference]
    with opened.reading() as connection:
        pairs = sorted(set(pairs_to_compare(connection, products)))
    theirs = BlobStore(Path(store))
    with private_folder() as folder:
        aside = BlobStore(folder)
        for pair in pairs:
            for key, place in zip(pair, (opened.store, theirs), strict=True):
                if not aside.has(key):
                    aside.put(place.get(key))
        found = [pair for pair in progress.each(pairs, "Comparing with the register")
                 if is_same_shape(aside, *pair)]  # fmt: skip
    return frozenset(found)


def _listed(opened: Opened, args: Mapping[str, Any], store: str, progress: Progress) -> Json:
    reach = Reach(args.get("text", ""), args.get("state", ""), int(args.get("most", 1000)))
    with opened.reading() as connection:
        items = [revision_object(r) for r in listed(connection, reach)]
        return {"items": items, "scheme": str(scheme_of(connection))}


def _show(opened: Opened, args: Mapping[str, Any], store: str, progress: Progress) -> Json:
    with opened.reading() as connection:
        revision = revision_named(connection, args["name"])
        number = revision.name.number
        return {
            "revision": revision_object(revision),
            "revisions": [revision_object(each) for each in revisions_of(connection, number)],
            "history": [
                {"revision": str(e.revision), "what": e.what, "by": e.who, "at": e.when}
                for e in events_of(connection, number)
            ],
        }


def _release(opened: Opened, args: Mapping[str, Any], store: str, progress: Progress) -> Json:
    with opened.writing() as connection:
        done = release(
            connection, args["name"], author_of(args), with_all=bool(args.get("all")), seen=_seen(args)
        )
    return {"released": [str(each.name) for each in done]}


def _withdraw(opened: Opened, args: Mapping[str, Any], store: str, progress: Progress) -> Json:
    with opened.writing() as connection:
        return {
            "withdrawn": str(withdraw(connection, args["name"], author_of(args), seen=_seen(args)).name)
        }


def _remark(opened: Opened, args: Mapping[str, Any], store: str, progress: Progress) -> Json:
    with opened.writing() as connection:
        remark(connection, args["name"], args["text"], author_of(args), seen=_seen(args))
    return {"remarked": args["name"]}


def _repoint(opened: Opened, args: Mapping[str, Any], store: str, progress: Progress) -> Json:
    if args.get("preview"):
        return _repoint_preview(opened, args, progress)
    with opened.writing() as connection:
        changes = repoint(
            connection, args["old"], args["new"], author_of(args), within=tuple(args.get("within", ())),
            only=args.get("only") or {}, seen=_seen(args),
        )  # fmt: skip
    return {"preview": False, "changes": [_change_object(each) for each in changes], "difference": None,
            "seen": {}}  # fmt: skip


def _repoint_preview(opened: Opened, args: Mapping[str, Any], progress: Progress) -> Json:
    """What would change, how the two differ, and the stamps of all that was looked at."""
    with opened.reading() as connection:
        changes = repoint(
            connection, args["old"], args["new"], author_of(args), within=tuple(args.get("within", ())),
            only=args.get("only") or {}, preview=True,
        )  # fmt: skip
        looked_at = [revision_named(connection, args[name]) for name in ("old", "new")]
        one, other = (take_out(connection, each.id) for each in looked_at)
        above = {}
        for change in changes:
            looked_at.append(revision_named(connection, str(change.assembly)))
            if change.components:
                above[str(change.assembly)] = take_out(connection, looked_at[-1].id)
        keys = [each.roots[0] for each in (one, other)]
        shown = previews(connection, opened.store, keys) if args.get("pictures") else {}
    changes = [_with_interfaces(each, above, one, other, opened, progress) for each in changes]
    result = {
        "preview": True,
        "changes": [_change_object(each) for each in changes],
        "difference": _difference(one, other, opened, progress),
        "seen": {str(each.name): each.stamp for each in looked_at},
    }
    return {**result, "pictures": [shown[key] for key in keys]} if shown else result


def _with_interfaces(
    change: Change, above: Mapping[str, Model], one: Model, other: Model, opened: Opened, progress: Progress
) -> Change:
    """A change with the faces that others touch and that are not where they were in the new revision."""
    assembly = above.get(str(change.assembly))
    old = one.roots[0]
    if assembly is None or old not in assembly.by_id:
        return change
    found = moved_interfaces(
        assembly, old, other.product(other.roots[0]).bodies, opened.store, progress=progress
    )
    return replace(change, interfaces=tuple(map(str, found)))


def _difference(one: Model, other: Model, opened: Opened, progress: Progress) -> Json:
    """How two revisions differ, told as gondrel compare does; worked out aside."""
    with private_folder() as folder:
        aside = BlobStore(Path(folder))
        for key in {*one.blobs(), *other.blobs()}:
            aside.put(opened.store.get(key))
        compared = compare_models(one, other, str(folder), progress=progress)
    return {**proof_object(compared.proof), **differences_object(compared.differences)}


def _change_object(change: Change) -> Json:
    return {
        "assembly": str(change.assembly), "becomes": str(change.becomes), "uses": len(change.components),
        "components": [
            {"place": place, "name": name, "direct": place in change.direct}
            for place, name in change.components
        ],
        "in_place": change.assembly == change.becomes,
        "interfaces": None if change.interfaces is None else list(change.interfaces),
    }  # fmt: skip


def _compare(opened: Opened, args: Mapping[str, Any], store: str, progress: Progress) -> Json:
    with opened.reading() as connection:
        keys = [revision_named(connection, args[name]).id for name in ("one", "other")]
        one, other = (take_out(connection, key) for key in keys)
    return _difference(one, other, opened, progress)


def _where_used(opened: Opened, args: Mapping[str, Any], store: str, progress: Progress) -> Json:
    with opened.reading() as connection:
        revision = revision_named(connection, args["name"])
        uses = where_used(connection, revision.id)
    return {
        "revision": str(revision.name),
        "uses": [
            {"assembly": str(w.use.parent), "uses": str(w.use.child), "times": w.use.count,
             "level": w.level, "state": str(w.use.state)}
            for w in uses
        ],
    }  # fmt: skip


def _take(opened: Opened, args: Mapping[str, Any], store: str, progress: Progress) -> Json:
    with opened.reading() as connection:
        model = take_out(connection, revision_named(connection, args["name"]).id)
    settings = SendSettings(force=bool(args.get("force")))
    sent = send(model, args["out"], args["kind"], settings, str(opened.store.folder), progress=progress)
    return {
        "sent": [{"path": sent.path, "bytes": sent.bytes}],
        "proof": {"verdict": sent.proof.verdict, "unannounced_losses": len(sent.proof.unannounced)},
    }


def _open(opened: Opened, args: Mapping[str, Any], store: str, progress: Progress) -> Json:
    """A revision with all it uses as a model, its bodies in the store of who asks."""
    with opened.reading() as connection:
        revision = revision_named(connection, args["name"])
        model = take_out(connection, revision.id)
    there = BlobStore(Path(store))
    for key in model.blobs():
        if not there.has(key):
            there.put(opened.store.get(key))
    return {"name": str(revision.name), "model": model}


def _preview(opened: Opened, args: Mapping[str, Any], store: str, progress: Progress) -> Json:
    with opened.reading() as connection:
        keys = [revision_named(connection, args["name"]).id]
        pictures = previews(connection, opened.store, keys, progress=progress)
    return {"picture": pictures[keys[0]]}


def _scheme(opened: Opened, args: Mapping[str, Any], store: str, progress: Progress) -> Json:
    """The scheme of the register, chosen first where one is given."""
    if not args.get("scheme"):
        with opened.reading() as connection:
            return {"scheme": str(scheme_of(connection))}
    with opened.writing() as connection:
        return {"scheme": str(choose_scheme(connection, args["scheme"]))}


_ACTS = {
    "scheme": _scheme,
    "preview": _preview, "open": _open,
    "add": _add, "list": _listed, "show": _show, "release": _release, "withdraw": _withdraw,
    "remark": _remark, "repoint": _repoint, "compare": _compare, "where-used": _where_used, "take": _take,
}  # fmt: skip
