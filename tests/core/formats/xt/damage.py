"""Makes damaged files out of sound ones."""

from __future__ import annotations

import random
import re


def damaged(data: bytes, chance: random.Random) -> bytes:
    """One file damaged in one of five ways, or in several."""
    start = data.index(b"\n", data.index(b"**END_OF_HEADER")) + 1
    head, body = data[:start], bytearray(data[start:])
    for _ in range(chance.choice((1, 1, 1, 2, 5))):
        way = chance.choice((_flip, _cut, _swap, _huge, _point))
        body = bytearray(way(body, chance))
    return head + bytes(body)


def _flip(body: bytearray, chance: random.Random) -> bytes:
    if body:
        body[chance.randrange(len(body))] = chance.randrange(256)
    return bytes(body)


def _cut(body: bytearray, chance: random.Random) -> bytes:
    return bytes(body[: chance.randrange(len(body) + 1)])


def _swap(body: bytearray, chance: random.Random) -> bytes:
    tokens = bytes(body).split(b" ")
    if len(tokens) > 2:
        one, other = chance.randrange(len(tokens)), chance.randrange(len(tokens))
        tokens[one], tokens[other] = tokens[other], tokens[one]
    return b" ".join(tokens)


def _huge(body: bytearray, chance: random.Random) -> bytes:
    found = list(re.finditer(rb"(?<= )\d+(?= )", bytes(body)))
    if not found:
        return bytes(body)
    at = chance.choice(found)
    value = chance.choice((b"999999999", b"2147483647", b"-1", b"1e308", b"0"))
    return bytes(body[: at.start()]) + value + bytes(body[at.end() :])


def _point(body: bytearray, chance: random.Random) -> bytes:
    """A number becomes another small one: pointers go astray and round in circles."""
    found = list(re.finditer(rb"(?<= )\d{1,3}(?= )", bytes(body)))
    if not found:
        return bytes(body)
    at = chance.choice(found)
    return bytes(body[: at.start()]) + str(chance.randrange(200)).encode() + bytes(body[at.end() :])
