"""What passes between the application and a worker process."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from gondrel.core.errors import GondrelError

__all__ = ["Done", "Failed", "Job", "Partial", "Progressed", "Ready", "Stopped"]


@dataclass(frozen=True, slots=True)
class Job:
    """A service function to run in a worker.

    Args:
        function: "module:name"; it must take a keyword ``progress``.
        doing: what is being done to what, for messages ("reading gear.stp").
        seconds, megabytes: limits; 0 for none. A single body may take a third of the seconds.
        deadly: texts of steps that ended the process when the job was run before; they are left out.
    """

    function: str
    args: tuple[Any, ...] = ()
    kwargs: dict[str, Any] = field(default_factory=dict)
    doing: str = "working"
    seconds: float = 3600.0
    megabytes: int = 12_000
    deadly: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class Ready:
    """The worker is up, the kernel loaded."""


@dataclass(frozen=True, slots=True)
class Progressed:
    """Share done (0 to 1) and what is being done now."""

    share: float
    text: str


@dataclass(frozen=True, slots=True)
class Partial:
    """A partial result."""

    value: Any


@dataclass(frozen=True, slots=True)
class Done:
    """The result."""

    value: Any


@dataclass(frozen=True, slots=True)
class Failed:
    """The job ended with an error that can be told."""

    error: GondrelError


@dataclass(frozen=True, slots=True)
class Stopped:
    """The job was cancelled."""
