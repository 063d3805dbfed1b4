"""How a model of exact bodies spreads over files: one, one for each part alone, or one with the structure
that refers to one for each part."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import replace
from pathlib import Path

from gondrel.core.arrange.placed import PlacedModel
from gondrel.core.errors import CannotExpress, UsageError
from gondrel.core.formats.base import Format, Target
from gondrel.core.formats.settings import LINKED, SendSettings
from gondrel.core.model.beneath import bodies_beneath, parts_in_assemblies
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.carries import OWN_COLOURS, Fated
from gondrel.core.model.filenames import file_names, safe_name
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.model.verdicts import Fate
from gondrel.core.work import SILENT, Progress

__all__ = [
    "check_spread", "fates_of_linked", "parts_alone", "writable_parts", "written_files",
]  # fmt: skip

_EACH = "{file}-{name}"


def check_spread(form: Format, chosen: Target, settings: SendSettings) -> None:
    """Raise UsageError where a target has no such way of spreading over files."""
    if settings.files not in LINKED:
        return
    if not (form.link and chosen.links):
        raise UsageError(
            f"{chosen.title} has no files that refer to each other",
            hint="send one file, or one for each part alone (files=each)",
        )
    if settings.form == "placed":
        raise UsageError("placed bodies have no assembly to refer to them", hint="say files=each")


def parts_alone(model: Model) -> PlacedModel:
    """Every product with bodies on its own, without the assemblies they stand in.

    Raises:
        CannotExpress: when nothing has a body.
    """
    products = tuple(
        replace(p, occurrences=(), validation=None) if p.occurrences else p
        for p in model.products
        if p.bodies
    )
    if not products:
        raise CannotExpress("there is no part with a body in it to be sent alone")
    origin = {p.id: p.id for p in products} | {b.id: b.id for p in products for b in p.bodies}
    alone = replace(model, products=products, roots=tuple(p.id for p in products))
    return PlacedModel(alone, origin)


def writable_parts(model: Model, fates: Iterable[Fated]) -> Model:
    """The parts of which a file comes: those of which a body is not lost."""
    lost = {key[1] for key, (fate, *_) in fates if key[0] == "bodies" and fate is Fate.LOST}
    kept = tuple(p for p in model.products if any(b.id not in lost for b in p.bodies))
    return replace(model, products=kept, roots=tuple(p.id for p in kept))


def fates_of_linked(model: Model) -> Iterator[Fated]:
    """What becomes of the looks of components whose bodies are in other files."""
    apart = {body.id for part in parts_in_assemblies(model) for body in part.bodies}
    why = "a look in one place alone is said of bodies, and these are in another file"
    for _, use in model.occurrences():
        if use.colour is None and not use.hidden and not use.own_colours:
            continue
        beneath = [body.id for body in bodies_beneath(model, use.product)]
        if not any(body in apart for body in beneath):
            continue
        yield ("colours", use.id, "occurrence colour"), (Fate.LOST, why)
        yield ("layers", use.id, "hidden"), (Fate.LOST, why)
        for body in dict.fromkeys(body for body, _, _ in use.own_colours):
            yield ("colours", use.id, f"{OWN_COLOURS}{body}"), (Fate.LOST, why)


def written_files(
    model: Model, form: Format, chosen: Target, settings: SendSettings, store: BlobStore,
    facts: Mapping[str, BodyFacts], *, name: str, progress: Progress = SILENT,
) -> dict[str, bytes]:  # fmt: skip
    """The bytes of each file of a model by its name, as from the folder of the first, which leads to the
    others where they hang together.

    Raises:
        CannotExpress, KernelRefused: as the writer says.
    """
    path = Path(name)
    if settings.files == "each":
        rule = settings.file_names or _EACH
        names = file_names(model.products, rule, file=path.stem, suffix=path.suffix or chosen.suffix)
        files, refused = {}, None
        for part in progress.each(model.products, "Writing parts"):
            alone = replace(model, products=(part,), roots=(part.id,))
            file = names[part.id]
            try:
                files[file] = form.writes(alone, chosen, settings, store, facts, name=file, progress=SILENT)
            except CannotExpress as error:
                refused = error  # the forecast has its bodies as lost
        if not files and refused is not None:
            raise refused
        return files
    link = form.writes_linked
    if settings.files in LINKED and link is not None:
        names_of = _namer(settings, path, chosen.suffix)
        return link(model, chosen, settings, store, facts, name=name, names_of=names_of, progress=progress)
    return {name: form.writes(model, chosen, settings, store, facts, name=name, progress=progress)}


def _namer(
    settings: SendSettings, path: Path, suffix: str
) -> Callable[[Model, Iterable[Product]], Mapping[str, str]]:
    def names_of(model: Model, parts: Iterable[Product]) -> Mapping[str, str]:
        folders = _folders(model) if settings.files == "nested" else {}
        return file_names(
            parts, settings.file_names, file=path.stem, suffix=path.suffix or suffix, folders=folders,
            taken=(path.name,),
        )  # fmt: skip

    return names_of


def _folders(model: Model) -> dict[str, str]:
    """By product, the folder of the lowest assembly that holds all its uses, named after the assemblies
    from the top down, so that every file lies below the one that refers to it."""
    chains: dict[str, tuple[str, ...]] = {}
    uses = {o.id: o for _, o in model.occurrences()}
    for place in model.walk():
        chain = tuple(uses[occurrence].product for occurrence in place.path[:-1])
        known = chains.get(place.product)
        chains[place.product] = chain if known is None else _common(known, chain)
    names: dict[str, str] = {}
    taken: dict[str, str] = {}

    def folder(chain: tuple[str, ...]) -> str:
        if not chain:
            return ""
        if chain[-1] not in names:
            parent = folder(chain[:-1])
            plain = safe_name(model.product(chain[-1]).label) or "assembly"
            name, count = f"{parent}/{plain}" if parent else plain, 1
            while taken.setdefault(name.casefold(), chain[-1]) != chain[-1]:
                count += 1
                name = f"{parent}/{plain}-{count}" if parent else f"{plain}-{count}"
            names[chain[-1]] = name
        return names[chain[-1]]

    return {product: folder(chain) for product, chain in chains.items()}


def _common(one: tuple[str, ...], other: tuple[str, ...]) -> tuple[str, ...]:
    count = 0
    for a, b in zip(one, other, strict=False):
        if a != b:
            break
        count += 1
    return one[:count]
