"""Bundles against the published grouping factors; transients against the exact and the numerical
solution; a fault at the far end of a wire.
"""

import itertools
import math

import numpy
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp
from scipy.optimize import brentq

from conftest import awg, metric
from molvik.electrical.bundle import Core, bundle_temperatures_c
from molvik.electrical.conductor import area_mm2, resistance_20_ohm_per_m
from molvik.electrical.fusing import slowest_s
from molvik.electrical.heat import conductor_temperature_c, current_for_temperature_a
from molvik.electrical.root import root
from molvik.electrical.transient import (
    COPPER_J_PER_M_MM2_K,
    MELTS_C,
    loss_w_per_m_k,
    seconds_to_c,
    temperature_after_c,
)
from molvik.model.job import Job
from molvik.model.parts import Device, End, Fuse, Wire, WireSize
from molvik.netlist.network import Network
from molvik.reference.bundles import CIRCLE_RATIO, across_mm
from molvik.reference.fuses import TIME_LIMITS
from molvik.reference.insulation import insulation
from molvik.sizes.short import FarShort, far_short
from molvik.sizes.sizing_case import sizing_case
from test_alive import DIRECT, job_of

C125 = insulation("C125")

# IEC 60364-5-52, table B.52.17, all loaded, in air (from memory).
GROUPING = {
    2: 0.80,
    3: 0.70,
    4: 0.65,
    5: 0.60,
    6: 0.57,
    7: 0.54,
    8: 0.52,
    9: 0.50,
    12: 0.45,
    16: 0.41,
    20: 0.38,
}


def bundle_current_a(mm2: float, number: int, conductor_c: float, ambient_c: float) -> float:
    """Return the current that brings equal wires together to a temperature."""

    def over(amps: float) -> float:
        cores = [Core(metric(mm2), C125, amps)] * number
        return bundle_temperatures_c(cores, ambient_c)[0] - conductor_c

    return float(brentq(over, 1e-3, 1000.0, xtol=1e-3))


def melts_a(size: WireSize, seconds: float, ambient_c: float) -> float:
    """Onderdonk: 33 (I / A)^2 S = log10((Tm - Ta) / (234 + Ta) + 1), A in circular mils."""
    circular_mils = area_mm2(size) / 5.067075e-4
    rise = math.log10((MELTS_C - ambient_c) / (234 + ambient_c) + 1)
    return circular_mils * math.sqrt(rise / (33 * seconds))


@pytest.mark.parametrize(("number", "factor"), GROUPING.items())
@pytest.mark.parametrize("size", [0.75, 2.5, 6])
def test_a_bundle_is_grouped_as_the_standard_does(number: int, factor: float, size: float) -> None:
    """Within 10 %; on the safe side of the table from 7 to 12 wires, 8 % above it for two."""
    alone = current_for_temperature_a(metric(size), C125, 90, 30)
    together = bundle_current_a(size, number, 90, 30)
    assert together / alone == pytest.approx(factor, rel=0.10)


def test_one_wire_is_no_bundle() -> None:
    alone = conductor_temperature_c(metric(1), C125, 10, 60)
    assert bundle_temperatures_c([Core(metric(1), C125, 10)], 60) == [alone]


SOME = st.tuples(st.sampled_from([0.5, 1, 2.5, 6]), st.floats(0, 20))


@given(st.lists(SOME, min_size=2, max_size=8), st.floats(0, 80))
def test_company_never_cools_a_wire(wires: list[tuple[float, float]], air: float) -> None:
    cores = [Core(metric(size), C125, amps) for size, amps in wires]
    for core, hot in zip(cores, bundle_temperatures_c(cores, air), strict=True):
        assert hot >= conductor_temperature_c(core.size, C125, core.amps, air) - 0.1


def test_a_covering_makes_it_hotter_and_nothing_makes_it_air() -> None:
    cores = [Core(metric(1), C125, 8.0)] * 4
    bare, covered = (bundle_temperatures_c(cores, 40, mm)[0] for mm in (0.0, 2.0))
    assert covered > bare > 40
    assert bundle_temperatures_c([Core(metric(1), C125, 0.0)] * 3, 40) == [40] * 3
    assert bundle_temperatures_c([Core(metric(0.5), C125, 200.0)] * 3, 40) == [1000.0] * 3


def test_known_packings_are_used_for_equal_wires() -> None:
    for number, ratio in CIRCLE_RATIO.items():
        assert across_mm([2.0] * number) == pytest.approx(2 * ratio)
    assert across_mm([5.0, 1.0]) == pytest.approx(6.0)


@pytest.mark.parametrize(("number", "ratio"), CIRCLE_RATIO.items())
def test_wires_that_are_all_but_equal_lie_as_equal_ones_do(number: int, ratio: float) -> None:
    """Never narrower than the best known packing, and from 20 on at most 4 % wider."""
    across = across_mm([2.0] * (number - 1) + [2.0001])
    assert across >= 2 * ratio * 0.9999
    if number >= 20:
        assert across <= 2 * ratio * 1.04


@given(st.lists(st.floats(1.0, 12.0), min_size=2, max_size=70), st.booleans(), st.data())
def test_a_bundle_with_fewer_wires_is_never_wider(
    widths: list[float], alike: bool, data: st.DataObject
) -> None:
    lying = [widths[0]] * len(widths) if alike else widths
    out = data.draw(st.integers(0, len(lying) - 1))
    assert across_mm(lying[:out] + lying[out + 1 :]) <= across_mm(lying) * (1 + 1e-9)


# Transients.


@pytest.mark.parametrize(("amps", "seconds"), [(20, 30), (60, 5), (120, 1), (300, 0.2)])
def test_a_transient_agrees_with_a_numerical_integration(amps: float, seconds: float) -> None:
    size, start, air = metric(1), 60.0, 60.0
    loss, capacity = loss_w_per_m_k(size, C125, air), COPPER_J_PER_M_MM2_K * 1

    def slope(
        _: float, hot: "numpy.ndarray[tuple[int], numpy.dtype[numpy.float64]]"
    ) -> list[float]:
        ohm = resistance_20_ohm_per_m(size) * (1 + 0.00393 * (hot[0] - 20))
        return [(amps**2 * ohm - loss * (hot[0] - air)) / capacity]

    found = solve_ivp(slope, (0, seconds), [start], rtol=1e-9, atol=1e-9).y[0][-1]
    ours = temperature_after_c(size, C125, amps, seconds, start, air)
    assert ours == pytest.approx(min(float(found), MELTS_C), rel=1e-6)


def test_a_body_that_does_not_heat_cools_as_an_exponential() -> None:
    # Without current: T = air + (start - air) exp(-G t / C), the exact solution.
    size, air = metric(2.5), 30.0
    tau = COPPER_J_PER_M_MM2_K * 2.5 / loss_w_per_m_k(size, C125, air)
    found = temperature_after_c(size, C125, 0.0, tau, 100.0, air)
    assert found == pytest.approx(air + 70 * math.exp(-1), rel=1e-9)


def test_for_ever_is_the_steady_state() -> None:
    size, air = metric(1), 60.0
    amps = current_for_temperature_a(size, C125, C125.limit_c, air)
    assert temperature_after_c(size, C125, amps, 1e5, air, air) == pytest.approx(125, abs=0.1)
    assert seconds_to_c(size, C125, amps * 0.9, 125, air, air) == math.inf
    assert seconds_to_c(size, C125, amps * 2, 125, 130, air) == 0.0


@pytest.mark.parametrize("number", [20, 14, 8])
def test_a_short_heats_as_iec_60364_says(number: int) -> None:
    # I2t = k2 A2, k 143 from 90 to 250 deg C (IEC 60364-4-43, from memory): within 6 %.
    size = awg(number)
    amps = 143 * area_mm2(size) / math.sqrt(0.1)
    assert temperature_after_c(size, C125, amps, 0.1, 90, 25) == pytest.approx(250, rel=0.06)


@pytest.mark.parametrize("number", [20, 14, 8])
def test_copper_melts_as_onderdonk_says(number: int) -> None:
    # Onderdonk's constant holds for the copper of his day: within 10 % in a tenth of a second.
    size = awg(number)
    seconds = seconds_to_c(size, C125, melts_a(size, 0.1, 25), MELTS_C - 1, 25, 25)
    assert seconds == pytest.approx(0.1, rel=0.20)


def test_cranking_warms_a_starter_cable_by_little() -> None:
    # 10 s at 300 A through 35 mm2: I2 R t / C, about 4 K.
    found = temperature_after_c(metric(35), C125, 300, 10, 40, 40)
    simple = 300**2 * 0.527e-3 * 10 / (3.45 * 35)
    assert found - 40 == pytest.approx(simple, rel=0.15)


# A short at the far end.


@pytest.mark.parametrize("kind", ["blade", "bolt-down"])
def test_the_slowest_curve_goes_through_the_published_points(kind: str) -> None:
    # ISO 8820-3 and 8820-5.
    for limit in TIME_LIMITS[kind]:
        if limit.most_s is not None:
            assert slowest_s(kind, limit.multiple) == pytest.approx(limit.most_s)
    assert slowest_s(kind, 1.2) == math.inf
    times = [slowest_s(kind, 1.35 + step / 20) for step in range(400)]
    assert all(a >= b for a, b in itertools.pairwise(times))


def fed(mm2: float, length_m: float, rating_a: float) -> tuple[Job, Wire]:
    lamp = Device("D3", "Lamp", "lamp", ("+", "-"))
    thin = Wire(
        "W2",
        End("F1", "out"),
        End("D3", "+"),
        insulation="A85",
        size=metric(mm2),
        length_m=length_m,
    )
    job = job_of(DIRECT, lamp, fuses=(Fuse("F1", "Lamp", rating_a),))
    wires = tuple(thin if wire.code == "W2" else wire for wire in job.wires)
    return Job("x", devices=job.devices, fuses=job.fuses, earths=job.earths, wires=wires), thin


def shorted(job: Job, wire: Wire) -> FarShort:
    network = Network(job)
    found = far_short(network, wire, sizing_case(network, wire))
    assert found is not None, wire
    return found


def test_what_flows_in_a_short_is_what_the_way_lets_through() -> None:
    job, thin = fed(1, 4, 10)
    found = shorted(job, thin)
    # 12.6 V over: battery 12 mohm, a metre of 2.5 mm2 at either side, the fuse 0.1 V / 10 A, four
    # metres of 1 mm2, and metal.
    # All copper as hot as its insulation bears: 80 deg C where that is not known, 85 in class A.
    hot, thin_hot = 1 + 0.00393 * 60, 1 + 0.00393 * 65
    around = 0.012 + 2 * 7.60e-3 * hot + 0.01 + 4 * 18.5e-3 * thin_hot + 0.0005
    assert found.amps == pytest.approx(12.6 / around, rel=1e-3)
    assert found.guarded


def test_ten_amperes_and_a_long_thin_wire() -> None:
    # 8 m of 0.35 mm2 let some 20 A through: the fuse may take more than a second.
    job, thin = fed(0.35, 8, 10)
    found = shorted(job, thin)
    assert 18 < found.amps < 25
    assert found.opens_s > 0.5
    # The longer it is, the less flows; at last the fuse need never open.
    job, longer = fed(0.35, 20, 10)
    last = shorted(job, longer)
    assert last.opens_s == math.inf
    assert not last.cleared
    assert last.guarded  # what flows is no more than it stands for ever
    job, stout = fed(2.5, 20, 10)
    kept = shorted(job, stout)
    assert kept.guarded


def test_without_a_fuse_or_a_size_there_is_nothing_to_say() -> None:
    job = job_of("D1/+ D3/+, D3/- E1, E1 D1/-", Device("D3", "Lamp", "lamp", ("+", "-")))
    for network, wire in ((Network(job), job.wires[0]), (Network(Job("x")), Wire("W1"))):
        assert far_short(network, wire, sizing_case(network, wire)) is None


ROOTS = st.floats(-50, 50)


@given(ROOTS, st.floats(0.01, 80), st.floats(0.01, 80), st.integers(0, 4), st.floats(1e-6, 1e-2))
def test_roots_are_found_where_scipy_finds_them(
    zero: float, below: float, above: float, bend: int, close: float
) -> None:
    """The reference is scipy.optimize.brentq."""
    asked: list[float] = []

    def function(x: float) -> float:
        asked.append(x)
        shapes = (
            x - zero,
            (x - zero) ** 3,
            math.atan(9 * (x - zero)),
            math.exp((x - zero) / 9) - 1,
            math.copysign(abs(x - zero) ** 0.5, x - zero),
        )
        return shapes[bend]

    low, high = zero - below, zero + above
    found = root(function, low, high, close)
    steps = len(asked)
    assert found == pytest.approx(brentq(function, low, high, xtol=1e-9, maxiter=5000), abs=close)
    assert min(asked) >= low
    assert max(asked) <= high
    assert bend or steps <= 9, "a straight line is met at once, not by halving"
    assert steps <= 3 + 2 * math.ceil(math.log2((high - low) / close)), "halving would be quicker"


def test_a_root_that_is_not_there_is_refused() -> None:
    with pytest.raises(ValueError, match="no zero between 1 and 2"):
        root(lambda x: x, 1.0, 2.0, 1e-3)
    with pytest.raises(ValueError, match="no"):
        root(lambda x: math.nan if 0 < x < 2 else x - 1, 0.0, 2.0, 1e-3)
    assert root(lambda x: x, 0.0, 2.0, 1e-3) == 0.0
    assert root(lambda x: x - 2, 0.0, 2.0, 1e-3) == 2.0
