"""Every check there is: each module of rules/ declares one."""

from __future__ import annotations

import pkgutil
from functools import cache
from importlib import import_module

from gondrel.core.checks import rules
from gondrel.core.checks.base import Check, Scope

__all__ = ["all_checks", "check_of", "checks_in"]


@cache
def all_checks() -> tuple[Check, ...]:
    """Every check, in order of code. Raises ValueError when two have the same code."""
    checks: dict[str, Check] = {}
    for module in pkgutil.iter_modules(rules.__path__):
        check: Check = import_module(f"{rules.__name__}.{module.name}").CHECK
        if check.code in checks:
            raise ValueError(f"two checks have the code {check.code}")
        checks[check.code] = check
    return tuple(checks[code] for code in sorted(checks))


def checks_in(scope: Scope) -> tuple[Check, ...]:
    """The checks of one scope, in order of code."""
    return tuple(check for check in all_checks() if check.scope is scope)


@cache
def check_of(code: str) -> Check:
    """The check of a code. Raises KeyError when there is none."""
    for check in all_checks():
        if check.code == code:
            return check
    raise KeyError(code)
