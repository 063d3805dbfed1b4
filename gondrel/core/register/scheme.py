"""By which scheme the revisions of a register are called."""

from __future__ import annotations

from sqlalchemy import Connection, insert, select, update

from gondrel.core.errors import UsageError
from gondrel.core.register.errors import RuleBroken
from gondrel.core.register.names import Scheme
from gondrel.core.register.tables import ITEM, SETTING

__all__ = ["choose_scheme", "scheme_of"]

_KEY = "scheme"


def scheme_of(connection: Connection) -> Scheme:
    """The scheme of a register; letters where none was chosen."""
    value = connection.execute(select(SETTING.c.value).where(SETTING.c.key == _KEY)).scalar()
    return Scheme(value) if value in list(Scheme) else Scheme.LETTERS


def choose_scheme(connection: Connection, text: str) -> Scheme:
    """Choose the scheme of a register that is empty.

    Raises:
        UsageError: for an unknown scheme. RuleBroken: when there are revisions already, called by another.
    """
    if text not in list(Scheme):
        raise UsageError(f"there is no scheme {text!r}", hint=f"one of {', '.join(Scheme)}")
    now, chosen = scheme_of(connection), Scheme(text)
    if chosen is now:
        return now
    if connection.execute(select(ITEM.c.id).limit(1)).first() is not None:
        raise RuleBroken(
            f"the register's revisions are called by {now} already",
            hint="a scheme is chosen before the first item is put in",
        )
    if connection.execute(select(SETTING.c.key).where(SETTING.c.key == _KEY)).first() is None:
        connection.execute(insert(SETTING).values(key=_KEY, value=str(chosen)))
    else:
        connection.execute(update(SETTING).where(SETTING.c.key == _KEY).values(value=str(chosen)))
    return chosen
