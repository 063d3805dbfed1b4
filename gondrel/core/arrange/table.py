"""Facts of many products as a table: read, changed cell by cell, kept as CSV or XLSX and read back."""

from __future__ import annotations

import csv
import io
import re
import tomllib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from importlib.resources import files
from pathlib import Path
from typing import Any

from gondrel.core.arrange.properties import TEXT_FIELDS, Edit, parse_value, with_datum
from gondrel.core.errors import InputError, MalformedFile, UsageError
from gondrel.core.model.body import BodyFacts, Rgba
from gondrel.core.model.mass import kilograms
from gondrel.core.model.product import Material, Metadatum, Product, Value
from gondrel.core.model.snapshot import Model
from gondrel.core.model.tables import write_rows

__all__ = [
    "Column", "Table", "apply_cells", "cells_from", "columns_of", "known_materials", "read_table",
    "table_of", "write_table",
]  # fmt: skip

_UNIT = re.compile(r"^(.*?)\s*\[(.*)\]$")
_FIXED = ("key", "mass", "centre", "volume")


@dataclass(frozen=True, slots=True)
class Column:
    """One column.

    Args:
        is_fixed: whether its cells are measured and can't be changed; is_property: whether they are a
            property.
    """

    key: str
    heading: str
    is_fixed: bool = False
    is_property: bool = False


@dataclass(frozen=True, slots=True)
class Table:
    """Texts by product and column.

    Args:
        ids: of the product of each row.
    """

    columns: tuple[Column, ...]
    ids: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


_BASE = (
    Column("number", "Number"), Column("name", "Name"), Column("revision", "Revision"),
    Column("description", "Description"), Column("material", "Material"),
    Column("density", "Density [kg/m\u00b3]"), Column("colour", "Colour"), Column("layer", "Layer"),
    Column("volume", "Volume [mm\u00b3]", is_fixed=True), Column("mass", "Mass [kg]", is_fixed=True),
    Column("centre", "Centre of gravity [mm]", is_fixed=True),
)  # fmt: skip


@cache
def known_materials() -> dict[str, float]:
    """Materials that are shipped, with their density in kg/m3; materials.toml names the sources."""
    text = files(__package__).joinpath("materials.toml").read_text("utf-8")
    return {name: float(density) for name, density in tomllib.loads(text).items()}


def columns_of(model: Model) -> tuple[Column, ...]:
    """The columns of a model's table: those that every product has, then one for each property there is."""
    properties = dict.fromkeys(
        (m.key, m.unit) for product in model.products if not product.is_reference for m in product.metadata
    )
    return (*_BASE, *(_property_column(key, unit) for key, unit in properties))


def _property_column(key: str, unit: str = "") -> Column:
    return Column(f"property:{key}", f"{key} [{unit}]" if unit else key, is_property=True)


_Mass = tuple[float, tuple[float, ...]]


def table_of(model: Model, facts: Mapping[str, BodyFacts], ids: Iterable[str] | None = None) -> Table:
    """The table of some products, or of all. Figures that nobody measured are empty."""
    chosen = [model.product(i) for i in ids] if ids is not None else [
        p for p in model.products if not p.is_reference
    ]  # fmt: skip
    columns = columns_of(model)
    masses = _masses(model, facts)
    rows = tuple(tuple(_cell(p, c, facts, masses) for c in columns) for p in chosen)
    return Table(columns, tuple(p.id for p in chosen), rows)


def _masses(
    model: Model, facts: Mapping[str, BodyFacts]
) -> dict[str, tuple[float, tuple[float, ...]] | None]:
    """Mass in kg and centre of gravity in mm of each product with all in it; None where a density or a
    measure is missing anywhere in it."""
    made: dict[str, _Mass | None] = {}

    def of(product: Product) -> _Mass | None:
        if product.id in made:
            return made[product.id]
        made[product.id] = None
        parts: list[_Mass] = []
        density = product.material.density if product.material else None
        for body in product.bodies:
            if body.blob not in facts or not density:
                return None
            parts.append((kilograms(facts[body.blob].volume, density), facts[body.blob].centroid))
        for use in product.occurrences:
            inner = of(model.product(use.product))
            if inner is None:
                return None
            parts.append((inner[0], _moved(use.placement, inner[1])))
        mass = sum(m for m, _ in parts)
        if not mass:
            return None
        centre = tuple(sum(m * c[i] for m, c in parts) / mass for i in range(3))
        made[product.id] = mass, centre
        return made[product.id]

    for product in model.products:
        of(product)
    return made


def _moved(placement: Sequence[float], point: tuple[float, ...]) -> tuple[float, ...]:
    x, y, z = point
    return tuple(
        placement[4 * r] * x + placement[4 * r + 1] * y + placement[4 * r + 2] * z + placement[4 * r + 3]
        for r in range(3)
    )


def _cell(
    product: Product, column: Column, facts: Mapping[str, BodyFacts],
    masses: Mapping[str, _Mass | None],
) -> str:  # fmt: skip
    if column.key in TEXT_FIELDS:
        return str(getattr(product, column.key))
    if column.is_property:
        datum = next((m for m in product.metadata if _property_column(m.key, m.unit) == column), None)
        return _said(datum.value) if datum is not None else ""
    material, bodies = product.material, product.bodies
    known = all(b.blob in facts for b in bodies) and bool(bodies)
    if column.key == "material":
        return material.name if material else ""
    if column.key == "density":
        return f"{material.density:g}" if material and material.density else ""
    if column.key == "colour":
        colours = {b.colour.hex if b.colour else "" for b in bodies}
        return colours.pop() if len(colours) == 1 else ""
    if column.key == "layer":
        return ", ".join(dict.fromkeys(layer for b in bodies for layer in b.layers))
    if column.key == "volume":
        return f"{sum(facts[b.blob].volume for b in bodies):.9g}" if known else ""
    held = masses.get(product.id)
    if held is None:
        return ""
    return f"{held[0]:.6g}" if column.key == "mass" else ", ".join(f"{v:.6g}" for v in held[1])


def _said(value: Value) -> str:
    return ("yes" if value else "no") if isinstance(value, bool) else str(value)


# --- changing --------------------------------------------------------------------------------------


def apply_cells(model: Model, cells: Mapping[tuple[str, str], str]) -> Edit:
    """Change cells, each by product and key of its column.

    Raises:
        UsageError: when a text does not fit its column, with which; when nothing would change.
    """
    by_product: dict[str, dict[str, str]] = {}
    for (product_id, key), text in cells.items():
        by_product.setdefault(product_id, {})[key] = text
    products, count = [], 0
    for product in model.products:
        changed = product
        for key, text in by_product.get(product.id, {}).items():
            try:
                changed = _with_cell(changed, key, text.strip())
            except (UsageError, ValueError) as error:
                told = error.message if isinstance(error, UsageError) else str(error)
                raise UsageError(f"{product.label}: {told}") from None
        count += changed != product
        products.append(changed)
    if not count:
        raise UsageError("nothing is changed by it")
    whom = next(p.label for p, q in zip(products, model.products, strict=True) if p != q)
    words = f"Set facts of {whom}" if count == 1 else f"Set facts of {count} items"
    return words, replace(model, products=tuple(products))


def _with_cell(product: Product, key: str, text: str) -> Product:
    fields: dict[str, Any] = {key: text}
    if key in TEXT_FIELDS:
        return replace(product, **fields)
    if key.startswith("property:"):
        return _with_property(product, key.removeprefix("property:"), text)
    if key == "material":
        if not text:
            return replace(product, material=None)
        before = product.material
        density = known_materials().get(text, before.density if before else None)
        return replace(product, material=replace(before or Material(text), name=text, density=density))
    if key == "density":
        value = float(parse_value(text, "real")) if text else None
        if value is not None and value <= 0:
            raise UsageError(f"a density must be more than 0 kg/m3 (got {value:g})")
        before = product.material or Material("")
        return replace(product, material=replace(before, density=value))
    if key == "colour":
        colour = Rgba.from_hex(text) if text else None
        return replace(product, bodies=tuple(replace(b, colour=colour) for b in product.bodies))
    if key == "layer":
        layers = tuple(part.strip() for part in text.split(",") if part.strip())
        return replace(product, bodies=tuple(replace(b, layers=layers) for b in product.bodies))
    raise UsageError(f"the column {key} is measured, not said")


def _with_property(product: Product, name: str, text: str) -> Product:
    before = next((m for m in product.metadata if m.key == name), None)
    if not text:
        return replace(product, metadata=tuple(m for m in product.metadata if m.key != name))
    if before is not None:
        datum = replace(before, value=parse_value(text, before.type))
    else:
        datum = Metadatum(name, _guessed(text))
    return replace(product, metadata=with_datum(product.metadata, datum))


def _guessed(text: str) -> Value:
    """A value of the kind that a text looks like."""
    if re.fullmatch(r"[+-]?\d{1,15}", text) and not re.match(r"[+-]?0\d", text):
        return int(text)
    if re.fullmatch(r"[+-]?\d+\.\d+([eE][+-]?\d+)?", text):
        return float(text)
    return {"yes": True, "no": False}.get(text.lower(), text)


# --- files -----------------------------------------------------------------------------------------


def write_table(path: str | Path, table: Table) -> None:
    """Keep a table as CSV or XLSX, by the ending; the first column is the key that rows are known by again.

    Raises:
        UsageError: for another ending. WriteFailed: when the disk refuses.
    """
    if Path(path).suffix.lower() not in (".csv", ".xlsx"):
        raise UsageError("a table is kept as .csv or .xlsx", hint=str(path))
    headings = ["Key", *(column.heading for column in table.columns)]
    rows = [[key, *row] for key, row in zip(table.ids, table.rows, strict=True)]
    write_rows(path, "Facts", headings, rows, frozen="C2")


def read_table(path: str | Path) -> list[list[str]]:
    """The lines of a CSV or XLSX file, the headings first.

    Raises:
        InputError: when it can't be read. UsageError: for another ending.
    """
    suffix = Path(path).suffix.lower()
    try:
        if suffix == ".csv":
            text = Path(path).read_text("utf-8-sig")
            first = text.partition("\n")[0]
            mark = max(",;\t", key=first.count)  # what the office's language has between cells
            return [[c.removeprefix("'") if c[:2] in ("'=", "'@") else c for c in row]
                    for row in csv.reader(io.StringIO(text), delimiter=mark)]  # fmt: skip
        if suffix == ".xlsx":
            from openpyxl import load_workbook

            sheet = load_workbook(path, read_only=True, data_only=True).active
            return [[_plain(cell) for cell in row] for row in sheet.iter_rows(values_only=True)]
    except (OSError, ValueError, KeyError, csv.Error) as error:
        raise InputError(f"it can't be read as a table: {error}", file=str(path)) from error
    except Exception as error:  # openpyxl raises whatever the archive makes it stumble over
        raise MalformedFile(f"it is no table: {error}", file=str(path)) from error
    raise UsageError("a table is read from .csv or .xlsx", hint=str(path))


def _plain(cell: Any) -> str:
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    return f"{cell:.15g}" if isinstance(cell, float) else str(cell)


def cells_from(
    model: Model, lines: Sequence[Sequence[str]], now: Table
) -> tuple[dict[tuple[str, str], str], list[str]]:
    """The cells that lines of a file change, and what of it could not be taken, in words.

    Rows are known by their key, else by number, else by name; columns by their heading, others are
    properties.

    Raises:
        UsageError: when there are no headings.
    """
    if not lines or not any(cell.strip() for cell in lines[0]):
        raise UsageError("the table has no line of headings")
    known = {c.heading.casefold(): c for c in now.columns}
    known |= {_plain_heading(c.heading).casefold(): c for c in now.columns}
    columns: list[Column | None] = []
    for heading in lines[0]:
        name = heading.strip()
        is_key = name.casefold() in _FIXED or not name
        columns.append(
            None if is_key else known.get(name.casefold()) or _property_column(_plain_heading(name))
        )
    keys = [h.strip().casefold() for h in lines[0]]
    cells: dict[tuple[str, str], str] = {}
    missing: list[str] = []
    held = {(i, c.key): cell for i, row in zip(now.ids, now.rows, strict=True)
            for c, cell in zip(now.columns, row, strict=True)}  # fmt: skip
    for line in lines[1:]:
        if not any(cell.strip() for cell in line):
            continue
        product = _known_by(model, keys, line)
        if product is None:
            missing.append(f"no item is {', '.join(c for c in line[:3] if c)}")
            continue
        for column, cell in zip(columns, line, strict=False):
            if (
                column is not None
                and not column.is_fixed
                and held.get((product.id, column.key), "") != cell.strip()
            ):
                cells[product.id, column.key] = cell.strip()
    return cells, missing


def _plain_heading(heading: str) -> str:
    match = _UNIT.match(heading)
    return match.group(1) if match else heading


def _known_by(model: Model, keys: Sequence[str], line: Sequence[str]) -> Product | None:
    said = dict(zip(keys, (cell.strip() for cell in line), strict=False))
    if said.get("key") in model.by_id:
        return model.product(said["key"])
    for field in ("number", "name"):
        wanted = said.get(field, "")
        fitting = [p for p in model.products if wanted and getattr(p, field) == wanted]
        if len(fitting) == 1:
            return fitting[0]
    return None
