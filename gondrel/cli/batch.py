"""``gondrel batch``: a folder of files sent and proved, one after another and side by side."""

from __future__ import annotations

import os
import shutil
import sys
import tempfile
import time
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Annotated, Any

import typer

from gondrel.cli.calls import EndedBy
from gondrel.cli.program import (
    AsOption,
    ForceOption,
    JsonOption,
    MegabytesOption,
    OneFile,
    RecipeOption,
    RecipientOption,
    SecondsOption,
    SetOption,
    VerboseOption,
    app,
    examples_help,
    help_of,
    keys_help,
    kind_for,
    kind_toward,
    kinds_help,
    pairs_of,
    sending_settings,
    show,
    with_recipes,
)
from gondrel.core.errors import UsageError
from gondrel.core.formats.registry import target
from gondrel.core.recipients.card import card_or_none
from gondrel.core.service.batch import (
    Journal,
    Outcome,
    Task,
    choices_text,
    counts_of,
    found_files,
    keep_table,
    outcome_object,
    plan,
)
from gondrel.core.service.recipes import values_toward
from gondrel.core.service.settings import RECEIVE_KEYS, SEND_KEYS, parted, receive_options_from
from gondrel.core.work.files import private_folder, sha256_of_file
from gondrel.jobs.limits import limits_for
from gondrel.jobs.messages import Done, Failed, Job
from gondrel.jobs.pool import run_all

__all__ = ["batch"]

_LOOK_EVERY = 2.0


class _Batch:
    """One run over some files."""

    def __init__(
        self, kind: str, options: Any, settings: Any, recipient: str, to: str, limits: tuple[int, int],
        store: str,
    ) -> None:  # fmt: skip
        self.kind, self.options, self.settings, self.recipient = kind, options, settings, recipient
        self.limits, self.store = limits, store
        self.journal = Journal(to)
        self.choices = choices_text(kind, options, settings, recipient)
        self.outcomes: list[Outcome] = []
        self._begun: dict[Task, tuple[float, str]] = {}
        self._stores: dict[Task, str] = {}
        self._start, self._all = time.monotonic(), 0

    def run(self, tasks: list[Task], workers: int, scheduler: str = "") -> None:
        """Send what is not done yet, by workers here or by those of a cluster."""
        self._start, self._all = time.monotonic(), len(self.outcomes) + len(tasks)
        if scheduler:
            from gondrel.jobs.cluster import run_on_cluster

            run_on_cluster(scheduler, self._to_do(tasks), self._job, self._take)
            return
        run_all(self._to_do(tasks), self._job, self._take, workers=min(workers, max(len(tasks), 1)))

    def _to_do(self, tasks: list[Task]) -> Iterator[Task]:
        for task in tasks:
            digest = sha256_of_file(task.source)
            known = self.journal.done(task, digest, self.choices)
            if known is not None:
                self._say(replace(known, source=task.source, seconds=0.0, again=True))
                continue
            self._begun[task] = time.monotonic(), digest
            yield task

    def _job(self, task: Task) -> Job:
        Path(task.target).parent.mkdir(parents=True, exist_ok=True)
        seconds, megabytes = limits_for([task.source])
        store = self._stores[task] = tempfile.mkdtemp(dir=self.store)
        args = (
            task.source,
            task.target,
            self.kind,
            self.options,
            self.settings,
            False,
            self.recipient,
            (),
            store,
        )
        return Job(
            "gondrel.core.service.commands:send_command", args,
            doing=f"sending {Path(task.source).name}", seconds=self.limits[0] or seconds,
            megabytes=self.limits[1] or megabytes,
        )  # fmt: skip

    def _take(self, task: Task, message: Any) -> None:
        begun, digest = self._begun.pop(task)
        shutil.rmtree(self._stores.pop(task), ignore_errors=True)
        took = time.monotonic() - begun
        if isinstance(message, Done):
            proof = message.value["proof"]
            outcome = Outcome(
                task.source, task.target, proof["verdict"], took, "", proof["unannounced_losses"], digest,
                self.choices, sha256_of_file(task.target),
            )  # fmt: skip
        else:
            why = str(message.error) if isinstance(message, Failed) else "it was ended"
            outcome = Outcome(task.source, task.target, "failed", took, why, 0, digest, self.choices)
        self.journal.add(outcome)
        self._say(outcome)

    def _say(self, outcome: Outcome) -> None:
        self.outcomes.append(outcome)
        done = len(self.outcomes)
        left = (time.monotonic() - self._start) / done * (self._all - done)
        told = outcome.error or (f"{outcome.verdict}, done before" if outcome.again else outcome.verdict)
        rest = f", about {_minutes(left)} left" if self._all > done and not outcome.again else ""
        print(f"[{done}/{self._all}] {outcome.source}: {told}{rest}", file=sys.stderr)


def _minutes(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 90 else f"{seconds / 60:.0f} min"


def _view(result: dict[str, Any]) -> Iterator[str]:
    counts = result["counts"]
    yield ", ".join(f"{count} {word}" for word, count in counts.items() if count) or "no file to send"
    for each in result["files"]:
        if each["verdict"] == "failed":
            yield f"failed: {each['path']}: {each['error']}"


@app.command(
    short_help="Send and prove a folder of files.",
    help=help_of(
        "Send every model file of a folder and prove each; what fails does not stop the rest, and what was "
        "done before is not done again. With --watch it goes on as files come, until Ctrl-C.",
        examples_help(
            "gondrel batch in --to out --as step-ap242",
            "gondrel batch in --to out --recipient rigger --workers 2 --table out/table.html",
            "gondrel batch drop --to out --as xt-text --watch",
        ),
        kinds_help(),
        keys_help(("", SEND_KEYS), ("receive.", RECEIVE_KEYS)),
    ),
)
def batch(  # noqa: D103
    folder: OneFile,
    to: Annotated[str, typer.Option("--to", metavar="DIR", help="The folder to write to.")],
    kind: AsOption = "",
    settings: SetOption = None,
    recipe: RecipeOption = None,
    recipient: RecipientOption = "",
    workers: Annotated[
        int, typer.Option("--workers", metavar="N", min=0, help="Files at a time; 0 for one a processor.")
    ] = 0,
    pattern: Annotated[str, typer.Option("--only", metavar="NAMES", help="With * and ?, as *.stp.")] = "*",
    flat: Annotated[bool, typer.Option("--flat", help="Leave folders within the folder alone.")] = False,
    scheduler: Annotated[
        str, typer.Option("--scheduler", metavar="ADDRESS", help="Of a Dask cluster that does the work.")
    ] = "",
    watch: Annotated[bool, typer.Option("--watch", help="Go on as files come.")] = False,
    table: Annotated[
        str, typer.Option("--table", metavar="OUT", help="Keep the table as .csv, .xlsx or .html.")
    ] = "",
    force: ForceOption = False,
    as_json: JsonOption = False,
    limit_seconds: SecondsOption = 0,
    limit_memory: MegabytesOption = 0,
    verbose: VerboseOption = False,
) -> int:
    card = card_or_none(recipient)
    received, own = parted(with_recipes(recipe, pairs_of(settings)), "receive.")
    own = values_toward(card, own)
    kind = kind_for("", kind_toward(card, kind, own))
    form, chosen = target(kind)
    if form.is_mesh:
        raise UsageError("a batch sends exact bodies", hint="send meshes one by one")
    sending, options = sending_settings(own, True), receive_options_from(received)
    count = workers or os.cpu_count() or 1
    with private_folder() as store:
        limits = limit_seconds, limit_memory
        run = _Batch(kind, options, sending, recipient, to, limits, str(store))
        files = found_files(folder, pattern=pattern, recursive=not flat, beside=to)
        tasks = plan(files, folder, to, chosen.suffix)
        _refuse_strangers(tasks, run, force=force)
        run.run(tasks, count, scheduler)
        if watch:
            _watch(run, folder, to, chosen.suffix, pattern, not flat, count)
    if table:
        keep_table(table, run.outcomes)
    counts = counts_of(run.outcomes)
    result = {"files": [outcome_object(each) for each in run.outcomes], "counts": counts}
    show(result, as_json, _view)
    return int(bool(counts["failed"] or any(each.unannounced for each in run.outcomes)))


def _refuse_strangers(tasks: list[Task], run: _Batch, *, force: bool) -> None:
    """Raise UsageError where a file stands in the way that no batch made."""
    if force:
        return
    own = run.journal.targets()
    strange = [task.target for task in tasks if task.target not in own and Path(task.target).exists()]
    if strange:
        more = f" and {len(strange) - 1} more" if len(strange) > 1 else ""
        raise UsageError(f"{strange[0]}{more} is there already", hint="--force replaces it")


def _watch(
    run: _Batch, folder: str, to: str, suffix: str, pattern: str, recursive: bool, workers: int
) -> None:
    """Send files as they come or change, each when it has stood still from one look to the next."""
    seen: dict[str, tuple[int, int]] = {}
    looked_at: dict[str, tuple[int, int]] = {}
    done = {each.source: each.sha256 for each in run.outcomes}
    try:
        while True:
            time.sleep(_LOOK_EVERY)
            fresh = []
            for path in found_files(folder, pattern=pattern, recursive=recursive, beside=to):
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
                every = found_files(folder, pattern=pattern, recursive=recursive, beside=to)
                tasks = [task for task in plan(every, folder, to, suffix) if task.source in set(fresh)]
                run.run(tasks, workers)
                done |= {task.source: sha256_of_file(task.source) for task in tasks}
    except (EndedBy, KeyboardInterrupt):
        return
