"""The census of a 3MF package: which elements and parts were read, which serve those, and what remains.

Source: 3MF core specification (elements of the model part), Open Packaging Conventions (relationships).
"""

from __future__ import annotations

import zipfile
from collections import Counter
from collections.abc import Iterator
from xml.etree import ElementTree

from gondrel.core.model.census import Census, Remainder

__all__ = ["census_of"]

_CARRIED = frozenset(("object", "component", "item", "base", "color"))
_SERVING = frozenset((
    "model", "resources", "build", "mesh", "vertices", "vertex", "triangles", "triangle", "components",
    "basematerials", "colorgroup", "metadatagroup",
))  # fmt: skip
_WRITER = frozenset(("Application", "Designer", "CreationDate"))
_KINDS = {
    "metadata": "properties", "texture2d": "textures", "texture2dgroup": "textures",
    "tex2coord": "textures", "beamlattice": "lattices", "slicestack": "slices",
}  # fmt: skip
_PLUMBING = (".rels", "[Content_Types].xml")


def census_of(path: str) -> Census:
    """Account for every element of the model parts of a package, and for every other part.

    Raises:
        zipfile.BadZipFile, ElementTree.ParseError: when the package can't be read again.
    """
    counts: Counter[tuple[str, str, str]] = Counter()
    with zipfile.ZipFile(path) as archive:
        for name in archive.namelist():
            if name.endswith("/"):
                continue
            if name.lower().endswith(".model"):
                root = ElementTree.fromstring(archive.read(name))
                counts.update(_elements(root, _reached(root), ""))
            elif name.endswith(_PLUMBING):
                counts["serving", "", ""] += 1
            else:
                kind = "pictures" if name.lower().endswith((".png", ".jpg", ".jpeg")) else "other parts"
                counts["remainder", kind, name] += 1
    rest = tuple(
        Remainder(kind, type_, count)
        for (role, kind, type_), count in sorted(counts.items())
        if role == "remainder"
    )
    carried = sum(n for (role, _, _), n in counts.items() if role == "carried")
    return Census(sum(counts.values()), carried, counts["serving", "", ""], rest, "elements and parts")


def _tag(element: ElementTree.Element) -> str:
    return str(element.tag).rpartition("}")[2]


def _reached(root: ElementTree.Element) -> set[str]:
    """Ids of the objects that are to be built, and of those they are made of."""
    inner: dict[str, list[str]] = {}
    built: list[str] = []
    for element in root.iter():
        if _tag(element) == "object":
            parts = [c.get("objectid", "") for c in element.iter() if _tag(c) == "component"]
            inner[element.get("id", "")] = parts
        elif _tag(element) == "item":
            built.append(element.get("objectid", ""))
    seen: set[str] = set()
    while built:
        number = built.pop()
        if number not in seen:
            seen.add(number)
            built += inner.get(number, [])
    return seen


def _elements(element: ElementTree.Element, reached: set[str], kind: str) -> Iterator[tuple[str, str, str]]:
    """Role, kind and type of an element and those below; below one that remains all remain."""
    tag = _tag(element)
    if not kind and tag == "object" and element.get("id", "") not in reached:
        kind = "objects that are not built"
    if not kind:
        is_read = tag == "metadata" and (element.get("name") in _WRITER or bool(element.get("read")))
        if is_read or tag in _CARRIED:
            yield "carried", "", ""
        elif tag in _SERVING:
            yield "serving", "", ""
        else:
            kind = _KINDS.get(tag, "elements of other kinds")
    if kind:
        yield "remainder", kind, tag
    for below in element:
        if tag == "metadatagroup" and not kind:
            below.set("read", "1")  # what is said of an object is read
        yield from _elements(below, reached, kind)
