"""Properties that users define: a key, a typed value and, where it is measured, its unit."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["Metadatum", "Value"]

Value = str | int | float | bool


@dataclass(frozen=True, slots=True)
class Metadatum:
    """One user-defined property: a key and a typed value (text, integer, real or boolean).

    Args:
        measure: what is measured (length, mass, ratio, ...), empty for a bare value.
        unit: of the value, as symbols: mm, kg.m-3, inch; empty for none.
    """

    key: str
    value: Value
    measure: str = ""
    unit: str = ""

    @property
    def type(self) -> str:
        """The value's type in words."""
        return {bool: "boolean", int: "integer", float: "real"}.get(type(self.value), "text")

    @property
    def kind(self) -> str:
        """What sort of value it is, in words: what is measured, else its type."""
        return self.measure or self.type

    @property
    def text(self) -> str:
        """Value and unit for people."""
        return f"{self.value} {self.unit}".strip()
