"""Numbers, sizes and file facts in words."""

from __future__ import annotations

from gondrel.core.model import FileFacts

__all__ = ["card_lines", "error_factor", "length", "mass", "size", "subtitle", "volume"]

_INCH = 25.4


def size(count: int) -> str:
    """A number of bytes for people."""
    if count < 1000:
        return f"{count} bytes"
    return f"{count / 1e6:.1f} MB" if count >= 1e6 else f"{count / 1e3:.0f} kB"


def length(mm: float, unit: str = "mm") -> str:
    """A length with its unit and four decimal places, three in inches' thousandths."""
    return f"{mm / _INCH:.5f} inch" if unit == "inch" else f"{mm:.4f} mm"


def volume(mm3: float) -> str:
    """A volume in cubic centimetres or millimetres."""
    return f"{mm3 / 1000:,.1f} cm\u00b3" if abs(mm3) >= 1e5 else f"{mm3:,.2f} mm\u00b3"


def mass(mm3: float, density: float | None) -> str:
    """A mass from mm3 and kg/m3, empty without a density."""
    if density is None:
        return ""
    kilograms = mm3 * density * 1e-9
    return f"{kilograms:.3g} kg" if kilograms >= 0.1 else f"{kilograms * 1000:.3g} g"


def error_factor(value: float) -> str:
    """A relative error."""
    return "0" if value == 0 else f"{value:.1e}"


def card_lines(card: FileFacts) -> list[tuple[str, str]]:
    """The file card as pairs of label and value; empty facts are left out."""
    writer = card.written_by
    unit = card.length_unit or "none given, mm assumed"
    count = card.count
    bodies = [f"{count('solids')} solids"]
    bodies += [f"{count(k)} {k}" for k in ("sheets", "wires", "meshes") if count(k)]
    pairs = [
        ("Format", f"{card.schema or card.format.upper()}, {card.variant}"),
        ("Size", f"{size(card.bytes)}, {count('records'):,} records"),
        ("Unit", unit),
        ("Written by", writer.system),
        ("Translator", writer.translator),
        ("Author", ", ".join(t for t in (writer.author, writer.organisation) if t)),
        ("Date", writer.date.replace("T", " ")),
        ("Products", f"{count('products')}, used {count('occurrences')} times"),
        ("Bodies", ", ".join(bodies)),
        ("Looks", f"{count('styled_items')} styles, {count('layers')} layers"),
    ]
    return [(label, value) for label, value in pairs if value]


def subtitle(card: FileFacts | None, received: str) -> str:
    """The line under the crossing's name."""
    if card is None:
        return "nothing received yet"
    when = received.replace("T", " ")[:16]
    return f"received {when} \u00b7 {card.format.upper()} {card.schema} \u00b7 {card.length_unit or 'mm?'}"
