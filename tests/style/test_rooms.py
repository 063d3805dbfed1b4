"""Rooms of the kernel and of the window: what each may import, and no way back."""

from __future__ import annotations

import pytest

from tests.style.tree import modules, room_arrows

KERNEL = "gondrel.core.kernel"
UI = "gondrel.ui"
FLOORS: dict[str, list[set[str]]] = {
    KERNEL: [
        {"base"}, {"geometry"}, {"topology"}, {"measure"}, {"convert", "modelling"}, {"mesh", "inspect"},
        {"exchange", "repair"}, {"examples", "derive"},
    ],
    UI: [
        {"resources", "presenters"}, {"widgets"}, {"session"}, {"manifest", "scene"}, {"stage", "sheets"},
        {"shell"},
    ],
}  # fmt: skip
"""From the ground up: a room imports only from floors beneath its own."""


def breaches(house: str, arrows: dict[str, dict[str, list[str]]]) -> list[str]:
    floor = {room: height for height, rooms in enumerate(FLOORS[house]) for room in rooms}
    return [
        f"{room} -> {other} ({', '.join(where)})"
        for room, others in arrows.items()
        for other, where in others.items()
        if floor.get(other, 99) >= floor.get(room, -1)
    ]


@pytest.mark.parametrize("house", FLOORS)
def test_rooms_import_only_from_beneath(house) -> None:
    assert breaches(house, room_arrows(house)) == []


@pytest.mark.parametrize("house", FLOORS)
def test_every_module_is_in_a_room(house) -> None:
    rooms = {room for floor in FLOORS[house] for room in floor}
    inner = (m.removeprefix(house + ".") for m in modules() if m.startswith(house + "."))
    assert {name.partition(".")[0] for name in inner} == rooms


def test_a_way_back_is_found() -> None:
    assert breaches(KERNEL, {"geometry": {"convert": ["gondrel.core.kernel.geometry.basis"]}})
    assert breaches(UI, {"session": {"shell": ["gondrel.ui.session.session"]}})
    assert breaches(UI, {"stage": {"sheets": ["gondrel.ui.stage.view"]}})


def test_there_is_no_circle_of_modules() -> None:
    from tests.style.tree import imports_of

    graph = {
        m: [n for n in imports_of(p.read_text("utf-8")) if n in modules()] for m, p in modules().items()
    }
    state: dict[str, int] = {}

    def visit(module: str, way: tuple[str, ...]) -> None:
        state[module] = 1
        for other in graph[module]:
            assert state.get(other) != 1 or other == module, " > ".join((*way, module, other))
            if other not in state:
                visit(other, (*way, module))
        state[module] = 2

    for module in graph:
        if module not in state:
            visit(module, ())
