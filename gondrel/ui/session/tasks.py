"""Jobs seen from the interface: messages of the workers brought to the main thread as signals."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QObject, Signal

from gondrel.core.errors import GondrelError
from gondrel.core.model.snapshot import Model
from gondrel.core.service.messages import Forecast
from gondrel.jobs.limits import resident_megabytes
from gondrel.jobs.messages import Done, Failed, Job, Partial, Progressed, Stopped
from gondrel.jobs.worker import Worker
from gondrel.ui.session.deferred import Deferred, HandingOn
from gondrel.ui.session.idle import Idle

__all__ = ["MESHER_NICENESS", "READER_NICENESS", "Task", "Tasks"]

MESHER_NICENESS, READER_NICENESS = 4, 5
"""They give way to the window, which has to answer at once; the picture's making goes before the rest."""


def _nothing(value: Any) -> None:
    return None


@dataclass(slots=True)
class Task:
    """One running job: what it does, how far it is, and whom to tell."""

    number: int
    title: str
    job: Job
    worker: Worker
    done: Callable[[Any], None]
    failed: Callable[[GondrelError], None]
    partial: Callable[[Any], None] = _nothing
    stopped: Callable[[], None] | None = None
    share: float = 0.0
    text: str = ""
    is_quiet: bool = False


class Tasks(QObject):
    """Runs jobs in two warm workers: one reads and writes, the other measures and tessellates."""

    changed = Signal()

    def __init__(self, deferred: Deferred, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.idle = Idle(self)
        give_way = self.idle.give_way
        self.reader = Worker("reader", niceness=READER_NICENESS, give_way=give_way)
        self.mesher = Worker("mesher", niceness=MESHER_NICENESS, give_way=give_way)
        self.running: dict[int, Task] = {}
        self._serial = 0
        self._messages = HandingOn(self._take, deferred, self)

    def warm_up(self) -> None:
        """Start both workers before they are needed."""
        self.reader.warm_up()
        self.mesher.warm_up()

    def run(
        self,
        job: Job,
        *,
        done: Callable[[Any], None],
        failed: Callable[[GondrelError], None],
        partial: Callable[[Any], None] = _nothing,
        stopped: Callable[[], None] | None = None,
        mesher: bool = False,
        quiet: bool = False,
    ) -> int:
        """Queue a job; the callbacks come in the main thread. Returns its number."""
        self._serial += 1
        number = self._serial
        worker = self.mesher if mesher else self.reader
        title = job.doing[:1].upper() + job.doing[1:]
        self.running[number] = Task(
            number, title, job, worker, done, failed, partial, stopped, 0.0, "", quiet
        )
        worker.submit(job, lambda message: self._messages.add(number, self._worked_out(message)))
        self.changed.emit()
        return number

    def cancel(self) -> None:
        """Cancel everything that runs or waits."""
        self.reader.cancel()
        self.mesher.cancel()

    def cancel_one(self, number: int) -> None:
        """Cancel one job, running or waiting."""
        task = self.running.get(number)
        if task is not None:
            task.worker.cancel(task.job)

    def shown(self) -> Task | None:
        """The job to show progress of, None when nothing worth showing runs."""
        return next((task for task in self.running.values() if not task.is_quiet), None)

    def memory(self) -> tuple[float, float, float]:
        """Memory held now, MB: by the window, by what reads and writes, by what measures."""
        window, reader, mesher = (
            resident_megabytes(p) for p in (os.getpid(), self.reader.pid, self.mesher.pid)
        )
        return window, reader, mesher

    def close(self) -> None:
        """End both workers; what they still said is heard by nobody."""
        self.running.clear()
        self.reader.close()
        self.mesher.close()

    def _worked_out(self, message: Any) -> Any:
        """A message whose models know the places of everything in them: that takes long where there are
        tens of thousands, and this is not the thread that draws."""
        value = message.value if isinstance(message, Done | Partial) else None
        for each in value if isinstance(value, tuple) else (value,):
            if isinstance(each, Model) and each.products:
                each.work_out_places(self.idle.give_way)
            elif isinstance(each, Forecast):
                each.work_out(self.idle.give_way)
        return message

    def _take(self, number: int, message: Any) -> None:
        task = self.running.get(number)
        if task is None:
            return
        if isinstance(message, Progressed):
            task.share, task.text = message.share, message.text
        elif isinstance(message, Partial):
            task.partial(message.value)
            return
        else:
            del self.running[number]
            if isinstance(message, Done):
                task.done(message.value)
            elif isinstance(message, Failed):
                task.failed(message.error)
            elif isinstance(message, Stopped) and task.stopped is not None:
                task.stopped()
        self.changed.emit()
