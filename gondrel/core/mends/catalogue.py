"""Every mend there is, found by itself."""

from __future__ import annotations

import pkgutil
from functools import cache
from importlib import import_module

from gondrel.core.mends import actions
from gondrel.core.mends.base import BodyMend, ModelMend

__all__ = ["all_mends"]


@cache
def all_mends() -> tuple[BodyMend | ModelMend, ...]:
    """Every mend, in the order in which they are tried. Raises ValueError when two have the same code."""
    mends: dict[str, BodyMend | ModelMend] = {}
    for module in pkgutil.iter_modules(actions.__path__):
        mend: BodyMend | ModelMend = import_module(f"{actions.__name__}.{module.name}").MEND
        if mend.code in mends:
            raise ValueError(f"two mends have the code {mend.code}")
        mends[mend.code] = mend
    return tuple(sorted(mends.values(), key=lambda mend: mend.order))
