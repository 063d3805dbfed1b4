"""Settings given as text: what they say, and what is said of those that say nothing."""

from __future__ import annotations

import math

import pytest

from gondrel.core.errors import UsageError
from gondrel.core.service.values import check_keys, choice_of, flag_of, number_of, whole_of, words_of


@pytest.mark.parametrize(("text", "number"), [("0.5", 0.5), ("1e-3", 1e-3), ("7", 7.0), ("", 9.0)])
def test_numbers(text, number) -> None:
    assert number_of({"gap": text}, "gap", 9.0, least=0.0) == number


@pytest.mark.parametrize("text", ["wide", "-1", "nan", "inf", "0,5", "1 mm"])
def test_what_is_no_number_is_refused_with_its_key(text) -> None:
    with pytest.raises(UsageError, match="gap must be a number of 0 or more"):
        number_of({"gap": text}, "gap", 9.0, least=0.0)
    assert not math.isnan(number_of({}, "gap", 9.0, least=0.0))


@pytest.mark.parametrize(("text", "flag"), [
    ("yes", True), ("ON", True), ("true", True), ("no", False), ("Off", False), ("false", False),
    ("", True),
])  # fmt: skip
def test_flags(text, flag) -> None:
    assert flag_of({"smooth": text}, "smooth", True) is flag


@pytest.mark.parametrize("text", ["maybe", "1", "y"])
def test_other_words_are_no_flags(text) -> None:
    with pytest.raises(UsageError, match="yes or no"):
        flag_of({"smooth": text}, "smooth", True)


def test_choices_whole_numbers_and_words() -> None:
    assert choice_of({}, "form", ("structure", "placed")) == "structure"
    assert choice_of({"form": "placed"}, "form", ("structure", "placed")) == "placed"
    with pytest.raises(UsageError) as wrong:
        choice_of({"form": "round"}, "form", ("structure", "placed"))
    assert wrong.value.hint == "one of structure, placed"
    assert whole_of({"finding": "12"}, "finding") == 12
    for text in ("", "1.5", "-3", "two"):
        with pytest.raises(UsageError, match="whole number"):
            whole_of({"finding": text}, "finding")
    assert words_of({"layers": "A, B ,,C"}, "layers") == ("A", "B", "C")
    assert words_of({"layers": ""}, "layers") == () and words_of({}, "layers") is None


def test_unknown_keys_are_named_with_those_there_are() -> None:
    check_keys(("gap",), ("gap", "short"))
    with pytest.raises(UsageError, match="unknown setting 'gaps'") as wrong:
        check_keys(("gap", "gaps"), ("short", "gap"))
    assert wrong.value.hint == "one of gap, short"
