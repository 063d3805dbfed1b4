"""What became of every record of a STEP file that is read in parts: a census that can be added to."""

from __future__ import annotations

import base64
import json
import zlib
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from gondrel.core.formats.step.kinds import KINDS, kind_of_keyword
from gondrel.core.model.census import MOST_PLACES, Census, Remainder, summed
from gondrel.core.model.codec import from_plain, to_plain

__all__ = ["CARRIED", "NOT_LOADED", "REST", "SERVING", "WAITING", "Codes", "codes_of", "counted"]

WAITING, CARRIED, SERVING, REST = range(4)
"""What became of a record, as a number: what remains is REST and the place of its kind among KINDS."""

NOT_LOADED = "shapes that are not loaded"
"""The kind of the records of shapes that wait."""


@dataclass(frozen=True, slots=True)
class Codes:
    """What became of every record of a file of which parts were read, each on its own.

    Args:
        codes: (n,) by their places in the file.
        where: what remains of a kind and a type hangs on; besides: as a census has it.
    """

    codes: NDArray[np.uint8]
    where: tuple[Remainder, ...] = ()
    besides: tuple[Remainder, ...] = ()

    def joined(self, other: Codes) -> Codes:
        """With what another part says: what is read or serves in one of them does so in the file."""
        ours, theirs = self.codes, other.codes
        taken = np.where((theirs == CARRIED) | (ours == CARRIED), CARRIED, SERVING)
        is_taken = np.isin(ours, (CARRIED, SERVING)) | np.isin(theirs, (CARRIED, SERVING))
        codes = np.where(is_taken, taken, np.where(ours == WAITING, theirs, ours)).astype(np.uint8)
        return Codes(codes, (*self.where, *other.where), tuple(summed((*self.besides, *other.besides))))

    def with_taken(
        self, numbers: NDArray[np.int64], carried: Sequence[int], serving: Sequence[int]
    ) -> Codes:
        """With some records read, and others that serve those, by their numbers."""
        codes = self.codes.copy()
        codes[np.isin(numbers, serving) & (codes != CARRIED)] = SERVING
        codes[np.isin(numbers, carried)] = CARRIED
        return replace(self, codes=codes)

    def packed(self) -> str:
        """As text, for keeping."""
        said = json.dumps([to_plain(each) for each in (*self.where, *self.besides)]).encode()
        head = b"%d %d\n" % (len(said), len(self.where))
        return base64.b85encode(zlib.compress(head + said + self.codes.tobytes(), 6)).decode("ascii")

    @classmethod
    def unpacked(cls, text: str) -> Codes:
        """What packed gave."""
        head, _, rest = zlib.decompress(base64.b85decode(text)).partition(b"\n")
        length, count = map(int, head.split())
        said = [from_plain(each, Remainder) for each in json.loads(rest[:length])]
        return cls(np.frombuffer(rest[length:], np.uint8), tuple(said[:count]), tuple(said[count:]))


def codes_of(
    numbers: NDArray[np.int64], part: NDArray[np.int64], codes: NDArray[np.uint8], census: Census
) -> Codes:
    """What a part says of the records of its whole file.

    Args:
        numbers: those of the records of the whole, each once; part: those of the records of the part.
        codes: what became of those; census: of the part.
    """
    order = np.argsort(numbers, kind="stable")
    places = order[np.searchsorted(numbers[order], part)]
    whole = np.zeros(len(numbers), np.uint8)
    whole[places] = codes
    return Codes(whole, tuple(each for each in census.rest if each.where), census.besides)


def counted(names: list[str], which: NDArray[np.int64], codes: Codes, *, waits: bool) -> Census:
    """The census of a file by what became of its records.

    Args:
        names, which: the keyword of each record, as `Records.keywords` has them.
        waits: whether shapes wait; without that, what no part holds remains by its own kind.
    """
    flags = codes.codes
    where: dict[tuple[str, str], dict[str, None]] = {}
    for each in codes.where:
        where.setdefault((each.kind, each.type), {}).update(dict.fromkeys(each.where))
    rest = []
    for code in np.unique(flags).tolist():
        if code in (CARRIED, SERVING):
            continue
        types, counts = np.unique(which[flags == code], return_counts=True)
        for name, count in zip((names[n] for n in types.tolist()), counts.tolist(), strict=True):
            own = kind_of_keyword(name) if code == WAITING else KINDS[code - REST]
            kind = NOT_LOADED if code == WAITING and waits else own
            rest.append(Remainder(kind, name, count, tuple(where.get((kind, name), ()))[:MOST_PLACES]))
    rest.sort(key=lambda each: (each.kind, not each.where, each.type))
    return Census(
        len(flags), int((flags == CARRIED).sum()), int((flags == SERVING).sum()), summed(rest),
        besides=codes.besides, waiting=codes.packed() if waits else "",
    )  # fmt: skip
