"""Who may import whom; imports inside functions count too."""

from __future__ import annotations

import subprocess
import sys

import pytest

from tests.style.tree import imports_of, inside, modules

CORE = "gondrel.core"
BASE = {f"{CORE}.errors", f"{CORE}.work", f"{CORE}.model"}
ALLOWED: dict[str, set[str]] = {
    f"{CORE}.errors": set(),
    f"{CORE}.work": {f"{CORE}.errors"},
    f"{CORE}.model": {f"{CORE}.errors", f"{CORE}.work"},
    f"{CORE}.integral": {f"{CORE}.model", f"{CORE}.work"},
    f"{CORE}.kernel": {*BASE, f"{CORE}.integral"},
    f"{CORE}.formats": {*BASE, f"{CORE}.kernel", f"{CORE}.integral"},
    f"{CORE}.checks": {*BASE, f"{CORE}.kernel", f"{CORE}.likeness"},
    f"{CORE}.mends": {*BASE, f"{CORE}.kernel", f"{CORE}.checks"},
    f"{CORE}.likeness": {*BASE, f"{CORE}.kernel"},
    f"{CORE}.comparing": {*BASE, f"{CORE}.kernel", f"{CORE}.carriage"},
    f"{CORE}.sheet": {*BASE, f"{CORE}.kernel"},
    f"{CORE}.measuring": {*BASE, f"{CORE}.kernel", f"{CORE}.sheet"},
    f"{CORE}.features": {*BASE, f"{CORE}.kernel", f"{CORE}.sheet"},
    f"{CORE}.arrange": {*BASE, f"{CORE}.kernel", f"{CORE}.likeness", f"{CORE}.features"},
    f"{CORE}.register": {*BASE},
    f"{CORE}.carriage": {*BASE, f"{CORE}.kernel", f"{CORE}.likeness"},
    f"{CORE}.reports": {
        *BASE, f"{CORE}.recipients", f"{CORE}.carriage", f"{CORE}.arrange", f"{CORE}.sheet",
    },
    f"{CORE}.recipients": {
        *BASE, f"{CORE}.kernel", f"{CORE}.formats", f"{CORE}.carriage", f"{CORE}.arrange",
        f"{CORE}.likeness",
    },
    f"{CORE}.service": {
        *BASE, f"{CORE}.kernel", f"{CORE}.formats", f"{CORE}.carriage", f"{CORE}.reports",
        f"{CORE}.arrange", f"{CORE}.mends", f"{CORE}.checks", f"{CORE}.likeness",
        f"{CORE}.recipients", f"{CORE}.comparing", f"{CORE}.measuring", f"{CORE}.sheet",
        f"{CORE}.features", f"{CORE}.register",
    },
    "gondrel.jobs": {*BASE},
    "gondrel.batch": {
        *BASE, "gondrel.jobs", f"{CORE}.service", f"{CORE}.formats.registry", f"{CORE}.formats.settings",
    },
    "gondrel.__main__": {"gondrel.cli"},
    "gondrel.cli": {
        "gondrel.jobs", f"{CORE}.service", f"{CORE}.reports", *BASE, "gondrel.ui.shell.application",
        f"{CORE}.formats.registry", f"{CORE}.recipients", "gondrel.batch",
    },
    "gondrel.ui": {
        *BASE, "gondrel.jobs", f"{CORE}.reports", f"{CORE}.service.messages", f"{CORE}.service.crossing",
        f"{CORE}.service.recipes",
        f"{CORE}.service.kept", f"{CORE}.service.settings", f"{CORE}.service.catalogue",
        f"{CORE}.formats.settings", f"{CORE}.arrange.properties", f"{CORE}.arrange.components",
        f"{CORE}.arrange.insertion", f"{CORE}.arrange.proposal", f"{CORE}.arrange.steps.outcome",
        f"{CORE}.arrange.structure", f"{CORE}.arrange.steps.scripts", f"{CORE}.arrange.table",
        f"{CORE}.arrange.cutdown", f"{CORE}.arrange.naming", f"{CORE}.arrange.leaving",
        f"{CORE}.arrange.ordering", f"{CORE}.arrange.scope", f"{CORE}.service.sendings",
        f"{CORE}.recipients.card", f"{CORE}.recipients.results", f"{CORE}.recipients.learning",
        f"{CORE}.recipients.questions",
        f"{CORE}.recipients.stand_ins.keys", f"{CORE}.sheet.hatching",
        "gondrel.batch", f"{CORE}.service.batch",
    },
    "gondrel.demo": {*BASE, f"{CORE}.kernel", f"{CORE}.formats", f"{CORE}.service"},
}  # fmt: skip
OUTSIDE = {
    "OCP": (f"{CORE}.kernel",),
    "shapely": (f"{CORE}.kernel", f"{CORE}.sheet"),
    "PySide6": ("gondrel.ui",),
    "vtkmodules": ("gondrel.ui.scene",),
}


def layer_of(module: str) -> str:
    return max((layer for layer in ALLOWED if inside(module, layer)), key=len, default="")


def breaches(module: str, source: str) -> list[str]:
    layer = layer_of(module)
    found = []
    for name in imports_of(source):
        homes = OUTSIDE.get(name.split(".")[0])
        if homes is not None and not any(inside(module, home) for home in homes):
            found.append(f"{module} imports {name}")
        own = layer_of(name)
        if own and own != layer and not any(inside(name, allowed) for allowed in ALLOWED.get(layer, ())):
            found.append(f"{module} imports {name}")
    return found


def test_every_module_keeps_to_its_layer() -> None:
    found = [b for name, path in modules().items() for b in breaches(name, path.read_text("utf-8"))]
    assert found == []


@pytest.mark.parametrize(
    ("module", "source"),
    [
        ("gondrel.ui.stage.view", "def f():\n    from OCP.gp import gp_Pnt"),
        ("gondrel.core.model.body", "import PySide6.QtCore"),
        ("gondrel.ui.shell.ledger", "import vtkmodules.vtkCommonCore"),
        ("gondrel.core.carriage.proof", "from gondrel.core.formats.step.read import read"),
    ],
)
def test_the_rule_can_fail(module: str, source: str) -> None:
    assert breaches(module, source)


def test_the_window_loads_no_kernel() -> None:
    code = (
        "import gondrel.ui.shell.window, sys; sys.exit(any(m.split('.')[0] == 'OCP' for m in sys.modules))"
    )
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0
