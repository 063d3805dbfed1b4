"""The stage: the picture with its captions, tools and the divider between received and returned."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from gondrel.core.model import Model
from gondrel.ui.presenters.rows import Chain, covers
from gondrel.ui.scene.bodies import BodyMesh, Hit, PlacedBody
from gondrel.ui.scene.canvas import Canvas
from gondrel.ui.scene.loader import MeshLoader
from gondrel.ui.session import RECEIVED, RETURNED, Session
from gondrel.ui.theme import font, palette

__all__ = ["StageView"]

_SELECTED = (0.16, 0.48, 0.66)
_MARKED = (0.72, 0.28, 0.30)
_FADED = 0.16
_GROW_MS = 250
"""How often the view is fitted anew while bodies still arrive."""

_MOST = 0.8
"""Share of the bodies above which marking them says nothing."""


class _Divider(QWidget):
    """The movable line between the two panes."""

    moved = Signal(float)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setCursor(Qt.CursorShape.SplitHCursor)
        self.setFixedWidth(14)
        self.setToolTip("Drag to give one side more room")

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self.moved.emit(self.mapToParent(event.position().toPoint()).x())

    def paintEvent(self, event: QPaintEvent) -> None:
        p = palette()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = self.width() / 2
        painter.setPen(QPen(QColor(p.line), 1.4))
        painter.drawLine(QPointF(middle, 0), QPointF(middle, self.height()))
        grip = QRectF(middle - 5, self.height() / 2 - 21, 10, 42)
        painter.setBrush(QColor(p.sheet))
        painter.drawRoundedRect(grip, 5, 5)
        painter.setPen(QPen(QColor(p.quiet), 1.2))
        for x in (-1.5, 1.5):
            painter.drawLine(
                QPointF(middle + x, self.height() / 2 - 8),
                QPointF(middle + x, self.height() / 2 + 8),
            )


class StageView(QWidget):
    """Shows the received model, beside it the returned one once there is a proof."""

    open_wanted = Signal()
    demo_wanted = Signal()

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__(parent)
        self.session = session
        self.canvas = Canvas(self)
        self.ancestors: list[dict[tuple[str, ...], tuple[str, ...]]] = [{}, {}]
        self.meshes: dict[str, BodyMesh] = {}
        self._fitted = False
        self._growing = QTimer(self, singleShot=True, interval=_GROW_MS)
        self._growing.timeout.connect(self._still_growing)
        self._loader = MeshLoader(self)
        self._loader.loaded.connect(self._mesh_loaded)
        self.captions = [self._caption("RECEIVED"), self._caption("RETURNED")]
        self.line = QLabel("", self)
        self.line.setProperty("role", "quiet")
        self.line.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.hint = QLabel("hold Space to swap in place", self)
        self.hint.setProperty("role", "quiet")
        self.hint.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.divider = _Divider(self)
        self.divider.moved.connect(self._move_divider)
        self.tools = self._tool_bar()
        self.welcome = self._welcome()
        self.canvas.picked.connect(self._picked)
        self.canvas.hovered.connect(self._hovered)
        session.model_changed.connect(self._take_model)
        session.sent_changed.connect(self._take_returned)
        session.mesh_ready.connect(self._take_mesh)
        session.selection_changed.connect(self.dress)
        session.focus_changed.connect(self.dress)
        session.hidden_changed.connect(self.dress)
        session.tasks.changed.connect(self._show_welcome)
        session.tasks.changed.connect(lambda: self.canvas.set_busy(bool(session.tasks.running)))
        session.facts_changed.connect(self._show_welcome)
        self._panes()

    # --- overlays --------------------------------------------------------------------------

    def _caption(self, text: str) -> QLabel:
        label = QLabel(text, self)
        label.setProperty("role", "chip")
        label.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        return label

    def _tool_bar(self) -> QWidget:
        bar = QWidget(self)
        bar.setObjectName("stagetools")
        bar.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        p = palette()
        bar.setStyleSheet(
            f"#stagetools {{ background: {p.sheet}; border: 1px solid {p.line}; border-radius: 14px; }}"
        )
        line = QHBoxLayout(bar)
        line.setContentsMargins(10, 1, 10, 1)
        line.setSpacing(0)
        self.buttons: dict[str, QPushButton] = {}
        for text, key, act in (
            ("Fit", "F", self.fit),
            ("Home", "H", lambda: self.canvas.set_view("home")),
            ("Front", "", lambda: self.canvas.set_view("front")),
            ("Top", "", lambda: self.canvas.set_view("top")),
            ("Right", "", lambda: self.canvas.set_view("right")),
            ("Hide", "Del", self._hide),
            ("Show all", "", self.session.show_all),
        ):
            button = QPushButton(text)
            button.setProperty("role", "tool")
            button.setToolTip(f"{text} ({key})" if key else text)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(act)
            self.buttons[text] = button
            line.addWidget(button)
        bar.adjustSize()
        return bar

    def _welcome(self) -> QWidget:
        box = QWidget(self)
        column = QVBoxLayout(box)
        column.setSpacing(10)
        title = QLabel("Open a model to see what it carries")
        title.setFont(font(20, QFont.Weight.DemiBold))
        title.setAlignment(Qt.AlignmentFlag.AlignCenter)
        text = QLabel("Drop a STEP file or a saved crossing anywhere in this window.")
        text.setProperty("role", "quiet")
        text.setAlignment(Qt.AlignmentFlag.AlignCenter)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        choose = QPushButton("Choose a file")
        choose.setProperty("role", "main")
        choose.clicked.connect(self.open_wanted)
        demo = QPushButton("Look at the demo")
        demo.clicked.connect(self.demo_wanted)
        for button in (choose, demo):
            button.setMinimumWidth(160)
            button.setMinimumHeight(42)
            buttons.addWidget(button)
        buttons.addStretch(1)
        column.addWidget(title)
        column.addWidget(text)
        column.addSpacing(8)
        column.addLayout(buttons)
        box.resize(520, 170)
        return box

    def _show_welcome(self) -> None:
        empty = self.session.model is None and not self.session.tasks.running
        empty = empty and not self.canvas.scenes[0].placed
        self.welcome.setVisible(empty)
        self.tools.setVisible(self.session.model is not None)

    def resizeEvent(self, event: Any) -> None:
        self.canvas.setGeometry(0, 0, self.width(), self.height())
        self._panes()

    def _panes(self) -> None:
        two = self.canvas.two
        cut = round(self.width() * self.canvas.divider)
        self.divider.setVisible(two)
        self.divider.setGeometry(cut - 7, 0, 14, self.height())
        has_model = self.session.model is not None
        self.captions[0].setVisible(has_model)
        self.captions[1].setVisible(two)
        sent = self.session.sent
        name = sent.path.rsplit("/", 1)[-1] if sent else ""
        self.captions[0].setText("RECEIVED")
        self.captions[1].setText(f"RETURNED  <span style='font-weight:400'>from {name}</span>")
        left, right = (1, 0) if self.canvas.swapped else (0, 1)
        for pane, x in ((left, 16), (right, cut + 18)):
            self.captions[pane].adjustSize()
            self.captions[pane].move(x if two else 16, 12)
        self.tools.adjustSize()
        self.tools.move((self.width() - self.tools.width()) // 2, self.height() - 46)
        self.welcome.move((self.width() - 520) // 2, (self.height() - 170) // 2)
        self.hint.setVisible(two)
        self.hint.adjustSize()
        self.hint.move(self.width() - self.hint.width() - 10, self.height() - 70)
        self.line.setGeometry(16, self.height() - 70, max(self.width() // 2, 200), 18)
        self._show_welcome()

    def _move_divider(self, x: float) -> None:
        self.canvas.divider = min(max(x / max(self.width(), 1), 0.15), 0.85)
        self.canvas.lay_out()
        self._panes()

    # --- models and meshes -----------------------------------------------------------------

    def _take_model(self) -> None:
        model = self.session.model
        self.canvas.clear(RECEIVED)
        if model is not None:
            self._plan(RECEIVED, model)
        self._fitted = False
        self._take_ready(RECEIVED)
        self._panes()

    def _take_returned(self) -> None:
        sent = self.session.sent
        self.canvas.clear(RETURNED)
        if sent is not None:
            self._plan(RETURNED, sent.returned)
            self._take_ready(RETURNED)
        self.canvas.set_two(sent is not None)
        self._panes()
        self.canvas.fit()

    def _take_ready(self, pane: int) -> None:
        """Take the meshes that are there already; let go of those that no pane shows."""
        used = {key for scene in self.canvas.scenes for key in (*scene.wanted, *scene.meshes)}
        self.meshes = {key: mesh for key, mesh in self.meshes.items() if key in used}
        self._loader.forget(used)
        for key in self.canvas.scenes[pane].wanted:
            if key in self.meshes or self.session.store.has(key, "mesh"):
                self._take_mesh(key)

    def _plan(self, pane: int, model: Model) -> None:
        self.canvas.scenes[pane].set_model(model)
        table: dict[tuple[str, ...], tuple[str, ...]] = {}
        for place in model.walk():
            above = table.get(place.path[:-1], ()) if place.path else ()
            table[place.path] = (*above, place.product)
        self.ancestors[pane] = table

    def _take_mesh(self, key: str) -> None:
        """Have a body's mesh loaded aside, or take it when it is loaded already."""
        if key in self.meshes:
            self._mesh_loaded(key, self.meshes[key])
        else:
            self._loader.load(key, self.session.store)

    def _mesh_loaded(self, key: str, mesh: BodyMesh) -> None:
        self.meshes[key] = mesh
        for pane, scene in enumerate(self.canvas.scenes):
            if key in scene.wanted:
                self._show_mesh(pane, key)

    def _show_mesh(self, pane: int, key: str) -> None:
        scene = self.canvas.scenes[pane]
        made = scene.add_mesh(key, self.meshes[key])
        self.canvas.show_placed(pane, made)
        for placed in made:
            self._dress_one(pane, placed)
        if scene.wanted and (self._fitted or self._growing.isActive()):
            return
        if scene.wanted:
            self._growing.start()
        elif pane == RECEIVED and not self._fitted:
            self._fitted = True
            self._growing.stop()
            self.canvas.set_view("home")
        else:
            self.canvas.fit()

    def _still_growing(self) -> None:
        if not self._fitted:
            self.canvas.set_view("home")

    def close_picture(self) -> None:
        """Give threads and graphics resources back before the window goes."""
        self._loader.close()
        self.canvas.finish()

    def fit(self) -> None:
        """Fit the selection, or everything when nothing is selected."""
        chains = self.session.selection
        boxes = [
            placed.box
            for placed in self.canvas.scenes[RECEIVED].placed
            if chains and self._is_in(RECEIVED, placed, chains)
        ]
        self.canvas.fit(boxes or None)

    # --- selection -------------------------------------------------------------------------

    def _is_in(self, pane: int, placed: PlacedBody, chains: tuple[Chain, ...]) -> bool:
        above = self.ancestors[pane].get(placed.path, ())
        return any(covers(chain, placed.product, placed.path, above) for chain in chains)

    def dress(self) -> None:
        """Give every instance the look that selection, hiding and focus ask for."""
        for pane, scene in enumerate(self.canvas.scenes):
            for placed in scene.placed:
                self._dress_one(pane, placed)
        self.canvas.update()

    def _dress_one(self, pane: int, placed: PlacedBody) -> None:
        session, scene = self.session, self.canvas.scenes[pane]
        hidden = pane == RECEIVED and self._is_in(pane, placed, tuple(session.hidden))
        placed.show(not hidden)
        marked = session.focused if pane == RECEIVED else session.focused_returned
        selected = session.selection and self._is_selected(pane, placed)
        if selected:
            scene.dress(placed, _SELECTED)
        elif not session.focused or self._marks_most(pane, marked):
            scene.dress(placed)
        elif placed.product in marked:
            scene.dress(placed, _MARKED)
        else:
            scene.dress(placed, None, _FADED)

    def _marks_most(self, pane: int, marked: frozenset[str]) -> bool:
        owners = {placed.product for placed in self.canvas.scenes[pane].placed}
        return not owners & marked or len(owners & marked) > _MOST * len(owners)

    def _is_selected(self, pane: int, placed: PlacedBody) -> bool:
        if pane == RECEIVED:
            return self._is_in(pane, placed, self.session.selection)
        wanted = self._partners()
        above = self.ancestors[pane].get(placed.path, ())
        return bool(wanted & set(above))

    def _partners(self) -> set[str]:
        """Products of the returned model that the selected rows came back as."""
        model, sent = self.session.model, self.session.sent
        if model is None or sent is None:
            return set()
        chosen = set()
        for chain in self.session.selection:
            if not chain:
                chosen.update(model.roots)
                continue
            for token in chain[-1]:
                if token.startswith("product:"):
                    chosen.add(token.removeprefix("product:"))
            chosen |= {o.product for _, o in model.occurrences() if o.id in chain[-1]}
        found = set()
        for entry in sent.proof.ledger.entries:
            for compared in entry.items:
                ours, theirs = compared.item.products, compared.returned_products
                if ours and theirs and ours[0] in chosen:
                    found.add(theirs[0])
        return found

    def _picked(self, found: tuple[int, Hit | None], add: bool) -> None:
        pane, hit = found
        if hit is None:
            self.session.select(())
            return
        if pane != RECEIVED:
            return
        chain = self._chain_of(hit.placed)
        before = self.session.selection if add else ()
        self.session.select((*(c for c in before if c != chain), chain))

    def _chain_of(self, placed: PlacedBody) -> Chain:
        """The manifest row of an instance: equal components of one parent are one row."""
        model = self.session.model
        assert model is not None
        owners = self.ancestors[RECEIVED].get(placed.path, ())
        chain = []
        for level, step in enumerate(placed.path):
            parent = model.product(owners[level])
            product = next(o.product for o in parent.occurrences if o.id == step)
            chain.append(frozenset(o.id for o in parent.occurrences if o.product == product))
        return tuple(chain)

    def _hovered(self, found: tuple[int, Hit | None] | None) -> None:
        text = ""
        if found is not None and found[1] is not None:
            hit = found[1]
            x, y, z = hit.point
            name = hit.placed.body.name or "body"
            text = f"{name}, face {hit.face + 1}   x {x:.2f}  y {y:.2f}  z {z:.2f} mm"
        self.line.setText(text)

    def _hide(self) -> None:
        self.session.hide(self.session.selection)
        self.session.select(())

    # --- keys ------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space and self.canvas.two and not event.isAutoRepeat():
            self.canvas.swap(True)
            self._panes()
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self.canvas.swap(False)
            self._panes()
        else:
            super().keyReleaseEvent(event)
