"""What a register refuses."""

from __future__ import annotations

from gondrel.core.errors import GondrelError

__all__ = ["ContentConflict", "RegisterBusy", "RuleBroken"]


class RuleBroken(GondrelError):
    """Something that the rules of a register do not allow, with what to do instead."""

    code = "rule-broken"


class RegisterBusy(GondrelError):
    """Somebody else changed what is to be changed; nothing was overwritten."""

    code = "register-busy"


class ContentConflict(GondrelError):
    """A revision that comes in has the number and revision of one that is there, and another content."""

    code = "content-conflict"
