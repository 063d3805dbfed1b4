"""Recipient cards: what the other side can read and keeps, as a file that people can read and change."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import asdict, dataclass, field, fields, is_dataclass
from importlib.resources import files
from pathlib import Path
from typing import Any

import cattrs
import tomlkit
from tomlkit.exceptions import TOMLKitError
from tomlkit.items import Table

from gondrel.core.errors import MalformedFile, UsageError
from gondrel.core.model.filenames import check_rule
from gondrel.core.model.store import write_whole
from gondrel.core.work.files import config_folder

__all__ = [
    "COLOURS", "SUFFIX", "Card", "FileRules", "Keeps", "Limits", "Reads", "Required", "card_named",
    "card_of", "card_or_none", "cards", "cards_folder", "read_card", "save_card", "without_card",
]  # fmt: skip

SUFFIX = ".card.toml"

COLOURS = ("faces", "bodies", "none")
"""How far colours are kept: to single faces, to bodies, not at all."""

_KEY = re.compile(r"[a-z0-9][a-z0-9-]{0,60}")


@dataclass(frozen=True, slots=True)
class Reads:
    """What they read.

    Args:
        kinds: of the command line's KINDs, the one they like best first.
        external: whether an assembly may come as several files.
    """

    kinds: tuple[str, ...] = ()
    external: bool = False


@dataclass(frozen=True, slots=True)
class Keeps:
    """What they keep of each thing of the ledger.

    Args:
        structure: assemblies with their components; else every body stands where it is, in one part.
        colours: one of COLOURS; name_length: most characters of a name, 0 for any; ascii: whether names are
            of plain ASCII only.
    """

    structure: bool = True
    colours: str = "faces"
    layers: bool = True
    names: bool = True
    name_length: int = 0
    ascii: bool = False
    numbers: bool = True
    revisions: bool = True
    materials: bool = True
    metadata: bool = True
    validation: bool = True


@dataclass(frozen=True, slots=True)
class Limits:
    """Limits of their system.

    Args:
        unit: key of the unit they work in, empty for any; trusts_unit: whether they take the unit that the
            file says, else every number is one of theirs.
        tolerance: largest tolerance of an edge or vertex that they take, mm, 0 for any.
        closed: whether only closed solids come in; surfaces: whether solids come in as sheets.
        megabytes: largest file, 0 for any.
        degree: largest degree of a spline that comes in, 0 for any; cavities: whether solids of several
            shells come in.
        xt: newest version of Parasolid files, as the schema has it (14000 for 14.0), 0 for any.
    """

    unit: str = ""
    trusts_unit: bool = True
    tolerance: float = 0.0
    closed: bool = False
    surfaces: bool = False
    megabytes: float = 0.0
    degree: int = 0
    cavities: bool = True
    xt: int = 0


@dataclass(frozen=True, slots=True)
class FileRules:
    """Rules for what is sent.

    Args:
        name: rule for the names of files of parts, of {number}, {name}, {revision}, {file}; empty for any.
    """

    name: str = ""


@dataclass(frozen=True, slots=True)
class Required:
    """A property that every part must have. pattern: regular expression that its value must match."""

    key: str
    pattern: str = ".+"


@dataclass(frozen=True, slots=True)
class Card:
    """A recipient.

    Args:
        key: what it is called in commands, of small letters, digits and hyphens; name: who they are.
        system: what they work with, as they say it; kernel: its modelling kernel, where it is known.
        indifferent: things of the ledger that do not matter to them.
        required: properties that every part must have.
        recipe: name of the send recipe that holds for them where no other is chosen.
    """

    key: str
    name: str
    system: str = ""
    kernel: str = ""
    contact: str = ""
    remarks: str = ""
    recipe: str = ""
    indifferent: tuple[str, ...] = ()
    reads: Reads = field(default_factory=Reads)
    keeps: Keeps = field(default_factory=Keeps)
    limits: Limits = field(default_factory=Limits)
    files: FileRules = field(default_factory=FileRules)
    required: tuple[Required, ...] = ()


def _exactly(value: Any, kind: type) -> Any:
    if type(value) is not kind:
        raise ValueError(f"{value!r} is no {kind.__name__}")
    return value


def _number(value: Any, _: Any) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise ValueError(f"{value!r} is no number")
    return float(value)


_CONVERTER = cattrs.Converter(detailed_validation=False, forbid_extra_keys=True)
_CONVERTER.register_structure_hook(float, _number)
for _kind in (str, int, bool):
    _CONVERTER.register_structure_hook(_kind, _exactly)


def cards_folder() -> Path:
    """Where the user's cards are."""
    return config_folder() / "recipients"


def _shipped() -> Iterable[Path]:
    for entry in files(__package__).joinpath("shipped").iterdir():
        if entry.name.endswith(SUFFIX):
            yield Path(str(entry))


def cards() -> list[Card]:
    """The user's cards and the shipped ones that none of theirs stands for, by name.

    Raises:
        MalformedFile: when one makes no sense.
    """
    known: dict[str, Card] = {}
    own = cards_folder().glob(f"*{SUFFIX}") if cards_folder().is_dir() else ()
    for path in (*_shipped(), *own):
        card = read_card(path)
        known[card.key] = card
    return sorted(known.values(), key=lambda card: card.name.casefold())


def card_named(key: str) -> Card:
    """The card of a key, or of a file. Raises UsageError when there is none, MalformedFile."""
    if key.endswith(".toml"):
        return read_card(Path(key))
    known = cards()
    for card in known:
        if card.key == key:
            return card
    raise UsageError(f"there is no recipient card {key!r}", hint=", ".join(card.key for card in known))


def card_or_none(key: str) -> Card | None:
    """The card of a key, none for an empty one. Raises as card_named does."""
    return card_named(key) if key else None


def read_card(path: Path) -> Card:
    """The card of a file.

    Raises:
        MalformedFile: when it can't be read or makes no sense, with what.
    """
    try:
        plain = tomlkit.parse(path.read_text("utf-8")).unwrap()
        card = _CONVERTER.structure(plain, Card)
    except OSError as error:
        raise MalformedFile(f"it can't be read: {error.strerror}", file=str(path)) from error
    except (TOMLKitError, UnicodeDecodeError) as error:
        raise MalformedFile(f"it can't be read as TOML: {error}", file=str(path)) from error
    except Exception as error:  # cattrs raises whatever the shape makes it stumble over
        raise MalformedFile(f"the recipient card makes no sense: {error}", file=str(path)) from error
    try:
        _check(card)
    except UsageError as error:
        raise MalformedFile(error.message, file=str(path)) from error
    return card


def card_of(plain: Any) -> Card:
    """A card from plain values. Raises MalformedFile when they make no sense."""
    try:
        return _CONVERTER.structure(plain, Card)
    except Exception as error:  # as in read_card
        raise MalformedFile(f"the recipient card makes no sense: {error}") from error


def _check(card: Card) -> None:
    if not _KEY.fullmatch(card.key):
        raise UsageError(f"a card's key is of small letters, digits and hyphens (got {card.key!r})")
    if not card.name.strip():
        raise UsageError("a card needs a name")
    if card.keeps.colours not in COLOURS:
        raise UsageError(f"colours are kept to {', '.join(COLOURS)} (got {card.keeps.colours!r})")
    check_rule(card.files.name)
    for required in card.required:
        try:
            re.compile(required.pattern)
        except re.error as error:
            raise UsageError(f"the pattern for {required.key} makes no sense: {error}") from None


def save_card(card: Card, path: Path | None = None) -> Path:
    """Keep a card; what is written in its file besides, comments above all, stays.

    Args:
        path: where; else among the user's cards.

    Raises:
        UsageError: when the card makes no sense. WriteFailed: when the disk refuses.
    """
    _check(card)
    target = path or cards_folder() / f"{card.key}{SUFFIX}"
    source = target if target.exists() else next(
        (p for p in _shipped() if p.name == f"{card.key}{SUFFIX}"), None
    )  # fmt: skip
    document = tomlkit.parse(source.read_text("utf-8")) if source is not None else tomlkit.document()
    _fill(document, card, Card(card.key, card.name))
    target.parent.mkdir(parents=True, exist_ok=True)
    write_whole(target, tomlkit.dumps(document).encode())
    return target


def _fill(table: Any, values: Any, defaults: Any) -> None:
    """Put values into a table: those that are there already in their place, others where they are not as
    without them."""
    for each in fields(values):
        value, usual = getattr(values, each.name), getattr(defaults, each.name)
        if is_dataclass(value):
            inner = table.get(each.name)
            if inner is None and value != usual:
                inner = table[each.name] = tomlkit.table()
            if inner is not None:
                _fill(inner, value, usual)
        elif each.name == "required":
            if [Required(**{**asdict(Required("")), **row}) for row in table.get("required", ())] != [
                *value
            ]:
                rows = tomlkit.aot()
                for required in value:
                    row: Table = tomlkit.table()
                    row.update(asdict(required))
                    rows.append(row)
                table["required"] = rows
        elif each.name in table or value != usual or each.name in ("key", "name"):
            plain = list(value) if isinstance(value, tuple) else value
            if table.get(each.name) != plain:
                table[each.name] = plain


def without_card(key: str) -> None:
    """Drop one of the user's cards; a shipped one of that key holds again."""
    (cards_folder() / f"{key}{SUFFIX}").unlink(missing_ok=True)
