"""A wire where it runs: its place, its bundle, how long it is loaded, and its whole path."""

import itertools
import math
from collections.abc import Callable
from typing import get_args

import numpy
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from scipy.integrate import solve_ivp
from scipy.optimize import brentq

from conftest import awg, found, metric, small_job, type_field, wire, wire_card
from molvik.analysis import Analysis
from molvik.desktop.dialogs.jobsettings import JobSettings
from molvik.desktop.window import MainWindow
from molvik.electrical.bundle import (
    ALONE,
    Core,
    Neighbours,
    allowed_a,
    hottest_c,
    neighbours_of_each,
)
from molvik.electrical.conductor import (
    area_mm2,
    resistance_20_ohm_per_m,
    resistance_ohm_per_m,
)
from molvik.electrical.heat import conductor_temperature_c, current_for_temperature_a
from molvik.electrical.transient import (
    duty_allowed_a,
    duty_peak_c,
    loss_w_per_m_k,
    rms_share,
)
from molvik.findings import find_all
from molvik.model.edits import EditError, change_settings, change_wire
from molvik.model.job import Job, Settings
from molvik.model.parts import Bundle, Device, End, Fuse, Output, SizeSystem, Splice, Wire, WireSize
from molvik.model.routing import Routing
from molvik.model.wire_edits import change_bundle
from molvik.netlist.network import Network
from molvik.parsing.quantities import QuantityError, read_duty_s
from molvik.reference.copper import METRIC_SIZES
from molvik.reference.insulation import INSULATIONS, UNKNOWN, insulation
from molvik.reference.limits import USES
from molvik.sizes.bundles import bundle_summary
from molvik.sizes.hot import temperature_c
from molvik.sizes.resize import resized, resizes
from molvik.sizes.sizing_case import Installation, SizingCase, sizing_case
from molvik.sizes.wire import judge, largest_fuse_a, smallest
from test_alive import DIRECT, LAMP, job_of

# Places


def cases_of(job: Job) -> dict[str, SizingCase]:
    return Analysis(job).electrics.sizing_cases


def test_the_air_is_that_of_the_place_and_can_be_the_jobs_own() -> None:
    wire = Wire("W1", size=metric(1), load_a=5, length_m=1)

    def air(job: Job, one: Wire) -> float:
        return sizing_case(Network(job), one).ambient_c

    job = Job("x")
    assert air(job, wire) == 60  # the engine bay
    assert air(job, replace(wire, place="exhaust")) == 110
    assert air(job, replace(wire, place="exhaust", ambient_c=90.0)) == 90
    hot = change_settings(job, air_c=(("exhaust", 140.0),), ambient_c=70.0)
    assert air(hot, replace(wire, place="exhaust")) == 140
    assert air(hot, wire) == 70
    lying = replace(job, bundles=(Bundle("rear", "tank"),))
    assert air(lying, replace(wire, bundle="rear")) == 45
    assert air(lying, replace(wire, bundle="rear", place="cabin")) == 45


def test_beside_the_exhaust_a_wire_carries_less() -> None:
    wire = Wire("W1", size=metric(1), load_a=5, length_m=1, insulation="C125")
    network = Network(Job("x"))
    cool = judge(metric(1), sizing_case(network, wire))
    hot = judge(metric(1), sizing_case(network, replace(wire, place="exhaust")))
    heat = [next(c for c in one.criteria if c.name == "heat") for one in (cool, hot)]
    assert heat[0].margin > heat[1].margin
    assert "beside the exhaust" in heat[1].why


# Bundles


cores = st.builds(
    Core,
    st.sampled_from(METRIC_SIZES[:10]),
    st.sampled_from(list(INSULATIONS.values())),
    st.floats(0.0, 12.0),
)


@given(st.lists(cores, min_size=2, max_size=12), st.floats(20, 70), st.sampled_from([0.0, 1.5]))
def test_what_a_wire_may_carry_in_a_bundle_brings_it_to_its_limit(
    lying: list[Core], ambient_c: float, cover: float
) -> None:
    one, neighbours = lying[0], neighbours_of_each(lying, cover)[0]
    limit_c = one.kind.limit_c
    amps = allowed_a(one.size, one.kind, limit_c, ambient_c, neighbours)
    reached = hottest_c(one._replace(amps=amps), ambient_c, neighbours)
    if amps > 0:
        assert reached == pytest.approx(limit_c, abs=0.5)
    else:
        assert reached >= limit_c - 0.5
    assert amps <= current_for_temperature_a(one.size, one.kind, limit_c, ambient_c) + 1e-9


@given(st.lists(cores, min_size=2, max_size=12))
def test_more_neighbours_and_a_covering_never_cool(lying: list[Core]) -> None:
    one = lying[0]
    alone = hottest_c(one, 60, Neighbours())
    few = hottest_c(one, 60, neighbours_of_each(lying[:2])[0])
    many = hottest_c(one, 60, neighbours_of_each(lying)[0])
    covered = hottest_c(one, 60, neighbours_of_each(lying, 1.5)[0])
    assert alone <= few + 1e-6
    assert alone <= many + 1e-6
    assert many <= covered + 1e-6


def bundle_job(count: int, amps: float, **fields: object) -> Job:
    devices = tuple(Device(f"D{n + 60}", f"Lamp {n}", "lamp", ("+", "-")) for n in range(count))
    wires = tuple(
        Wire(
            f"W{n}",
            End("F1", "out"),
            End(f"D{n + 60}", "+"),
            size=metric(1),
            insulation="B100",
            length_m=2,
            load_a=amps,
            bundle="front",
        )
        for n in range(1, count)
    )
    return Job("x", devices=devices, fuses=(Fuse("F1", "x", 40),), wires=wires, **fields)  # type: ignore[arg-type]


def test_a_wire_that_passes_alone_may_fail_in_its_bundle() -> None:
    job = bundle_job(13, 9.0)
    inside = Analysis(job).electrics.sizings["W1"]
    apart = replace(job, wires=tuple(replace(wire, bundle="") for wire in job.wires))
    outside = Analysis(apart).electrics.sizings["W1"]

    def heat(sizing: object) -> object:
        return next(c for c in sizing.criteria if c.name == "heat")  # type: ignore[attr-defined]

    assert heat(outside).passes  # type: ignore[attr-defined]
    assert not heat(inside).passes  # type: ignore[attr-defined]
    assert "front with 11 more" in heat(inside).why  # type: ignore[attr-defined]


def test_the_hottest_wire_of_the_real_bundle_is_named() -> None:
    job = bundle_job(6, 3.0)
    job = change_wire(job, "W3", load_a=9.0, insulation="A85")
    found = bundle_summary(Network(job), "front", {})
    assert found is not None
    assert found.hottest == "W3"
    assert len(found.wires) == 5
    covered = change_bundle(job, "front", covering="split tube", place="exhaust")
    hotter = bundle_summary(Network(covered), "front", {})
    assert hotter is not None
    assert hotter.hottest_c > found.hottest_c + 45  # the air alone is 50 K warmer
    assert hotter.across_mm == pytest.approx(found.across_mm + 3)
    assert bundle_summary(Network(job), "none", {}) is None
    with pytest.raises(EditError, match="name first"):
        change_bundle(job, "", covering="tape")


# Loaded for a while


@pytest.mark.parametrize(
    ("mm2", "amps", "on_s", "off_s"), [(25, 350, 15, 60), (2.5, 40, 30, 300), (1, 14, 600, 300)]
)
def test_a_load_that_comes_and_goes_against_scipy(
    mm2: float, amps: float, on_s: float, off_s: float
) -> None:
    # Many cycles integrated by SciPy: the peak they settle at is the fixed point found at once.
    size, kind, air = metric(mm2), insulation("C125"), 60.0
    heat = 3.45 * area_mm2(size)
    loss = loss_w_per_m_k(size, kind, air)
    ohm = resistance_20_ohm_per_m(size)

    def slope(current: float) -> Callable[[float, numpy.ndarray], numpy.ndarray]:
        def at(_: float, c: numpy.ndarray) -> numpy.ndarray:
            made = current**2 * ohm * (1 + 0.00393 * (c - 20))
            return (made - loss * (c - air)) / heat

        return at

    hot = air
    peak = 0.0
    for _ in range(80):
        rise = solve_ivp(slope(amps), (0, on_s), [hot], rtol=1e-8, atol=1e-8)
        peak = float(rise.y[0][-1])
        fall = solve_ivp(slope(0.0), (0, off_s), [peak], rtol=1e-8, atol=1e-8)
        hot = float(fall.y[0][-1])
    assert duty_peak_c(size, kind, amps, (on_s, off_s), air) == pytest.approx(peak, abs=0.1)


@given(
    st.sampled_from(METRIC_SIZES),
    st.sampled_from(sorted(INSULATIONS)),
    st.floats(5, 900),
    st.floats(5, 900),
)
def test_a_rest_never_allows_less_and_the_limit_is_met(
    size: WireSize, code: str, on_s: float, off_s: float
) -> None:
    kind = INSULATIONS[code]
    steady = current_for_temperature_a(size, kind, kind.limit_c, 60)
    amps = duty_allowed_a(size, kind, kind.limit_c, (on_s, off_s), 60)
    assert amps >= steady * 0.999
    peak = duty_peak_c(size, kind, amps, (on_s, off_s), 60)
    assert peak == pytest.approx(kind.limit_c, abs=0.5)


def test_a_starter_cable_is_judged_for_an_attempt_not_for_ever() -> None:
    # Common practice: 25 mm2 cranks an engine that takes 250 A, which it could not carry for hours.
    wire = Wire("W1", size=metric(25), load_a=250, length_m=1.2, insulation="SGX", use="starter")
    asked = sizing_case(Network(Job("x")), wire)
    assert asked.duty == (15, 60)
    assert judge(metric(25), asked).passes
    assert not judge(metric(25), asked._replace(duty=None)).passes
    hot = temperature_c(metric(25), asked)
    assert hot is not None
    assert hot < conductor_temperature_c(metric(25), insulation("SGX"), 250, 60)


@pytest.mark.parametrize(
    ("text", "read"),
    [("15 s / 60 s", (15, 60)), ("10 min on, 5 min off", (600, 300)), ("30/300", (30, 300))],
)
def test_duty_is_read_as_people_write_it(text: str, read: tuple[float, float]) -> None:
    assert read_duty_s(text) == read


@pytest.mark.parametrize("text", ["15 s", "0 / 60", "-1 s / 5 s", "ten / 5", "1 m / 2 m", "1/2/3"])
def test_a_duty_that_is_none_is_refused_in_words(text: str) -> None:
    with pytest.raises(QuantityError):
        read_duty_s(text)


# The whole path


def test_what_a_circuit_loses_is_what_its_wires_plugs_and_fuses_lose_by_hand() -> None:
    job = job_of(DIRECT, LAMP)
    (path,) = Analysis(job).electrics.path_losses["W2"]
    # 12.6 V over the battery's 12 mohm, four metres of 2.5 mm2, a 30 A fuse and the lamp's 6 ohm.
    # The copper is as warm as some 2.1 A make it in the 60 deg C of an engine bay.
    hot_c = conductor_temperature_c(metric(2.5), UNKNOWN, 2.08, 60.0)
    wire = resistance_ohm_per_m(metric(2.5), hot_c)
    amps = 12.6 / (0.012 + 4 * wire + 0.1 / 30 + 6.0)
    assert path.device == "D3"
    assert path.use == "lighting"
    assert path.lost_v == pytest.approx(amps * (4 * wire + 0.1 / 30), rel=1e-4)
    assert path.own_v == pytest.approx(amps * wire, rel=1e-4)
    assert path.share == pytest.approx(0.25)


IN_LINE = {
    "shunt": ("+", "-", Device("D2", "Shunt", "resistor", ("+", "-"), values=(("ohm", 0.001),))),
    "ballast": ("+", "-", Device("D2", "Ballast", "resistor", ("+", "-"), values=(("ohm", 0.5),))),
    "diode": ("+", "-", Device("D2", "Isolating diode", "diode", ("+", "-"))),
    "output": (
        "B",
        "Q",
        Device(
            "D2",
            "Body computer",
            "controller",
            ("B", "31", "Q"),
            supplies=("B",),
            earths=("31",),
            outputs=(Output("Q", "feeds high", "powered"),),
        ),
    ),
}


@pytest.mark.parametrize("kind", IN_LINE)
def test_a_way_goes_on_through_what_lies_in_it(kind: str) -> None:
    """No wire is judged as if no way to a battery were known, because a shunt lies before it."""
    plus, minus, device = IN_LINE[kind]
    lamp = replace(LAMP, values=(("A", 8.0),))
    job = job_of(
        f"D1/+ F1/in, F1/out D2/{plus}, D2/{minus} D3/+, D3/- E1, E1 D1/-, D2/31 E1", device, lamp
    )
    analysis = Analysis(job)
    for code in ("W1", "W2", "W3", "W4", "W5"):
        (path,) = analysis.electrics.path_losses[code]
        # A computer has wires of its own, which it needs better than a lamp.
        assert path.device == "D3" or (kind == "output" and code in ("W1", "W2", "W5"))
        drop = next(
            c for c in analysis.electrics.sizings[code].criteria if c.name == "voltage drop"
        )
        assert "no path" not in drop.why
    # What the wires lose is what the source gives and neither the lamp nor what is in line takes.
    (path,) = analysis.electrics.path_losses["W3"]
    point = next(one for one in analysis.electrics.warm.points if one.state == path.state)
    volts = point.solution.volts
    own = volts[f"D2/{plus}"] - volts[f"D2/{minus}"]
    lost = volts["D1/+"] - own - (volts["D3/+"] - volts["D3/-"]) - volts["D1/-"]
    assert path.lost_v == pytest.approx(lost, abs=0.01 if kind == "output" else 1e-3)
    assert analysis.electrics.fuse_work["F1"].load_a == pytest.approx(path.amps, rel=0.2)


def test_what_a_computer_pulls_low_is_followed_to_its_earth() -> None:
    out = (Output("Q", "pulls low", "powered"),)
    computer = Device(
        "D2",
        "Computer",
        "controller",
        ("B", "31", "Q"),
        supplies=("B",),
        earths=("31",),
        outputs=out,
    )
    lamp = replace(LAMP, values=(("A", 8.0),))
    job = job_of(
        "D1/+ F1/in, F1/out D2/B, F1/out D3/+, D3/- D2/Q, D2/31 E1, E1 D1/-", computer, lamp
    )
    paths = Analysis(job).electrics.path_losses
    for code in ("W3", "W4"):
        (path,) = paths[code]
        assert path.device == "D3"
        assert path.share == pytest.approx(1 / 5)  # W1, W3, W4, then W5 and W6 back: a metre each


def in_row(sizes: list[tuple[float, float, str]], amps: float, fuse_a: float = 30.0) -> Job:
    """Return a load behind wires in a row, each of a section, mm2, a length, m, and a kind."""
    stops = [f"X{n}" for n in range(1, len(sizes))]
    way = ["F1/out", *stops, "D3/+"]
    row = ", ".join(f"{a} {b}" for a, b in itertools.pairwise(way))
    job = job_of(
        f"D1/+ F1/in, {row}, D3/- E1, E1 D1/-",
        Device("D3", "Load", "load", ("+", "-"), values=(("A", amps),)),
        splices=tuple(Splice(code, code) for code in stops),
        fuses=(Fuse("F1", "Main", fuse_a),),
    )
    made = list(job.wires)
    for at, (mm2, length, kind) in enumerate(sizes, start=1):
        made[at] = replace(made[at], size=metric(mm2), length_m=length, insulation=kind)
    return replace(job, wires=tuple(made))


PIECE = st.tuples(
    st.sampled_from([0.75, 1, 1.5, 2.5]),
    st.floats(0.2, 1.5),
    st.sampled_from(["GPT", "C125", "F200"]),
)


@given(st.lists(PIECE, min_size=1, max_size=10), st.floats(1, 14))
def test_a_path_loses_what_each_piece_loses_at_its_own_temperature(
    pieces: list[tuple[float, float, str]], load_a: float
) -> None:
    """Current and temperatures found at once by SciPy, from the steady heat of each wire."""
    job = in_row(pieces, load_a)
    analysis = Analysis(job)

    def lost_ohm(amps: float) -> float:
        found = 0.1 / 30
        for one in job.wires:
            assert one.size is not None
            kind = insulation(one.insulation)
            hot_c = conductor_temperature_c(one.size, kind, amps, 60.0)
            capped_c = min(hot_c, kind.limit_c + 50)  # what is hotter is told for that
            found += resistance_ohm_per_m(one.size, capped_c) * (one.length_m or 0.0)
        return found

    def over(amps: float) -> float:
        return amps * (0.012 + lost_ohm(amps) + 12 / load_a) - 12.6

    amps = float(brentq(over, 0.01, 40.0))
    for code in ("W1", "W2"):
        path = next(one for one in analysis.electrics.path_losses[code] if one.device == "D3")
        assert path.state.name == "run"
        assert path.lost_v == pytest.approx(amps * lost_ohm(amps), rel=0.005)
        assert path.amps == pytest.approx(amps, rel=0.002)
        # And what the wire is judged by is that, not what it carries while cold: written to a
        # millivolt, from temperatures found to half a kelvin.
        drop = next(
            c for c in analysis.electrics.sizings[code].criteria if c.name == "voltage drop"
        )
        rounded_v = 6e-4 + 0.003 * path.own_v
        assert float(drop.has.split()[0]) == pytest.approx(path.own_v, abs=rounded_v)


@settings(max_examples=30)
@given(st.floats(0.5, 14), st.sampled_from([0.75, 1, 1.5, 2.5]), st.floats(0.5, 6))
def test_better_insulation_is_never_judged_worse(amps: float, mm2: float, length: float) -> None:
    """Taken at its limit, 200 deg C insulation lost a third more than 80 deg C on one copper."""
    drops = []
    for kind in ("C125", "D150", "F200", "H250"):  # alike but for what they bear
        analysis = Analysis(in_row([(mm2, length, kind)], amps, 500.0))
        drops.append(
            next(
                c.margin
                for c in analysis.electrics.sizings["W2"].criteria
                if c.name == "voltage drop"
            )
        )
    hot_c = temperature_c(metric(mm2), analysis.electrics.sizing_cases["W2"])
    assert hot_c is not None
    if hot_c < 175:
        assert drops == pytest.approx(drops[:1] * 4, abs=1e-3)


def test_ten_warm_pieces_that_lose_too_much_do_not_pass_together() -> None:
    # Each carries what brings it to some 115 deg C, and all together lose over 6 %.
    job = in_row([(0.75, 0.42, "C125")] * 10, 14.0)
    analysis = Analysis(job)
    lost = analysis.electrics.path_losses["W2"][0].lost_v
    assert lost > 0.06 * 12
    failing = {
        code
        for code, one in analysis.electrics.sizings.items()
        for c in one.criteria
        if c.name == "voltage drop" and not c.passes
    }
    assert failing >= {f"W{n}" for n in range(2, 12)}


@pytest.mark.parametrize(
    ("kind", "short_k", "rule", "severity"),
    [
        ("C125", 12, None, None),
        ("C125", 8, "runs-hot", "look"),
        ("C125", -3, "undersized", "stop"),
        ("", 5, "runs-hot", "look"),
        ("", -5, "undersized", "stop"),
    ],
)
def test_within_ten_kelvin_of_its_class_is_a_look_and_over_it_a_stop(
    kind: str, short_k: float, rule: str | None, severity: str | None
) -> None:
    """And where an insulation that nobody knows decides it, that is said."""
    size, known = metric(1.5), insulation(kind)
    amps = current_for_temperature_a(size, known, known.limit_c - short_k, 60.0)
    job = in_row([(1.5, 0.3, kind)], amps, 500.0)
    job = change_wire(job, "W2", load_a=amps)
    told = [
        one
        for one in find_all(Analysis(job))
        if one.subject == "W2" and one.rule in ("runs-hot", "undersized")
    ]
    assert [(one.rule, one.severity) for one in told] == ([(rule, severity)] if rule else [])
    for one in told:
        assert ("not known" in one.why) == (kind == "")


def test_the_return_counts_and_the_wire_that_loses_is_the_one_that_fails() -> None:
    # Common practice: a thin earth starves a load as well as a thin supply does.
    job = job_of(DIRECT, Device("D3", "Lamp", "lamp", ("+", "-"), values=(("A", 8.0),)))
    thin = tuple(
        replace(wire, size=metric(0.5), length_m=4.0) if wire.code == "W3" else wire
        for wire in job.wires
    )
    sizings = Analysis(replace(job, wires=thin)).electrics.sizings
    failing = {
        code
        for code, one in sizings.items()
        for c in one.criteria
        if c.name == "voltage drop" and not c.passes
    }
    assert failing == {"W3"}
    drop = next(c for c in sizings["W2"].criteria if c.name == "voltage drop")
    assert "Most of it is in W3" in drop.why


def test_a_load_so_starved_that_it_does_not_work_is_where_the_drop_counts_most() -> None:
    job = job_of(DIRECT, Device("D3", "Lamp", "lamp", ("+", "-"), values=(("A", 12.0),)))
    job = change_wire(job, "W2", size=metric(0.35), length_m=12.0)
    analysis = Analysis(job)
    (path,) = analysis.electrics.path_losses["W2"]
    assert path.lost_v > 0.3 * 12
    assert not next(
        c for c in analysis.electrics.sizings["W2"].criteria if c.name == "voltage drop"
    ).passes


def test_limits_are_the_jobs_own_where_it_has_some() -> None:
    job = job_of(DIRECT, LAMP)
    strict = replace(job, settings=Settings(drop_shares=(("lighting", 0.002),)))

    def hand(one: Job) -> float:
        return min(
            c.margin
            for c in Analysis(one).electrics.sizings["W2"].criteria
            if c.name == "voltage drop"
        )

    assert hand(job) > 0 > hand(strict)
    assert USES["lighting"].drop_share == 0.06


def test_cranking_is_judged_where_it_flows() -> None:
    job = job_of(
        "D1/+ D3/30, D1/+ D2/30, D2/50 D3/50, E1 D1/-",
        Device("D2", "Key", "switch", ("30", "15", "50"), (("30", "15"), ("30", "50"))),
        Device("D3", "Starter", "starter", ("30", "50"), case="E1"),
    )
    analysis = Analysis(job)
    assert analysis.electrics.crank_amps["W1"] > 100
    # Nobody said what the cable is for, nor what it carries: it is judged while cranking.
    criteria = {c.name: c for c in analysis.electrics.sizings["W1"].criteria}
    assert not criteria["cranking"].passes  # 2.5 mm2
    told = [one for one in found(job)["undersized"] if one.subject == "W1"]
    assert len(told) == 1
    both = found(change_wire(job, "W1", load_a=80.0))["undersized"]  # too much for hours as well
    assert [one.subject for one in both].count("W1") == 1
    path = analysis.electrics.path_losses["W4"][-1]
    assert path.state.name == "crank"
    assert path.use == "starter"


# All at once


wires_of = st.lists(
    st.tuples(
        st.floats(0.2, 15),
        st.floats(0.3, 8),
        st.sampled_from(["A85", "C125", "GPT", ""]),
        st.sampled_from(["", "cabin", "exhaust"]),
        st.sampled_from(["", "one", "two"]),
    ),
    min_size=1,
    max_size=10,
)


@settings(max_examples=15)
@example([(13.0, 3.0, "GPT", "", "two")], "awg", False)  # its own heat lowers what its fuse may be
@given(wires_of, st.sampled_from(["awg", "metric"]), st.booleans())
def test_no_size_is_proposed_that_its_own_check_then_fails(
    made: list[tuple[float, float, str, str, str]], system: str, failing: bool
) -> None:
    devices = tuple(
        Device(f"D{n + 60}", f"Load {n}", "load", ("+", "-"), values=(("A", amps),))
        for n, (amps, *_) in enumerate(made)
    )
    plus, minus = End("D1", "+"), End("D1", "-")
    wires = [Wire("W900", plus, End("F1", "in"), size=metric(16), length_m=0.3, insulation="C125")]
    for n, (_, length, kind, place, bundle) in enumerate(made):
        fields = {
            "size": metric(0.5),
            "length_m": length,
            "insulation": kind,
            "place": place,
            "bundle": bundle,
        }
        wires.append(Wire(f"W{2 * n}", End("F1", "out"), End(f"D{n + 60}", "+"), **fields))  # type: ignore[arg-type]
        wires.append(Wire(f"W{2 * n + 1}", End(f"D{n + 60}", "-"), minus, **fields))  # type: ignore[arg-type]
    battery = Device("D1", "Battery", "battery", ("+", "-"))
    job = Job(
        "x",
        devices=(battery, *devices),
        wires=tuple(wires),
        fuses=(Fuse("F1", "Main", 200, "bolt-down"),),
        bundles=(Bundle("one", covering="split tube"), Bundle("two", "cabin")),
    )
    changes = resizes(job, cases_of, system, failing_only=failing)  # type: ignore[arg-type]
    after = Analysis(resized(job, changes)).electrics.sizings
    for one in changes:
        assert after[one.wire].passes, one
    # Nor for one wire by itself.
    for code, asked in list(Analysis(job).electrics.sizing_cases.items())[:3]:
        size = smallest(asked, system)  # type: ignore[arg-type]
        if size is not None:
            assert Analysis(change_wire(job, code, size=size)).electrics.sizings[code].passes, code


def on_one_path(
    loads: tuple[float, ...], lengths: tuple[float, ...], kind: str, size: WireSize
) -> Job:
    """Return loads behind one shared supply and one shared return, each with a wire of its own."""
    wires = [
        Wire(
            "W1", End("D1", "+"), End("F1", "in"), size=metric(16), length_m=0.3, insulation="C125"
        ),
        Wire("W2", End("F1", "out"), End("X1"), size=size, length_m=lengths[0], insulation=kind),
        Wire("W3", End("X2"), End("D1", "-"), size=size, length_m=lengths[1], insulation=kind),
    ]
    devices = [Device("D1", "Battery", "battery", ("+", "-"))]
    for n, amps in enumerate(loads):
        code, own = f"D{n + 10}", lengths[2 + n]
        devices.append(Device(code, f"Load {n}", "load", ("+", "-"), values=(("A", amps),)))
        for at, (a, b) in enumerate(((End("X1"), End(code, "+")), (End(code, "-"), End("X2")))):
            wires.append(
                Wire(f"W{10 + 2 * n + at}", a, b, size=size, length_m=own, insulation=kind)
            )
    return Job(
        "x",
        devices=tuple(devices),
        wires=tuple(wires),
        fuses=(Fuse("F1", "Main", 30),),
        splices=(Splice("X1", "Supply"), Splice("X2", "Return")),
    )


@pytest.mark.parametrize("size", [metric(0.5), awg(18), awg(10)])
@pytest.mark.parametrize(
    ("lengths", "kind"),
    [((2, 2, 1, 1, 1), "C125"), ((0.5, 4, 3, 0.3, 1.5), "GPT"), ((6, 1, 0.3, 4, 2), "A85")],
)
def test_what_is_proposed_for_loads_of_7_1_and_14_amperes_on_one_path_passes(
    lengths: tuple[float, ...], kind: str, size: WireSize
) -> None:
    """14 AWG was proposed here, and then failed on drop."""
    job = on_one_path((7, 1, 14), lengths, kind, size)
    for code, asked in Analysis(job).electrics.sizing_cases.items():
        for system in ("awg", "metric"):
            proposed = smallest(asked, system)
            if proposed is not None:
                alone = Analysis(change_wire(job, code, size=proposed)).electrics.sizings[code]
                assert alone.passes, (code, proposed, alone.binding)
    for system in ("awg", "metric"):
        changes = resizes(job, cases_of, system, failing_only=False)  # type: ignore[arg-type]
        after = Analysis(resized(job, changes)).electrics.sizings
        assert all(after[one.wire].passes for one in changes)


STRETCHES = st.builds(
    Installation,
    st.sampled_from([30.0, 45.0, 60.0, 90.0, 110.0]),
    st.just("somewhere"),
    st.builds(
        Neighbours,
        st.lists(st.floats(1.0, 6.0), min_size=1, max_size=8).map(tuple),
        st.floats(0.0, 20.0),
        st.sampled_from([0.0, 0.4, 1.5]),
    )
    | st.just(ALONE),
    st.sampled_from(["B1", "B2", "B3"]),
)


@given(st.lists(STRETCHES, min_size=1, max_size=4), st.data())
def test_the_worst_stretch_of_a_wire_binds(lies: list[Installation], data: st.DataObject) -> None:
    """As if each stretch were judged alone, and the worst verdict taken."""
    size = data.draw(st.sampled_from([metric(0.5), metric(2.5), awg(12)]))
    duty = data.draw(st.sampled_from([None, (10.0, 60.0)]))
    whole = SizingCase(
        data.draw(st.floats(0.5, 60.0)),
        2.0,
        tuple(lies),
        insulation("C125"),
        USES[""],
        12.0,
        duty=duty,
        crank_a=90.0,
        fuse_a=15.0,
    )
    alone = [whole._replace(lies=(one,)) for one in lies]
    for name in ("heat", "cranking", "fuse"):
        margins = [_margin(size, one, name) for one in alone]
        assert _margin(size, whole, name) == pytest.approx(min(margins), abs=1e-9)
    hot = temperature_c(size, whole)
    assert hot is not None
    assert hot == pytest.approx(max(temperature_c(size, one) or 0.0 for one in alone))
    assert largest_fuse_a(size, whole, "blade") == min(
        largest_fuse_a(size, one, "blade") for one in alone
    )
    for system in get_args(SizeSystem):
        least = smallest(whole, system)
        each = [smallest(one, system) for one in alone]
        areas = [area_mm2(one) if one else math.inf for one in each]
        assert (area_mm2(least) if least else math.inf) == max(areas)
    said = next(one.why for one in judge(size, whole).criteria if one.name == "heat")
    assert (f"the worst of its {len(lies)} stretches" in said) == (len(lies) > 1)


def test_neighbours_with_twice_the_current_make_four_times_the_heat() -> None:
    """Joule's law."""
    lies = (Installation(60.0, neighbours=Neighbours((3.0,), 2.5)), Installation(40.0))
    asked = SizingCase(5.0, 2.0, lies, insulation("C125"), USES[""], 12.0)
    then = asked.with_heat(2.0)
    assert [one.neighbours.heat_w_per_m for one in then.lies] == [10.0, 0.0]
    assert [one.ambient_c for one in then.lies] == [60.0, 40.0]


def _margin(size: WireSize, asked: SizingCase, name: str) -> float:
    return next(one.margin for one in judge(size, asked).criteria if one.name == name)


# In the window


def test_place_bundle_and_duty_are_typed_in_hand(demo_window: MainWindow) -> None:
    store, hand = demo_window.store, demo_window.in_hand
    store.do("no looms", lambda job: replace(job, routing=Routing()))  # what is typed counts
    demo_window.hand.pick("W58")
    fields = wire_card(demo_window).fields
    type_field(fields["Place"], "exhaust")
    type_field(fields["Bundle"], "Lamps")
    type_field(fields["Duty"], "30 s / 300 s")
    wire = store.job.wire("W58")
    assert wire is not None
    assert (wire.place, wire.bundle, wire.on_s, wire.rest_s) == ("exhaust", "Lamps", 30, 300)
    assert store.analysis.electrics.sizing_cases["W58"].ambient_c == 110
    type_field(fields["Place"], "the moon")
    assert "not a place known here" in hand.notice.text()
    type_field(fields["Duty"], "now and then")
    assert "15 s / 60 s" in hand.notice.text()
    assert store.job.wire("W58") == wire


def test_awg_and_metric_of_one_copper_are_as_warm() -> None:
    # 14 AWG is 2.08 mm2: between 2 and 2.5 mm2 whatever lies round it.
    neighbours = neighbours_of_each([Core(metric(1), insulation("C125"), 5.0)] * 6)[0]
    hot = [
        hottest_c(Core(size, insulation("C125"), 15), 60, neighbours)
        for size in (metric(2.5), awg(14), metric(2))
    ]
    assert hot == sorted(hot)
    assert math.isfinite(resistance_ohm_per_m(awg(14), hot[1]))


def test_airs_and_limits_are_set_for_the_job(demo_window: MainWindow) -> None:
    store = demo_window.store
    dialog = JobSettings(demo_window, store)
    assert dialog.airs["exhaust"].text() == "110"
    dialog.airs["exhaust"].setText("150")
    dialog.shares["lighting"].setText("3 %")
    dialog.accept()
    assert store.job.settings.air_c == (("exhaust", 150.0),)
    assert store.job.settings.drop_shares == (("lighting", 0.03),)
    assert store.analysis.electrics.sizing_cases["W129"].ambient_c == 150
    again = JobSettings(demo_window, store)
    assert again.shares["lighting"].text() == "3"
    for field, text, words in (
        (again.shares["lighting"], "much", "not a share of the voltage"),
        (again.shares["lighting"], "0", "Share of the voltage 0 is not possible"),
        (again.airs["exhaust"], "900", "outside"),
    ):
        kept = field.text()
        field.setText(text)
        again.accept()
        assert words in again.notice.text()
        field.setText(kept)
    again.reject()


@pytest.mark.parametrize(("on_s", "rest_s"), [(15, 60), (1, 1), (30, 5), (2, 200)])
def test_what_comes_and_goes_heats_as_its_root_mean_square(on_s: int, rest_s: int) -> None:
    """Held to the cycle itself, second by second."""
    cycle = numpy.repeat([1.0, 0.0], [on_s, rest_s])
    assert rms_share((on_s, rest_s)) == pytest.approx(float(numpy.sqrt((cycle**2).mean())))
    load = wire(
        "W1",
        "F2/out",
        "C1/1",
        size=metric(2.5),
        length_m=1.0,
        load_a=20.0,
        on_s=float(on_s),
        rest_s=float(rest_s),
    )
    asked = Analysis(small_job(load)).electrics.sizing_cases["W1"]
    assert asked.mean_a == pytest.approx(20.0 * math.sqrt(on_s / (on_s + rest_s)))
