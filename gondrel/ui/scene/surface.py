"""A Qt widget that VTK draws into: format, context, sizes, and the end of them."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6 import QtGui
from PySide6.QtCore import QTimer
from PySide6.QtOpenGLWidgets import QOpenGLWidget
from vtkmodules.vtkCommonCore import vtkCommand
from vtkmodules.vtkRenderingCore import vtkLight, vtkRenderer
from vtkmodules.vtkRenderingOpenGL2 import vtkGenericOpenGLRenderWindow

from gondrel.ui.scene import camera as moves
from gondrel.ui.session.deferred import Deferred

__all__ = ["Surface", "make_renderer"]

_COLOUR_BIT, _LINEAR = 0x4000, 0x2601
"""GL_COLOR_BUFFER_BIT and GL_LINEAR of the OpenGL registry."""


def _format() -> QtGui.QSurfaceFormat:
    """The GL context the picture needs."""
    wanted = QtGui.QSurfaceFormat()
    wanted.setRenderableType(QtGui.QSurfaceFormat.RenderableType.OpenGL)
    wanted.setVersion(3, 2)
    wanted.setProfile(QtGui.QSurfaceFormat.OpenGLContextProfile.CoreProfile)
    wanted.setSwapInterval(0)
    wanted.setDepthBufferSize(24)
    wanted.setStencilBufferSize(8)
    wanted.setAlphaBufferSize(8)
    wanted.setSamples(0)
    return wanted


def make_renderer() -> vtkRenderer:
    """A renderer with our backdrop, three lights that move with the camera, and the home view."""
    renderer = vtkRenderer()
    renderer.SetBackgroundAlpha(1.0)
    renderer.GradientBackgroundOn()
    renderer.SetBackground(0.886, 0.894, 0.886)
    renderer.SetBackground2(0.976, 0.973, 0.957)
    renderer.SetAutomaticLightCreation(False)
    renderer.SetUseOIT(False)  # a full-screen pass for one see-through body costs half a frame
    for azimuth, elevation, strength in ((-28, 42, 0.84), (0, 0, 0.50), (48, -14, 0.34)):
        light = vtkLight()
        light.SetLightTypeToCameraLight()
        a, e = np.radians(azimuth), np.radians(elevation)
        light.SetPosition(np.sin(a) * np.cos(e), np.sin(e), np.cos(a) * np.cos(e))
        light.SetFocalPoint(0, 0, 0)
        light.SetIntensity(strength)
        renderer.AddLight(light)
    camera = renderer.GetActiveCamera()
    camera.SetViewAngle(26)
    camera.SetPosition(*moves.HOME[0])
    camera.SetViewUp(*moves.HOME[1])
    return renderer


class Surface(QOpenGLWidget):
    """Holds VTK's render window in Qt's own context; what is drawn is the business of others."""

    def __init__(self, deferred: Deferred, parent: Any = None) -> None:
        super().__init__(parent)
        self.setFormat(_format())
        self.setUpdateBehavior(QOpenGLWidget.UpdateBehavior.NoPartialUpdate)
        self.window_ = vtkGenericOpenGLRenderWindow()
        self.window_.SetMultiSamples(0)
        self.window_.SetReadyForRendering(False)
        self.window_.SetFrameBlitModeToNoBlit()
        self.window_.AddObserver(vtkCommand.WindowMakeCurrentEvent, self._make_current)
        self.window_.AddObserver(vtkCommand.WindowIsCurrentEvent, self._is_current_event)
        self.ready = False
        self.is_stale = True
        self._is_due = False
        self.deferred = deferred
        self._showing = QTimer(self, singleShot=True)
        self._showing.timeout.connect(super().update)
        self._pixels = (1, 1)

    def update(self) -> None:  # type: ignore[override]  # of its overloads, the one that is used
        """Have the picture drawn anew soon, apart from what else the same change has painted."""
        self._is_due = True
        self.deferred.ask(self._draw_due)

    def _draw_due(self) -> None:
        """Draw what was asked for, unless a later change had it drawn already."""
        if self._is_due:
            self.draw_ahead()

    def draw_ahead(self) -> None:
        """Draw the picture in this turn of the event loop and have the next one show it: with software GL
        drawing takes as long as putting the window together."""
        if self.ready and self.isVisible():
            self.makeCurrent()
            self.draw_frame()
            self.doneCurrent()
            self._showing.start()
        else:
            self.redraw()

    def draw_frame(self) -> None:
        """Draw the picture as it is to be now; others say how."""
        self.draw()

    def redraw(self) -> None:
        """Have the picture drawn anew now; without it, what lies over it changes over the old one."""
        self.is_stale = True
        super().update()

    def draw(self, share: float = 1.0) -> None:
        """Have VTK draw one frame and wait for it. To be called in the widget's GL context.

        share: side of the picture drawn over that shown; below 1 the picture is drawn smaller, which
        costs less, and spread over the widget.
        """
        window, state = self.window_, self.window_.GetState()
        width, height = self._pixels
        drawn = max(int(width * share), 1), max(int(height * share), 1)
        if tuple(window.GetSize()) != drawn:
            window.SetSize(*drawn)
        state.Reset()
        state.Push()
        window.Render()
        state.Pop()
        self.is_stale = self._is_due = False
        window.WaitForCompletion()

    def paintGL(self) -> None:
        if not self.ready:
            return
        if self.is_stale:  # otherwise it is drawn, or something that lies over it asked for it
            self.draw_frame()
        self.show_drawn()

    def show_drawn(self) -> None:
        """Show the frame drawn last, spread over the widget. To be called in the widget's GL context."""
        drawn = self.window_.GetSize()
        self.window_.BlitDisplayFramebuffer(0, 0, 0, *drawn, 0, 0, *self._pixels, _COLOUR_BIT, _LINEAR)

    def _is_current(self) -> bool:
        context = self.context()
        return context is not None and QtGui.QOpenGLContext.currentContext() == context

    def _make_current(self, *unused: Any) -> None:
        # makeCurrent also binds Qt's frame buffer: never in the middle of a frame.
        if self.isValid() and not self._is_current():
            self.makeCurrent()

    def _is_current_event(self, *unused: Any) -> None:
        self.window_.SetIsCurrent(self._is_current())

    def initializeGL(self) -> None:
        window = self.window_
        window.SetReadyForRendering(True)
        window.SetMapped(True)
        window.SetIsCurrent(True)
        window.SetSupportsOpenGL(True)
        window.SetIsDirect(True)
        window.SetForceMaximumHardwareLineWidth(1)
        window.SetOwnContext(False)
        window.OpenGLInitContext()
        window.OpenGLInitState()
        self.ready = True
        self.context().aboutToBeDestroyed.connect(self.finish)

    def finish(self) -> None:
        """Give the graphics resources back before the context goes."""
        if self.ready:
            self.ready = False
            self.makeCurrent()
            self.window_.Finalize()
            self.window_.SetReadyForRendering(False)
            self.doneCurrent()

    def resizeGL(self, width: int, height: int) -> None:
        ratio = self.devicePixelRatioF()
        w, h = int(self.width() * ratio + 0.5), int(self.height() * ratio + 0.5)
        self._pixels = (w, h)
        self.is_stale = True
        self.window_.SetSize(w, h)
        self.window_.SetScreenSize(w, h)
        self.window_.SetDPI(int(72 * ratio))
