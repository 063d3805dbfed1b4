"""What there is to send as and to receive, asked of the formats; loads no kernel."""

from __future__ import annotations

from pathlib import Path

from gondrel.core.errors import UsageError
from gondrel.core.formats.registry import all_formats, all_suffixes, by_suffix, target
from gondrel.core.service.messages import TargetChoice
from gondrel.core.work import SILENT, Progress

__all__ = ["disagreement", "kind_of_suffix", "model_suffixes", "shows_records", "target_kinds"]

_PACKED = (".gz", ".stpz")


def model_suffixes() -> tuple[str, ...]:
    """Endings of the files that can be received, packed ones last."""
    return (*all_suffixes(), *_PACKED)


def target_kinds(*, progress: Progress = SILENT) -> tuple[TargetChoice, ...]:
    """Everything that can be sent as."""
    return tuple(
        TargetChoice(t.kind, t.title, t.suffix, t.unit, t.note, f.is_mesh, bool(f.link) and t.links)
        for f in sorted(all_formats(), key=lambda f: f.order)
        for t in f.targets
    )


def kind_of_suffix(out: str, *, first: bool = True) -> str:
    """The kind that a file's ending stands for.

    Args:
        first: whether the first of several will do.

    Raises:
        UsageError: for an ending of no format that can be written, or of several kinds.
    """
    suffix = Path(out).suffix.lower()
    known = by_suffix(out)
    if known is None or not known.targets:
        endings = dict.fromkeys(choice.suffix for choice in target_kinds())
        raise UsageError(
            f"no format that can be written has the ending {suffix or '(none)'!r}",
            hint=f"one of {', '.join(endings)}",
        )
    exact = [t.kind for t in known.targets if t.suffix == suffix]
    kinds = exact or [t.kind for t in known.targets]
    if len(kinds) > 1 and not first:
        raise UsageError(
            f"the ending {suffix} stands for several kinds", hint=f"say one with --as: {', '.join(kinds)}"
        )
    return kinds[0]


def disagreement(out: str, kind: str) -> str:
    """What to say of a file whose ending stands for another format than is written; empty for nothing.

    Raises:
        UsageError: for an unknown kind.
    """
    form, chosen = target(kind)
    known = by_suffix(out)
    if known is form:
        return ""
    ending = Path(out).suffix or "no ending"
    meant = f"stands for {known.title}" if known is not None else "says nothing of it"
    return f"{chosen.title} is written to a file whose ending ({ending}) {meant}; {chosen.suffix} is usual"


def shows_records(key: str) -> bool:
    """Whether the records of files of a format are shown."""
    return any(known.source for known in all_formats() if known.key == key)
