"""What is drawn once unseen, so that the driver has each way of drawing ready before one waits for it."""

from __future__ import annotations

import numpy as np
from vtkmodules.vtkRenderingCore import vtkActor, vtkCamera

from gondrel.core.model import Body, BodyKind, Model, Product, Rgba
from gondrel.ui.scene.bodies import Scene
from gondrel.ui.scene.body_mesh import BodyMesh
from gondrel.ui.scene.crowd import Crowd

__all__ = ["trial_actors"]


def trial_actors() -> list[vtkActor]:
    """A tiny triangle in each way of drawing: plain, painted by face, as edges, and in a crowd."""
    points = np.array([[0, 0, 0], [1e-3, 0, 0], [0, 1e-3, 0]], np.float32)
    normals = np.array([[0, 0, 1]] * 3, np.float32)
    mesh = BodyMesh.from_arrays(
        points, normals, np.array([[0, 1, 2]]), np.array([0, 1]), points, np.array([0, 3]), 1.0
    )
    scene, red = Scene(), Rgba(1.0, 0.0, 0.0)
    bodies = (Body(f"trial {len(own)}", BodyKind.SOLID, "", "trial", red, own) for own in ((), ((0, red),)))
    scene.set_model(Model((Product("trial", "", "", bodies=tuple(bodies)),), ("trial",)))
    actors = []
    for placed in scene.add_mesh("trial", mesh):
        scene.embody(placed)
        actors += [*placed.surfaces, *placed.edges]
    crowd = Crowd()
    crowd.show(scene, np.ones(len(scene.placed), bool))
    crowd.face(vtkCamera(), both=True)
    return [*actors, crowd.actor]
