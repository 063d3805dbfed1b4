"""A process that ends with the one that began it, whatever it is doing.

Source: prctl(2), PR_SET_PDEATHSIG, of Linux: the signal a process gets when the thread that began it ends.
"""

from __future__ import annotations

import ctypes
import os
import signal

__all__ = ["end_with_parent"]

_PARENT_DEATH = 1


def end_with_parent(parent: int) -> bool:
    """Have this process killed when its parent ends; whether that one is still there.

    Args:
        parent: its process id, as it was before this process was begun.
    """
    ctypes.CDLL(None).prctl(_PARENT_DEATH, signal.SIGKILL)
    return os.getppid() == parent
