"""The modules of the project and what each imports, by reading them."""

from __future__ import annotations

import ast
import re
from functools import cache
from pathlib import Path

from tests.conftest import ROOT

__all__ = ["imports_of", "inside", "modules", "reached_from", "room_arrows"]

_NAMED = re.compile(r"\bgondrel(?:\.\w+)+")


@cache
def modules() -> dict[str, Path]:
    """Dotted name and path of every module, packages by their __init__."""
    paths = sorted((ROOT / "gondrel").rglob("*.py"))
    return {".".join(p.relative_to(ROOT).with_suffix("").parts).removesuffix(".__init__"): p for p in paths}


def inside(module: str, place: str) -> bool:
    """Whether a module is a place or within it."""
    return module == place or module.startswith(place + ".")


def imports_of(source: str) -> list[str]:
    """What a source imports, within functions too; a module taken from a package by its own name."""
    found = []
    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.Import):
            found += [alias.name for alias in node.names]
        elif isinstance(node, ast.ImportFrom) and node.module:
            for alias in node.names:
                whole = f"{node.module}.{alias.name}"
                found.append(whole if whole in modules() else node.module)
    return list(dict.fromkeys(found))


def _named_in(source: str) -> set[str]:
    """Modules that texts of a source name, as jobs name what they run."""
    texts = (n.value for n in ast.walk(ast.parse(source)) if isinstance(n, ast.Constant))
    names = (name for text in texts if isinstance(text, str) for name in _NAMED.findall(text))
    return {name for name in names if name in modules()}


@cache
def _reaches(path: Path) -> frozenset[str]:
    source = path.read_text("utf-8")
    found: set[str] = set()
    for name in (*imports_of(source), *_named_in(source)):
        if name not in modules():
            continue
        found.add(name)
        if modules()[name].name == "__init__.py" and path.name != "__init__.py":
            found |= {module for module in modules() if inside(module, name)}  # it looks what is in it
    return frozenset(found)


@cache
@cache
def _helpers(path: Path) -> tuple[Path, ...]:
    """The test modules that a file imports."""
    names = (name for name in imports_of(path.read_text("utf-8")) if name.startswith("tests."))
    return tuple(p for name in names if (p := ROOT / f"{name.replace('.', '/')}.py").exists())


@cache
def reached_from(test: Path) -> frozenset[str]:
    """Every module that a test file imports or names, by whatever way."""
    found: set[str] = set()
    todo = [test]
    seen: set[Path] = set()
    while todo:
        path = todo.pop()
        if path in seen:
            continue
        seen.add(path)
        found |= _reaches(path)
        todo += [modules()[name] for name in _reaches(path)]
        todo += _helpers(path)
    return frozenset(found)


def room_arrows(house: str) -> dict[str, dict[str, list[str]]]:
    """For each room of a package the rooms it imports from, with the modules that do."""
    found: dict[str, dict[str, list[str]]] = {}
    for module, path in modules().items():
        if not inside(module, house) or module == house:
            continue
        room = module.removeprefix(house + ".").partition(".")[0]
        for name in imports_of(path.read_text("utf-8")):
            other = name.removeprefix(house + ".").partition(".")[0] if name.startswith(house + ".") else ""
            if other and other != room:
                found.setdefault(room, {}).setdefault(other, []).append(module)
    return found
