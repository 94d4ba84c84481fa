"""Plain numbers, as people type them."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from molvik.numbers import is_number, read_number


@given(st.floats(allow_nan=False, allow_infinity=False, width=32))
def test_a_number_is_read_with_a_point_or_a_comma(value: float) -> None:
    text = repr(value)
    assert read_number(f" {text} ") == value
    assert read_number(text.replace(".", ",")) == value


@pytest.mark.parametrize("text", ["", "many", "1.000,5", "1,2,3", "nan", "inf", "1e999", "--2"])
def test_what_is_no_number_is_refused_with_an_example(text: str) -> None:
    assert not is_number(text)
    with pytest.raises(ValueError, match=r"is not a price\. Type for example 60"):
        read_number(text, "price", "60")


def test_a_number_outside_its_limits_is_named() -> None:
    assert read_number("12", least=0, most=12) == 12
    with pytest.raises(ValueError, match=r"Price -1 is not possible\. Type, for example, 60"):
        read_number("-1", "price", "60", least=0)
    assert math.isclose(read_number("2,5"), 2.5)
