"""JSON written in many calls says the same as written in one."""

import json
import random

import pytest

from gondrel.core.work.in_turns import json_in_turns


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
    assert json_in_turns(value) == json.dumps(value, separators=(",", ":"))


@pytest.mark.parametrize("count", [3, 5000])
def test_rows_in_rows_are_written_in_turns(count: int) -> None:
    value = {"a": [{"b": [{"n": n, "m": [n]} for n in range(count)]}] * count}
    assert json_in_turns({"c": value["a"][:9]}) == json.dumps({"c": value["a"][:9]}, separators=(",", ":"))
