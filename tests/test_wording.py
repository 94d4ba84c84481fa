"""How lists and figures are said."""

import pytest

from molvik.wording import figures, some


@pytest.mark.parametrize(
    ("value", "digits", "said"),
    [(2000.0, 3, "2000"), (1234.0, 3, "1230"), (120.0, 2, "120"), (0.2144, 3, "0.214"),
     (11.2, 3, "11.2"), (0.0, 3, "0"), (-1e6, 3, "-1000000")],
)  # fmt: skip
def test_figures_are_written_out(value: float, digits: int, said: str) -> None:
    assert figures(value, digits) == said


def test_some_names_say_how_many_more_there_are() -> None:
    assert some(["W1", "W2"], 2) == "W1, W2"
    assert some(["W1", "W2", "W3"], 2, "; ") == "W1; W2 and 1 more"
    assert some([]) == ""
