"""JSON written in many calls says the same as written in one, and others get their turns meanwhile."""

import json
import random
import time

import pytest

from gondrel.core.work.in_turns import Turns, json_in_turns

_NEVER = Turns(lambda: None)


def _grown(chance: random.Random, depth: int) -> object:
    kind = chance.choice(["dict", "list", "rows"]) if depth else "plain"
    if kind == "dict":
        return {f'key "{n}"': _grown(chance, depth - 1) for n in range(chance.randrange(3))}
    if kind == "list":
        return [_grown(chance, depth - 1) for _ in range(chance.randrange(3))]
    if kind == "rows":
        return [{"n": n} for n in range(chance.choice([0, 3, 450]))]
    return chance.choice([None, True, 1, 1.5e-9, "text, with é and \\", [], {}])


@pytest.mark.parametrize("seed", range(40))
def test_it_says_the_same_as_the_encoder_does_at_once(seed: int) -> None:
    value = _grown(random.Random(seed), 12)
    assert json_in_turns(value, _NEVER) == json.dumps(value, separators=(",", ":"))


@pytest.mark.parametrize("count", [3, 5000])
def test_rows_in_rows_are_written_in_turns(count: int) -> None:
    value = {"a": [{"b": [{"n": n, "m": [n]} for n in range(count)]}] * count}
    assert json_in_turns({"c": value["a"][:9]}, _NEVER) == json.dumps(
        {"c": value["a"][:9]}, separators=(",", ":")
    )


def test_others_have_their_turn_after_some_milliseconds_of_work() -> None:
    given: list[float] = []
    began = time.perf_counter()
    turn = Turns(lambda: given.append(time.perf_counter()))
    turn()
    while not given:
        turn()
    assert given[0] - began >= 0.004
    turn()
    assert len(given) == 1  # the next turn has only begun


def test_a_document_is_written_with_turns_between_its_pieces() -> None:
    called: list[int] = []
    json_in_turns([[{"n": n} for n in range(5000)] for _ in range(3)], lambda: called.append(1))
    assert len(called) > 3 * 5000 / 200
