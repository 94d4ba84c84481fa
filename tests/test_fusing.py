"""Fuses and the wires behind them."""

import math

import numpy
import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import metric
from molvik.electrical.conductor import area_mm2, strand_diameter_mm
from molvik.electrical.fusing import (
    ADIABATIC_S,
    SOAKED_S,
    _soaks_j_per_m_k,
    choose_fuse,
    largest_protecting_a,
    smallest_carrying_a,
    withstand_a,
)
from molvik.electrical.heat import current_for_temperature_a, outside_diameter_mm
from molvik.model.parts import WireSize
from molvik.reference.copper import METRIC_SIZES
from molvik.reference.fuses import BODY_COLOURS, RATINGS_A, TIME_LIMITS
from molvik.reference.insulation import HEAT_CROSS_LINKED, HEAT_PVC, INSULATIONS, K_PVC, insulation

# ISO 8820-3, blade: multiple of the rating, least and most seconds (from memory).
ISO_8820_3 = [
    (1.10, 360_000, None),
    (1.35, 0.75, 600),
    (1.60, 0.25, 50),
    (2.0, 0.15, 5),
    (3.5, 0.04, 0.5),
    (6.0, 0, 0.1),
]
# ISO 8820-5, bolt-down SF51 (from memory).
ISO_8820_5 = [(1.0, 14_400, None), (1.35, 120, 1800), (2.0, 1, 15), (3.5, 0.3, 5), (6.0, 0.1, 1)]


def test_time_limits_are_those_of_iso_8820() -> None:
    assert [tuple(limit) for limit in TIME_LIMITS["blade"]] == ISO_8820_3
    assert [tuple(limit) for limit in TIME_LIMITS["bolt-down"]] == ISO_8820_5


def test_body_colours_are_those_of_iso_8820_3() -> None:
    assert BODY_COLOURS[10] == "red"
    assert BODY_COLOURS[15] == "blue"
    assert BODY_COLOURS[20] == "yellow"
    assert set(BODY_COLOURS) <= set(RATINGS_A["blade"])


def test_seconds_are_judged_by_iec_60364_4_43() -> None:
    # I2 t = k2 A2 with k 115 for PVC: 2.5 mm2 for 1 s withstands 287.5 A.
    assert withstand_a(metric(2.5), INSULATIONS["GPT"], 30, 1) == pytest.approx(287.5)


@given(size=st.sampled_from(METRIC_SIZES), kind=st.sampled_from(sorted(INSULATIONS)))
def test_the_longer_a_current_lasts_the_less_a_wire_withstands(size: WireSize, kind: str) -> None:
    times = (0.1, 0.5, 5, 15, 50, 600, 1800)
    borne = [withstand_a(size, INSULATIONS[kind], 60, seconds) for seconds in times]
    # From adiabatic to transient the assumptions change: only within each is the order certain.
    assert borne[:3] == sorted(borne[:3], reverse=True)
    assert borne[3:] == sorted(borne[3:], reverse=True)


@given(
    size=st.sampled_from(METRIC_SIZES),
    kind=st.sampled_from(sorted(INSULATIONS)),
    ambient=st.floats(20, 70),
    fuse=st.sampled_from(["blade", "bolt-down"]),
)
def test_a_protecting_fuse_opens_before_the_wire_is_harmed(
    size: WireSize, kind: str, ambient: float, fuse: str
) -> None:
    insulation = INSULATIONS[kind]
    rating = largest_protecting_a(size, insulation, ambient, fuse)
    # Class and 25 K for the 240 h of short-term ageing (ISO 6722-1, from memory): an overload that
    # the fuse carries for ever is found long before.
    days_c = insulation.limit_c + 25
    # What a blade carries at least 100 h it may carry for ever. Ratings have three figures.
    for_ever = 1.10 if fuse == "blade" else 1.0
    bears = current_for_temperature_a(size, insulation, days_c, ambient)
    assert 0 < for_ever * rating <= bears * 1.005
    for multiple, _, most in TIME_LIMITS[fuse]:
        if most is not None and most <= 5:
            assert (multiple * rating) ** 2 * most <= (insulation.k * area_mm2(size)) ** 2 * 1.01


@pytest.mark.parametrize(
    ("load", "rating"),
    [(0.5, 1), (4, 5), (8, 10), (8.1, 15), (12, 15), (32, 40), (33, 50), (65, None)],
)
def test_a_fuse_carries_at_most_four_fifths_of_its_rating(load: float, rating: object) -> None:
    # Common practice: continuous load at most 75 to 80 % of the rating.
    assert smallest_carrying_a(load, "blade") == rating


def test_the_fuse_chosen_carries_and_protects_or_there_is_none() -> None:
    thin, thick = metric(0.5), metric(4)
    kind = INSULATIONS["GPT"]
    assert choose_fuse(thick, kind, 40, 12) == ("blade", 15)
    assert choose_fuse(thin, kind, 40, 12) is None


@pytest.mark.parametrize("mm2", [0.35, 2.5, 16.0])
@pytest.mark.parametrize("code", ["GPT", "C125"])
def test_insulation_takes_the_heat_of_its_mean_temperature_between_copper_and_air(
    mm2: float, code: str
) -> None:
    """IEC 60853-2: temperature falls with the logarithm of the radius; summed over thin rings."""
    size, kind = metric(mm2), insulation(code)
    inner, outer = strand_diameter_mm(size) / 2, outside_diameter_mm(size, kind) / 2
    radii = numpy.linspace(inner, outer, 20_001)
    middle = (radii[1:] + radii[:-1]) / 2
    rings = math.pi * (radii[1:] ** 2 - radii[:-1] ** 2)
    kelvin = numpy.log(outer / middle) / math.log(outer / inner)
    takes = HEAT_PVC if kind.k <= K_PVC else HEAT_CROSS_LINKED
    whole = takes * float((rings * kelvin).sum()) * 1e-6
    assert _soaks_j_per_m_k(size, kind, SOAKED_S) == pytest.approx(whole, rel=1e-3)
    assert _soaks_j_per_m_k(size, kind, 10 * SOAKED_S) == pytest.approx(whole, rel=1e-3)
    assert _soaks_j_per_m_k(size, kind, ADIABATIC_S) == 0.0
    between = math.sqrt(ADIABATIC_S * SOAKED_S)
    assert _soaks_j_per_m_k(size, kind, between) == pytest.approx(whole / 2, rel=1e-3)
