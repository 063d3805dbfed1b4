"""Makes nodes one by one; what is not said of a node is null."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache
from typing import Any

from gondrel.core.formats.xt.nodes import Document, Header, Node, times
from gondrel.core.formats.xt.schema import MM_PER_METRE, Field, NodeType, base_schema

__all__ = ["NodeBuilder"]

_NULLS: dict[str, Any] = {
    **dict.fromkeys("dnupw", 0), **dict.fromkeys("fvhi", None), "c": "+", "l": "F",
}  # fmt: skip


@cache
def _by_name() -> dict[str, NodeType]:
    return {kind.name: kind for kind in base_schema().values()}


def _null(f: Field) -> Any:
    if f.count == 1:
        return "" if f.letter == "c" else []
    return [_NULLS[f.letter]] * f.count if f.count else _NULLS[f.letter]


class NodeBuilder:
    """Nodes under construction, by index from 1 in the order they were begun."""

    def __init__(self) -> None:
        self._made: list[tuple[NodeType, dict[str, Any]]] = []

    def __len__(self) -> int:
        return len(self._made)

    def new(self, kind: str, **values: Any) -> int:
        """Begin a node, lengths in mm; returns its index. Raises KeyError for an unknown type or field."""
        known = _by_name()[kind]
        fields = {f.name: _null(f) for f in known.fields}
        self._made.append((known, fields))
        self.set(len(self._made), **values)
        return len(self._made)

    def set(self, index: int, **values: Any) -> None:
        """Say more of a node, lengths in mm. Raises KeyError for an unknown field."""
        known, fields = self._made[index - 1]
        for name, value in values.items():
            if name not in fields:
                raise KeyError(f"{known.name} has no field {name}")
            is_length = known.fields[known.positions[name]].is_length
            fields[name] = times(value, 1 / MM_PER_METRE) if is_length else value

    def get(self, index: int, name: str) -> Any:
        """What was said of a node, as the file has it."""
        return self._made[index - 1][1][name]

    def kind(self, index: int) -> str:
        """The type of a node."""
        return self._made[index - 1][0].name

    def has(self, index: int, name: str) -> bool:
        """Whether a node's type has a field."""
        return name in self._made[index - 1][1]

    def chain(self, indices: list[int], *, forth: str = "next", back: str = "previous") -> int:
        """Link nodes with one another in order and return the first, 0 when there is none."""
        for before, after in zip([0, *indices], [*indices, 0], strict=True):
            if before:
                self.set(before, **{forth: after})
            if after and back:
                self.set(after, **{back: before})
        return indices[0] if indices else 0

    def number(self, indices: Iterable[int]) -> int:
        """Give nodes their node ids from 1 on, in order; returns the highest."""
        highest = 0
        for index in indices:
            if self.has(index, "node_id"):
                highest += 1
                self.set(index, node_id=highest)
        return highest

    def document(self, header: Header) -> Document:
        """The nodes made, as a document."""
        nodes = {
            index: Node(kind, index, list(fields.values()))
            for index, (kind, fields) in enumerate(self._made, 1)
        }
        return Document(header, dict(base_schema()), nodes)
