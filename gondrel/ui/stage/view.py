"""The stage: the picture with its captions, tools and the divider between received and returned."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QAction, QColor, QImage
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from gondrel.core.model import Model
from gondrel.core.model.findings import Finding
from gondrel.core.model.later import is_stand_in, standing_in
from gondrel.core.reports.figures import count_of
from gondrel.ui.presenters.rows import Chain, Covering, other_bodies, same_drawn, same_places
from gondrel.ui.scene import camera as moves
from gondrel.ui.scene.bodies import OWN, Hit, Look, PlacedBody
from gondrel.ui.scene.body_mesh import BodyMesh
from gondrel.ui.scene.canvas import Canvas
from gondrel.ui.scene.loader import MeshLoader
from gondrel.ui.scene.marks import edge_mark, face_mark, finding_marks, nearest_edge
from gondrel.ui.scene.picks import picked_at
from gondrel.ui.session.comparison import Comparison, partners_of
from gondrel.ui.session.session import RECEIVED, RETURNED, Session
from gondrel.ui.stage.deviation_map import DeviationMap
from gondrel.ui.stage.divider import Divider
from gondrel.ui.stage.finding_pointer import FindingPointer, severity_colour
from gondrel.ui.stage.hover_line import line_at
from gondrel.ui.stage.hover_outline import HoverOutline
from gondrel.ui.stage.legend import Legend
from gondrel.ui.stage.looking import Looking
from gondrel.ui.stage.snapshot import picture_of
from gondrel.ui.stage.view_picker import ViewPicker
from gondrel.ui.stage.welcome import Welcome
from gondrel.ui.widgets.theme import palette

__all__ = ["StageView"]

_SELECTED = (0.24, 0.50, 0.66)
_MARKED = (0.72, 0.28, 0.30)
_HOVER = (0.35, 0.62, 0.78)
_FEATURE = (0.11, 0.36, 0.62)
_FADED = 0.16
_FAINT = 0.3
_GROW_MS = 250
"""How often the view is fitted anew while bodies still arrive."""

_VIEW_MS = 160
"""How often the sheet of views follows while turning; it would cost a tenth of each frame."""

_MOST = 0.8
"""Share of the bodies above which marking them says nothing."""

_EDGE_PIXELS = 7
_BELOW = 12


def _places_of(model: Model) -> set[tuple[tuple[str, ...], str]]:
    """Path and hash of every placed body."""
    return {
        (place.path, body.blob)
        for place in model.walk()
        if place.product in model.by_id
        for body in model.product(place.product).bodies
    }


def _rgb(colour: QColor) -> tuple[float, float, float]:
    return colour.redF(), colour.greenF(), colour.blueF()


class StageView(QWidget):
    """Shows the received model, beside it the returned one once there is a proof."""

    open_wanted = Signal()
    demo_wanted = Signal()

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__(parent)
        self.session = session
        self.canvas = Canvas(session.deferred, self)
        self.outline = HoverOutline(self.canvas, self)
        self.pointer = FindingPointer(self.canvas, self)
        self.ancestors: list[dict[tuple[str, ...], tuple[str, ...]]] = [{}, {}]
        self.meshes: dict[str, BodyMesh] = {}
        self.is_mapped = False
        self.shown_comparison: Comparison | None = None
        self._shown_model: Model | None = None
        self._come: frozenset[str] = frozenset()
        self.picked_part = ""
        self._alone: PlacedBody | None = None
        self._fitted = False
        self._growing = QTimer(self, singleShot=True, interval=_GROW_MS)
        self._growing.timeout.connect(self._still_growing)
        self._view_told = QTimer(self, singleShot=True, interval=_VIEW_MS)
        self._view_told.timeout.connect(self._moved)
        self._loader = MeshLoader(session.tasks.idle, session.deferred, self)
        self._loader.loaded.connect(self._mesh_loaded)
        self.captions = [self._caption("RECEIVED"), self._caption("RETURNED")]
        self.line = self._caption("")
        self.line.setProperty("role", "line")
        self.line.setTextFormat(Qt.TextFormat.PlainText)
        self.hint = self._caption("hold Space to swap in place")
        self.hint.setProperty("role", "line")
        self.divider = Divider(self)
        self.divider.moved.connect(self._move_divider)
        self.tools = self._tool_bar()
        self.views = ViewPicker(self)
        self.views.chosen.connect(self.canvas.set_view)
        self.legend = Legend(self)
        self.map = DeviationMap(session, self.canvas.scenes)
        self.looking = Looking(session, self.canvas, self._take_mesh, self.dress, self)
        self.looking.mark_wanted.connect(self._mark_part)
        self.welcome = Welcome(session, self)
        self.welcome.open_wanted.connect(self.open_wanted)
        self.welcome.demo_wanted.connect(self.demo_wanted)
        self._connect()
        self._tell("")
        self.refresh_theme()
        self.canvas.upward = session.settings.now.up
        self.canvas.set_parallel(session.settings.now.parallel)
        self._panes()

    def _connect(self) -> None:
        session, canvas = self.session, self.canvas
        canvas.picked.connect(self._picked)
        canvas.hovered.connect(self._hovered)
        canvas.moved.connect(lambda: self._view_told.isActive() or self._view_told.start())
        session.model_changed.connect(self._take_model)
        session.sizing.faces_wanted.connect(self.show_faces)
        session.sent_changed.connect(self._take_comparison)
        session.checking.comparison_changed.connect(self._take_comparison)
        session.addressing.beside_changed.connect(self._take_comparison)
        session.comparing.changed.connect(self._take_comparison)
        session.station_changed.connect(lambda _: self._take_comparison())
        session.mesh_ready.connect(self._take_mesh)
        session.field_ready.connect(lambda _: self._refresh_map())
        session.facts_changed.connect(self._refresh_map)
        session.sizing.walls_changed.connect(self._refresh_map)
        session.selection_changed.connect(self._selection_changed)
        session.focus_changed.connect(self.dress)
        session.hidden_changed.connect(self.dress)
        session.sectioning.changed.connect(self._panes)
        session.tasks.changed.connect(lambda: canvas.set_busy(bool(session.tasks.running)))
        session.settings.changed.connect(self._settings_changed)

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
        line = QHBoxLayout(bar)
        line.setContentsMargins(10, 1, 10, 1)
        line.setSpacing(0)
        self.buttons: dict[str, QPushButton] = {}
        for key, text in (
            ("fit", "Fit"), ("isolate", "Only this"), ("faint", "See through"), ("hide", "Hide"),
            ("show-all", "Show all"), ("parallel", "Parallel"), ("map", "Deviation"),
        ):  # fmt: skip
            button = QPushButton(text)
            button.setProperty("role", "tool")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            self.buttons[key] = button
            line.addWidget(button)
        self.buttons["map"].setCheckable(True)
        self.buttons["parallel"].setCheckable(True)
        return bar

    def use_actions(self, actions: dict[str, QAction]) -> None:
        """Take what the tools do, and tell the key of each in its tip."""
        for key, button in (*self.buttons.items(), *self.looking.buttons.items()):
            action = actions[key]
            button.clicked.connect(lambda _=False, act=action: act.trigger())
            button.setToolTip(f"{action.text()} ({action.shortcut().toString()})")

    def refresh_theme(self) -> None:
        """Take the colours of the theme."""
        p = palette()
        self.canvas.set_background(p.stage_low, p.stage_high)
        self.update()

    def _settings_changed(self) -> None:
        now = self.session.settings.now
        if now.up != self.canvas.upward:
            self.canvas.upward = now.up
            self.canvas.set_view("home")
        self.canvas.set_parallel(now.parallel)
        self.buttons["parallel"].setChecked(now.parallel)
        self._refresh_map()

    def resizeEvent(self, event: Any) -> None:
        self.canvas.setGeometry(0, 0, self.width(), self.height())
        for over in (self.outline, self.pointer):
            over.setGeometry(self.canvas.geometry())
        self.outline.forget()
        self._panes()

    def _panes(self) -> None:
        two, has_model = self.canvas.two, self.session.model is not None
        cut = round(self.width() * self.canvas.divider)
        self.divider.setVisible(two)
        self.divider.setGeometry(cut - 7, 0, 14, self.height())
        comparison = self.shown_comparison
        self.captions[0].setVisible(has_model)
        self.captions[1].setVisible(two)
        ours, theirs = comparison.captions if comparison is not None else ("RECEIVED", "RETURNED")
        if comparison is not None:
            room = max(self.width() - cut - 130, 60) if not self.canvas.swapped else cut - 130
            shown = self.fontMetrics().elidedText(comparison.detail, Qt.TextElideMode.ElideMiddle, room)
            text = f"{theirs}  <span style='font-weight:400; letter-spacing:0px'>{shown}</span>"
            self.captions[1].setText(text)
        crowd = self.canvas.scenes[RECEIVED].count if self.canvas.is_crowded(RECEIVED) else 0
        if self.session.is_preview:
            crowd = 0
        crowd_text = f"{crowd:,} bodies in place, small ones drawn as boxes" if crowd else ""
        if self.session.is_preview:
            crowd_text = "shapes are being read; boxes stand for them"
        elif waits := len(self.session.loading_shapes.waiting):
            crowd_text = f"boxes stand for {count_of(waits, 'part')} not loaded"
        plain = f"<span style='font-weight:400; letter-spacing:0px'>{crowd_text}</span>"
        self.captions[0].setText(f"{ours} &nbsp;{plain}" if crowd_text else ours)
        left, right = (1, 0) if self.canvas.swapped else (0, 1)
        for pane, x in ((left, 16), (right, cut + 18)):
            self.captions[pane].adjustSize()
            self.captions[pane].move(x if two else 16, 12)
        self.buttons["map"].setVisible(two)
        self.tools.setVisible(has_model)
        self.tools.adjustSize()
        self.tools.move(
            (self.width() - self.tools.width()) // 2, self.height() - self.tools.height() - _BELOW
        )
        self.views.setVisible(has_model)
        self.views.move(self.width() - self.views.width() - 12, 12 if not two else 34)
        self.welcome.resize(min(self.width() - 40, 560), self.height() - 40)
        self.welcome.move((self.width() - self.welcome.width()) // 2, 20)
        self.welcome.setVisible(not has_model)
        self.hint.setVisible(two)
        self.hint.adjustSize()
        foot = self.tools.y() - 24 - self.looking.height
        self.hint.move(self.width() - self.hint.width() - 12, foot)
        self.line.move(14, foot)
        self.looking.lay_out()
        self.legend.setVisible((two and self.is_mapped) or bool(self.session.sizing.walled))
        self.legend.move(self.width() - self.legend.width() - 12, foot - self.legend.height() - 10)

    def _moved(self) -> None:
        _, _, back = moves.axes(self.canvas.camera)
        self.views.show_direction(moves.as_if_along_z(back, self.canvas.upward))

    def _move_divider(self, x: float) -> None:
        self.canvas.divider = min(max(x / max(self.width(), 1), 0.15), 0.85)
        self.canvas.lay_out()
        self._panes()

    # --- models and meshes -----------------------------------------------------------------

    def _take_model(self) -> None:
        model, before = self.session.model, self._shown_model
        model = standing_in(model) if model is not None else None
        self._shown_model = model
        if model is not None and before is not None and same_places(before, model):
            others = other_bodies(before, model)
            if not others or self._waited(before, others):
                self._come |= others
                if others:
                    self.session.deferred.ask(self._exchange)
                self._panes()
                return
        if model is not None and before is not None and before.products and same_drawn(before, model):
            self.ancestors[RECEIVED] = model.lineage
            self._panes()
            return
        self._come = frozenset()
        shown = self.canvas.scenes[RECEIVED].placed
        places = {(p.path, p.body.blob) for p in shown}
        again = bool(shown) and model is not None and places == _places_of(model)
        self.canvas.clear(RECEIVED)
        if model is not None:
            self._plan(RECEIVED, model)
        self._fitted = again  # an edit of names or looks leaves the view as it is
        self._take_ready(RECEIVED)
        self._refresh_map()
        self._panes()

    def _waited(self, model: Model, products: frozenset[str]) -> bool:
        """Whether boxes stood for the shapes of some products."""
        bodies = (body for key in products for body in model.product(key).bodies)
        return all(is_stand_in(body.id) for body in bodies)

    def _exchange(self) -> None:
        """Show the shapes that have come in place of the boxes that stood for them."""
        products, self._come = self._come, frozenset()
        if products and self._shown_model is not None:
            self.canvas.exchange(RECEIVED, self._shown_model, products)
            self._take_ready(RECEIVED)
            self._panes()

    def _take_comparison(self) -> None:
        """Show in the second pane what stands beside the model now; a mend comes with its deviation."""
        comparison = self.session.comparison
        if comparison is self.shown_comparison:
            return
        was_mapped_for_mend = self.shown_comparison is not None and not self.shown_comparison.is_proof
        self.shown_comparison = comparison
        self.canvas.clear(RETURNED)
        if comparison is not None:
            self._plan(RETURNED, comparison.model)
            self._take_ready(RETURNED)
        was_two = self.canvas.two
        self.canvas.set_two(comparison is not None)
        self.session.sectioning.again()
        self.hold_swap(False)
        if comparison is not None and not comparison.is_proof:
            self.is_mapped = bool(comparison.ours)
        elif was_mapped_for_mend or comparison is None:
            self.is_mapped = False
        self._panes()
        self._refresh_map()
        if comparison is not None and not comparison.is_proof:
            self._fit_products(comparison.products)
        elif was_two != self.canvas.two:
            self.canvas.fit()

    def _fit_products(self, products: frozenset[str]) -> None:
        """Fit the place of the one product that differs; where several do, everything."""
        first: dict[str, Any] = {}
        for placed in self.canvas.scenes[RECEIVED].placed:
            if placed.product in products and placed.is_shown:
                first.setdefault(placed.product, placed.box)
        self.canvas.fit(list(first.values()) if len(products) == 1 else None)

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
        self.ancestors[pane] = model.lineage

    def _take_mesh(self, key: str) -> None:
        """Have a body's mesh loaded aside, or take it when it is loaded already."""
        if key in self.meshes:
            crowded = any(
                key in scene.wanted and self.canvas.is_crowded(pane)
                for pane, scene in enumerate(self.canvas.scenes)
            )
            (self._loader.hand_on if crowded else self._mesh_loaded)(key, self.meshes[key])
        else:
            self._loader.load(key, self.session.store)

    def _mesh_loaded(self, key: str, mesh: BodyMesh) -> None:
        self.meshes[key] = mesh
        self.looking.sections.take_meshes(self.meshes)
        for pane, scene in enumerate(self.canvas.scenes):
            if key in scene.wanted:
                self._show_mesh(pane, key)

    def _show_mesh(self, pane: int, key: str) -> None:
        scene = self.canvas.scenes[pane]
        made = scene.add_mesh(key, self.meshes[key])
        self._dress_all(pane, made)
        self.canvas.show_placed(pane)
        if scene.wanted:
            if not (self._fitted or self._growing.isActive()):
                self._growing.start()
        elif pane == RECEIVED and not self._fitted:
            self._fitted = True
            self._growing.stop()
            self.canvas.set_view("home")
        self._refresh_map()

    def _still_growing(self) -> None:
        if not self._fitted:
            self.canvas.set_view("home")

    def close_picture(self) -> None:
        """Give threads and graphics resources back before the window goes."""
        self._loader.close()
        self.canvas.finish()

    def fit(self) -> None:
        """Fit the selection, or everything when nothing is selected."""
        chosen = Covering(self.session.selection)
        boxes = [
            placed.box
            for placed in self.canvas.scenes[RECEIVED].placed
            if chosen and placed.is_shown and self._is_in(RECEIVED, placed, chosen)
        ]
        self.canvas.fit(boxes or None)

    def point_at(self, finding: Finding) -> None:
        """Fly to a finding of a body and point at it; without a body the part is fitted."""
        placed = [p for p in self.canvas.scenes[RECEIVED].placed if p.body.id == finding.body]
        placed = placed or [p for p in self.canvas.scenes[RECEIVED].placed if p.product == finding.product]
        self.canvas.mark(RECEIVED, ())
        if not placed:
            self.pointer.forget()
            return
        first = placed[0]
        around = None
        if first.body.id == finding.body:
            marks, around = finding_marks(first, finding, _rgb(severity_colour(finding)))
            self.canvas.mark(RECEIVED, marks)
        place = tuple(first.matrix.ravel())
        self.pointer.show_finding(finding, place, first.box, self.canvas.fit, around)

    def show_faces(self, body: str, faces: tuple[int, ...]) -> None:
        """Mark some faces of a body, in the first place where it stands; all else fades until something is
        selected."""
        placed = next((p for p in self.canvas.scenes[RECEIVED].placed if p.body.id == body), None)
        if placed is None:
            return
        self._alone = placed
        self.dress()
        marks = [face_mark(placed, face, _FEATURE) for face in faces]
        self.canvas.mark(RECEIVED, marks, clipped=not placed.is_whole)
        self.canvas.fit([placed.box])

    def toggle_section(self) -> None:
        """Cut the model open, or close it."""
        self.looking.toggle_section()

    def toggle_measure(self) -> None:
        """Measure what is clicked, or select it again."""
        self.looking.toggle_measure()

    def keep_view(self) -> None:
        """Keep what is seen as a named view."""
        self.looking.keep_view()

    def picture(self, is_clear: bool, with_scale: bool) -> QImage:
        """What is seen now, as a picture."""
        return picture_of(self.canvas, self.session.figures, is_clear=is_clear, with_scale=with_scale)

    def step_section(self, steps: float) -> None:
        """Step the plane of the section."""
        self.canvas.stepped.emit(steps)

    def fit_all(self) -> None:
        """Fit everything."""
        self.canvas.fit()

    # --- deviation -------------------------------------------------------------------------

    def toggle_map(self) -> None:
        """Colour both sides by how far they lie from one another, or show their own colours again."""
        self.is_mapped = not self.is_mapped and self.canvas.two
        self._refresh_map()
        self._panes()

    def _refresh_map(self) -> None:
        self.buttons["map"].setChecked(self.is_mapped)
        if self.session.sizing.walled:
            self.map.show_walls(self.meshes, self.legend)
        elif self.is_mapped:
            self.map.show(self.meshes, self.legend)
        elif not self.map.hide():
            return
        self.dress()
        self._panes()

    # --- selection -------------------------------------------------------------------------

    def _is_in(self, pane: int, placed: PlacedBody, covering: Covering) -> bool:
        return covering.covers(placed.product, placed.path, self.ancestors[pane].get(placed.path, ()))

    def _selection_changed(self) -> None:
        self.picked_part = ""
        self._alone = None
        self.session.checking.pick_face("", -1)
        self.session.sourcing.point_away()
        self.session.arranging.pick(None)
        for pane in (RECEIVED, RETURNED):
            self.canvas.mark(pane, ())
        self.dress()

    def dress(self) -> None:
        """Give every instance the look that selection, hiding and focus ask for."""
        for pane, scene in enumerate(self.canvas.scenes):
            self._dress_all(pane, [*scene.placed, *scene.caps])
        self.canvas.settle()
        self.canvas.update()

    def _dress_all(self, pane: int, placed_bodies: list[PlacedBody]) -> None:
        session, scene = self.session, self.canvas.scenes[pane]
        hidden, faint = Covering(session.hidden), Covering(session.faint)
        chosen = Covering(session.selection)
        products = set(session.selected_products()) if pane == RETURNED else set()
        marked = session.focused if pane == RECEIVED else session.focused_returned
        quiet = not session.focused or self._marks_most(pane, marked)
        partners: frozenset[str] = frozenset()
        if pane == RETURNED and session.selection and self.shown_comparison is not None:
            partners = partners_of(self.shown_comparison, session.sent, products)
        alone = self._alone if pane == RECEIVED else None
        is_plain = quiet and not (hidden or faint or chosen or partners or alone)
        if is_plain and scene.scale is None:
            for placed in placed_bodies:
                if not placed.is_shown:
                    placed.show(True)
                if placed.look is not OWN:
                    placed.is_selected = False
                    scene.dress(placed)
            return
        for placed in placed_bodies:
            ours = pane == RECEIVED
            placed.show(not (ours and hidden and self._is_in(pane, placed, hidden)))
            if ours:
                selected = bool(chosen) and self._is_in(pane, placed, chosen)
            else:
                above = self.ancestors[pane].get(placed.path, ())
                selected = bool(partners and partners & set(above))
            field = placed.body.blob if scene.scale is not None and placed.body.blob in scene.fields else ""
            opacity = _FAINT if ours and faint and self._is_in(pane, placed, faint) else 1.0
            if alone is not None and placed is not alone:
                look = Look(None, _FADED)
            elif selected and not field:
                look = Look(_SELECTED, opacity)
            elif quiet:
                look = Look(None, opacity, field)
            elif placed.product in marked:
                look = Look(None, opacity, field) if field else Look(_MARKED)
            else:
                look = Look(None, _FADED)
            placed.is_selected = selected
            scene.dress(placed, look)

    def _marks_most(self, pane: int, marked: frozenset[str]) -> bool:
        owners = {placed.product for placed in self.canvas.scenes[pane].placed}
        return not owners & marked or len(owners & marked) > _MOST * len(owners)

    def _picked(self, picked: tuple[int, Hit | None], add: bool) -> None:
        pane, hit = picked
        if self.looking.takes(pane, hit, self._edge_near(hit) if hit is not None else None):
            return
        if hit is None:
            self.session.select(())
            return
        if pane != RECEIVED:
            self._mark_part(pane, hit)
            return
        chain = self._chain_of(hit.placed)
        if not add and self.session.selection == (chain,):
            self._mark_part(pane, hit)
            return
        before = self.session.selection if add else ()
        self.session.select((*(c for c in before if c != chain), chain))

    def _mark_part(self, pane: int, hit: Hit, edge: int | None = None) -> None:
        """Mark the edge near a hit, or its face, and say what it is."""
        edge = self._edge_near(hit)
        of_ours = pane == RECEIVED and edge is None and hit.placed.owner is None
        self.session.checking.pick_face(hit.placed.body.id if of_ours else "", hit.face)
        self.session.sourcing.point_away()
        if pane == RECEIVED and edge is not None and hit.placed.owner is None:
            self.session.sourcing.point_at(hit.placed.body, edge)
        self.session.arranging.pick(picked_at(hit, edge) if pane == RECEIVED else None)
        mark = (
            edge_mark(hit.placed, edge, _MARKED)
            if edge is not None
            else face_mark(hit.placed, hit.face, _HOVER)
        )
        self.canvas.mark(pane, (mark,), clipped=not hit.placed.is_whole)
        self.picked_part = self._say(pane, hit, edge)
        self._tell(self.picked_part)

    def _edge_near(self, hit: Hit) -> int | None:
        return nearest_edge(hit, self.canvas.size_of_pixels(hit.point, _EDGE_PIXELS))

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

    def _hovered(self, under: tuple[int, Hit | None] | None) -> None:
        pane, hit = under or (RECEIVED, None)
        edge = self._edge_near(hit) if hit is not None else None
        self.outline.show_hit(pane, hit, edge)
        self._tell(self._say(pane, hit, edge) if hit is not None else self.picked_part)

    def _say(self, pane: int, hit: Hit, edge: int | None) -> str:
        comparison = self.shown_comparison
        model = self.session.model if pane == RECEIVED or comparison is None else comparison.model
        deviation = self.map.probe(hit) if self.is_mapped else None
        return line_at(self.session, model, hit, edge, deviation)

    def _tell(self, text: str) -> None:
        room = self.width() - 28
        self.line.setText(self.line.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, room))
        self.line.adjustSize()
        self.line.setVisible(bool(text))
        self.hint.setVisible(self.canvas.two and not text)

    # --- keys ------------------------------------------------------------------------------

    def swap_for_good(self) -> None:
        """Change places of received and returned until told again."""
        self.hold_swap(not self.canvas.swapped)

    def hold_swap(self, swapped: bool) -> None:
        """Show received in the place of returned and the other way round."""
        if self.canvas.two:
            before = self.shown_comparison is not None and self.shown_comparison.is_before
            self.canvas.swap(swapped != before)
            self._panes()
