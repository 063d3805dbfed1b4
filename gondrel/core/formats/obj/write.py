"""Mesh bodies as an OBJ file with its materials beside it."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import PurePath

import numpy as np

from gondrel.core.formats.meshes import Piece
from gondrel.core.formats.settings import SendSettings
from gondrel.core.model.body import Rgba

__all__ = ["spelled", "write"]


def spelled(name: str) -> str:
    """A name as a line of OBJ holds it: without line ends and with single blanks."""
    return " ".join(name.split())


def write(pieces: Sequence[Piece], settings: SendSettings, name: str) -> dict[str, bytes]:
    """One object for each piece, in the unit of the settings; the files by their names."""
    colours: dict[Rgba, str] = {}
    lines = [f"# {settings.system}, in {settings.unit.key}"]
    body: list[str] = []
    first = 1
    for piece in pieces:
        body.append(f"o {spelled(piece.name)}".rstrip())
        if piece.layers:
            body.append("g " + " ".join(layer.replace(" ", "_") for layer in piece.layers))
        points = piece.facets.points / settings.unit.mm
        body += [f"v {x!r} {y!r} {z!r}" for x, y, z in points.tolist()]
        own = dict(piece.group_colours)
        order = np.argsort(piece.facets.groups, kind="stable")
        groups = piece.facets.groups[order].tolist()
        shown: Rgba | None = None
        for group, corners in zip(groups, (piece.facets.triangles[order] + first).tolist(), strict=True):
            colour = own.get(group, piece.colour)
            if colour is not None and colour != shown:
                body.append(f"usemtl {colours.setdefault(colour, f'colour-{len(colours) + 1}')}")
                shown = colour
            body.append(f"f {corners[0]} {corners[1]} {corners[2]}")
        first += len(points)
    files: dict[str, bytes] = {}
    if colours:
        library = PurePath(name).stem.replace(" ", "_") + ".mtl"
        lines.append(f"mtllib {library}")
        files[library] = "\n".join(_material(c, key) for c, key in colours.items()).encode()
    text = "\n".join([*lines, *body]) + "\n"
    return {name: text.encode(), **files}


def _material(colour: Rgba, name: str) -> str:
    return (
        f"newmtl {name}\nKd {colour.red:.6g} {colour.green:.6g} {colour.blue:.6g}\nd {colour.alpha:.6g}\n"
    )
