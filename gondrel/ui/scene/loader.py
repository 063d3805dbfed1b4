"""Meshes of bodies made ready for drawing aside from the main thread."""

from __future__ import annotations

from collections.abc import Container
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from PySide6.QtCore import QObject, Signal

from gondrel.core.model.store import BlobStore
from gondrel.core.work.in_turns import Turns
from gondrel.ui.scene.body_mesh import BodyMesh
from gondrel.ui.session.deferred import Deferred, HandingOn
from gondrel.ui.session.idle import Idle

__all__ = ["MeshLoader"]


class MeshLoader(QObject):
    """Loads stored meshes one after another in a thread; a mesh that is not there is passed over."""

    loaded = Signal(str, object)

    def __init__(self, idle: Idle, deferred: Deferred, parent: Any = None) -> None:
        super().__init__(parent)
        self._idle = idle
        self._pool = ThreadPoolExecutor(1, thread_name_prefix="gondrel-meshes")
        self._asked: set[str] = set()
        self._is_closed = False
        self._ready = HandingOn(self._deliver, deferred, self)

    def load(self, key: str, store: BlobStore) -> None:
        """Load the mesh of a body, once; ``loaded`` is emitted in the main thread, not after closing."""
        if key not in self._asked and not self._is_closed:
            self._asked.add(key)
            self._pool.submit(self._load, key, store)

    def forget(self, kept: Container[str]) -> None:
        """Let all be loaded anew that are not kept."""
        self._asked = {key for key in self._asked if key in kept}

    def close(self) -> None:
        """End the thread once what it is loading is loaded."""
        self._is_closed = True
        self._pool.shutdown(wait=True, cancel_futures=True)

    def _load(self, key: str, store: BlobStore) -> None:
        self._idle.give_way()
        try:
            mesh = BodyMesh.from_bytes(store.get_as(key, "mesh"), Turns(self._idle.give_way))
        except KeyError:
            self._asked.discard(key)
            return
        self._ready.add(key, mesh)

    def hand_on(self, key: str, mesh: BodyMesh) -> None:
        """Have a mesh that is there handed on in its turn."""
        self._ready.add(key, mesh)

    def _deliver(self, key: str, mesh: BodyMesh) -> None:
        if not self._is_closed:
            self.loaded.emit(key, mesh)
