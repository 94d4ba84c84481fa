"""What people type is read as they mean it, or refused in words."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import awg, metric
from molvik.model.parts import WireSize
from molvik.parsing.quantities import (
    QuantityError,
    read_current_a,
    read_length_m,
    read_ohm,
    read_size,
    read_temperature_c,
)


@pytest.mark.parametrize(
    ("text", "metres"),
    [
        ("0.62 m", 0.62),
        ("0,62", 0.62),
        ("62cm", 0.62),
        ("620 mm", 0.62),
        ("22 in", 22 * 0.0254),
        ('22"', 22 * 0.0254),
        ("4 ft 2 in", 50 * 0.0254),
        ("4' 2\"", 50 * 0.0254),
    ],
)
def test_lengths(text: str, metres: float) -> None:
    # One inch is 25.4 mm exactly (international yard and pound agreement, 1959).
    assert read_length_m(text) == pytest.approx(metres)


@pytest.mark.parametrize("text", ["", "long", "-1 m", "0", "nan", "5 kg", "900 m", "3 m x"])
def test_what_is_no_length_is_refused_in_words(text: str) -> None:
    with pytest.raises(QuantityError, match="m") as refusal:
        read_length_m(text)
    assert len(str(refusal.value)) > 20


@pytest.mark.parametrize(
    ("text", "size"),
    [
        ("14 AWG", awg(14)),
        ("AWG14", awg(14)),
        ("#14", awg(14)),
        ("14ga", awg(14)),
        ("4/0", awg(-3)),
        ("1/0 AWG", awg(0)),
        ("35mm2", metric(35)),
        ("2,5 mm²", metric(2.5)),
        ("0.75", metric(0.75)),
    ],
)
def test_sizes(text: str, size: WireSize) -> None:
    assert read_size(text) == size


@pytest.mark.parametrize("text", ["16", "10", "x", "-2 mm2", "14.5 AWG", "99 AWG", "0 mm2", "1e9"])
def test_a_size_that_could_be_two_things_or_none_is_refused(text: str) -> None:
    with pytest.raises(QuantityError):
        read_size(text)


def test_a_bare_number_takes_the_unit_of_its_column() -> None:
    assert read_size("16", "awg") == awg(16)
    assert read_size("16", "metric") == metric(16)


@given(
    st.one_of(st.builds(awg, st.integers(-3, 40)), st.builds(metric, st.sampled_from([0.35, 6])))
)
def test_a_size_is_read_back_as_it_is_written(size: WireSize) -> None:
    assert read_size(str(size)) == size


@pytest.mark.parametrize(
    ("text", "ohm"),
    [
        ("0.3", 0.3),
        ("450 mohm", 0.45),
        ("0,31 Ω", 0.31),
        ("1.2 kohm", 1200),
        ("OL", None),
        ("open", None),
    ],
)
def test_meter_readings(text: str, ohm: float | None) -> None:
    value = read_ohm(text)
    assert value == (None if ohm is None else pytest.approx(ohm))


def test_a_resistance_below_zero_is_a_meter_that_was_not_zeroed() -> None:
    with pytest.raises(QuantityError, match="below zero"):
        read_ohm("-0.1")


def test_currents_and_temperatures() -> None:
    assert read_current_a("350 mA") == pytest.approx(0.35)
    assert read_temperature_c("140 F") == pytest.approx(60)
    assert read_temperature_c("60 °C") == 60
    with pytest.raises(QuantityError):
        read_temperature_c("900")
