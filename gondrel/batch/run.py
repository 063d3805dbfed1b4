"""A batch as it runs: files sent and proved side by side, here or on a cluster, and watched folders."""

from __future__ import annotations

import os
import shutil
import tempfile
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from gondrel.core.errors import UsageError
from gondrel.core.formats.registry import target
from gondrel.core.formats.settings import SendSettings
from gondrel.core.service.batch import Journal, Outcome, Task, choices_text, found_files, plan
from gondrel.core.service.settings import ReceiveOptions
from gondrel.core.work.files import private_folder, sha256_of_file, sweep
from gondrel.jobs.limits import limits_for
from gondrel.jobs.messages import Done, Failed, Job
from gondrel.jobs.pool import run_all

__all__ = ["BatchOrder", "BatchRun"]

_LOOK_EVERY = 2.0


@dataclass(frozen=True, slots=True)
class BatchOrder:
    """What is to be sent, where to and how.

    Args:
        folder, to: of files to read and to write; pattern: of file names; recursive: folders in it too.
        kind: of the target; recipient: key of a card, empty for nobody in particular.
        workers: files at a time; limits: seconds and megabytes for each, 0 for what their sizes give.
        scheduler: address of a cluster that does the work, empty for this machine.
        force: whether files that no batch made are replaced.
    """

    folder: str
    to: str
    kind: str
    options: ReceiveOptions
    settings: SendSettings
    recipient: str = ""
    pattern: str = "*"
    recursive: bool = True
    workers: int = 1
    limits: tuple[int, int] = (0, 0)
    scheduler: str = ""
    force: bool = False

    def files(self) -> list[str]:
        """The files there are now. Raises InputError."""
        return found_files(self.folder, pattern=self.pattern, recursive=self.recursive, beside=self.to)

    def tasks(self, files: Sequence[str]) -> list[Task]:
        """Where each of some files goes; what goes as several files gets a folder of its own."""
        suffix = target(self.kind)[1].suffix
        return plan(files, self.folder, self.to, suffix, apart=self.settings.files != "one")


class BatchRun:
    """A batch at work; call run in a thread that may wait.

    Args:
        say: called with each outcome and the seconds that what is left will take, in that thread.

    Raises:
        UsageError: for a kind that a batch does not send, or a file in the way that no batch made.
        InputError: when there is no folder.
    """

    def __init__(self, order: BatchOrder, say: Callable[[Outcome, float], None]) -> None:
        if target(order.kind)[0].is_mesh:
            raise UsageError("a batch sends exact bodies", hint="send meshes one by one")
        self.order, self.say = order, say
        self.journal = Journal(order.to)
        self.choices = choices_text(order.kind, order.options, order.settings, order.recipient)
        self.outcomes: list[Outcome] = []
        self.stopped = threading.Event()
        self.all = 0
        self.tasks = order.tasks(order.files())
        self._begun: dict[Task, tuple[float, str]] = {}
        self._stores: dict[Task, str] = {}
        self._store = ""
        self._start = time.monotonic()
        if not order.force:
            self._refuse_strangers()

    def _refuse_strangers(self) -> None:
        own = self.journal.targets()
        strange = [t.target for t in self.tasks if t.target not in own and Path(t.target).exists()]
        if strange:
            more = f" and {len(strange) - 1} more" if len(strange) > 1 else ""
            raise UsageError(f"{strange[0]}{more} is there already", hint="--force replaces it")

    def run(self, *, watch: bool = False) -> None:
        """Send what is not done yet; with watch go on as files come, until it is stopped."""
        try:
            with private_folder() as store:
                self._store = str(store)
                self._send(self.tasks)
                if watch:
                    self._watch()
        finally:
            sweep()  # what workers had begun that were ended

    def stop(self) -> None:
        """End it; what is being sent is given up, what was done stays done."""
        self.stopped.set()

    def _send(self, tasks: list[Task]) -> None:
        self._start, self.all = time.monotonic(), len(self.outcomes) + len(tasks)
        if self.order.scheduler:
            from gondrel.jobs.cluster import run_on_cluster

            run_on_cluster(self.order.scheduler, self._to_do(tasks), self._job, self._take)
            return
        workers = min(self.order.workers, max(len(tasks), 1))
        run_all(self._to_do(tasks), self._job, self._take, workers=workers, stopped=self.stopped)

    def _to_do(self, tasks: list[Task]) -> Iterator[Task]:
        for task in tasks:
            digest = sha256_of_file(task.source)
            known = self.journal.done(task, digest, self.choices)
            if known is not None:
                self._tell(replace(known, source=task.source, seconds=0.0, again=True))
                continue
            self._begun[task] = time.monotonic(), digest
            yield task

    def _job(self, task: Task) -> Job:
        order = self.order
        Path(task.target).parent.mkdir(parents=True, exist_ok=True)
        seconds, megabytes = limits_for([task.source])
        store = self._stores[task] = tempfile.mkdtemp(dir=self._store)
        args = (
            task.source, task.target, order.kind, order.options, replace(order.settings, force=True), False,
            order.recipient, (), store,
        )  # fmt: skip
        return Job(
            "gondrel.core.service.commands:send_command", args,
            doing=f"sending {Path(task.source).name}", seconds=order.limits[0] or seconds,
            megabytes=order.limits[1] or megabytes,
        )  # fmt: skip

    def _take(self, task: Task, message: Any) -> None:
        begun, digest = self._begun.pop(task)
        shutil.rmtree(self._stores.pop(task), ignore_errors=True)
        took = time.monotonic() - begun
        if isinstance(message, Done):
            proof, sent = message.value["proof"], message.value["sent"][0]["path"]
            outcome = Outcome(
                task.source, task.target, proof["verdict"], took, "", proof["unannounced_losses"], digest,
                self.choices, sha256_of_file(sent), sent=sent,
            )  # fmt: skip
        else:
            why = str(message.error) if isinstance(message, Failed) else "it was ended"
            outcome = Outcome(task.source, task.target, "failed", took, why, 0, digest, self.choices)
        self.journal.add(outcome)
        self._tell(outcome)

    def _tell(self, outcome: Outcome) -> None:
        self.outcomes.append(outcome)
        done = len(self.outcomes)
        self.say(outcome, (time.monotonic() - self._start) / done * (self.all - done))

    def _watch(self) -> None:
        """Send files as they come or change, each when it has stood still from one look to the next."""
        seen: dict[str, tuple[int, int]] = {}
        looked_at: dict[str, tuple[int, int]] = {}
        done = {each.source: each.sha256 for each in self.outcomes}
        while not self.stopped.wait(_LOOK_EVERY):
            fresh = []
            for path in self.order.files():
                try:
                    state = os.stat(path)
                except OSError:
                    continue
                stood, seen[path] = seen.get(path), (state.st_size, state.st_mtime_ns)
                if stood != seen[path] or looked_at.get(path) == stood:
                    continue
                looked_at[path] = stood
                if sha256_of_file(path) != done.get(path):
                    fresh.append(path)
            if fresh:
                tasks = [t for t in self.order.tasks(self.order.files()) if t.source in set(fresh)]
                self._send(tasks)
                done |= {task.source: sha256_of_file(task.source) for task in tasks}
