"""The verdict on one wire."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import awg, metric, small_job, wire
from molvik.analysis import Analysis
from molvik.electrical.conductor import area_mm2
from molvik.electrical.heat import conductor_temperature_c, current_for_temperature_a
from molvik.reference.contacts import CONTACTS
from molvik.reference.copper import AWG_SIZES, METRIC_SIZES
from molvik.reference.insulation import INSULATIONS, UNKNOWN
from molvik.reference.limits import HEAT_MARGIN_K, USES
from molvik.sizes.drop import drop_v
from molvik.sizes.hot import temperature_c
from molvik.sizes.sizing_case import Installation, SizingCase, sizing_case
from molvik.sizes.wire import fuse_for, judge, smallest

ASKED = SizingCase(8.0, 2.0, (Installation(60.0),), INSULATIONS["C125"], USES["pump"], 12.0)


def test_voltage_drop_is_ohms_law() -> None:
    # 1.5 mm2 has 12.7 mohm/m at 20 deg C (ISO 6722-1), and 0.393 % more for each kelvin that its
    # 8 A warm it: 2 m.
    hot_c = conductor_temperature_c(metric(1.5), ASKED.kind, 8, 60)
    assert 65 < hot_c < 80
    expected = 8 * 2 * 0.0127 * (1 + 0.00393 * (hot_c - 20))
    assert drop_v(metric(1.5), ASKED) == pytest.approx(expected)


def test_each_criterion_is_named_with_what_is_in_hand() -> None:
    asked = ASKED._replace(contacts=(CONTACTS["16"],), fuse_a=10.0)
    sizing = judge(metric(1.5), asked)
    assert [one.name for one in sizing.criteria] == [
        "strength",
        "heat",
        "terminal",
        "voltage drop",
        "fuse",
    ]
    margin = {one.name: one.margin for one in sizing.criteria}
    allowed = current_for_temperature_a(metric(1.5), ASKED.kind, 125 - HEAT_MARGIN_K, 60.0)
    assert margin["heat"] == pytest.approx(1 - 8 / allowed)
    assert margin["terminal"] == pytest.approx(1 - 8 / 13)
    assert sizing.binding is min(sizing.criteria, key=lambda one: one.margin)
    assert sizing.passes


def test_what_is_not_known_is_said_and_not_guessed() -> None:
    sizing = judge(metric(1), ASKED._replace(load_a=None, length_m=None))
    assert sizing.unknown == ("the current it carries",)
    assert {one.name for one in sizing.criteria} == {"strength"}
    assert judge(metric(1), ASKED._replace(length_m=None)).unknown == ("its length",)
    assert drop_v(metric(1), ASKED._replace(length_m=None)) is None
    assert temperature_c(metric(1), ASKED._replace(load_a=None)) is None


@given(
    load=st.floats(0.1, 120),
    length=st.floats(0.1, 8),
    ambient=st.floats(0, 90),
    kind=st.sampled_from(sorted(INSULATIONS)),
    use=st.sampled_from(sorted(USES)),
    system=st.sampled_from(["awg", "metric"]),
)
def test_the_smallest_size_passes_and_the_next_thinner_does_not(
    load: float, length: float, ambient: float, kind: str, use: str, system: str
) -> None:
    asked = SizingCase(load, length, (Installation(ambient),), INSULATIONS[kind], USES[use], 12.0)
    size = smallest(asked, system)  # type: ignore[arg-type]
    sizes = AWG_SIZES if system == "awg" else METRIC_SIZES
    if size is None:
        assert not any(judge(one, asked).passes for one in sizes)
        return
    assert judge(size, asked).passes
    thinner = [one for one in sizes if area_mm2(one) < area_mm2(size)]
    assert not any(judge(one, asked).passes for one in thinner)


@given(load=st.floats(1, 60), size=st.sampled_from(METRIC_SIZES))
def test_more_current_never_leaves_more_in_hand(load: float, size: object) -> None:
    less = judge(size, ASKED._replace(load_a=load))  # type: ignore[arg-type]
    more = judge(size, ASKED._replace(load_a=load * 1.2))  # type: ignore[arg-type]
    for one, other in zip(less.criteria, more.criteria, strict=True):
        assert other.margin <= one.margin


def test_six_volts_asks_for_much_more_copper_than_twelve() -> None:
    # The same power at 6 V is twice the current, and half the drop is allowed.
    twelve = smallest(ASKED, "metric")
    six = smallest(ASKED._replace(load_a=16.0, system_v=6.0), "metric")
    assert twelve is not None
    assert six is not None
    assert area_mm2(six) >= 2.5 * area_mm2(twelve)


def test_an_ambient_above_the_insulation_fails_at_any_current() -> None:
    hot = ASKED._replace(lies=(Installation(130.0),), load_a=0.01)
    assert not judge(metric(6), hot).passes
    assert smallest(hot, "awg") is None


def test_unknown_insulation_is_taken_as_the_worst_made() -> None:
    assert UNKNOWN.limit_c == min(one.limit_c for one in INSULATIONS.values())
    job = small_job(wire("W1", "C1/1", "C2/1", size=metric(1), load_a=3.0))
    assert Analysis(job).electrics.sizing_cases["W1"].kind is UNKNOWN


def test_a_question_gathers_what_the_job_knows() -> None:
    job = small_job(
        wire("W1", "D1/+", "F2/in", size=metric(2.5)),
        wire(
            "W2",
            "F2/out",
            "C1/1",
            size=awg(16),
            insulation="GXL",
            load_a=5.0,
            length_m=1.0,
            ambient_c=85.0,
            use="pump",
        ),
    )
    asked = sizing_case(Analysis(job).network, job.wires[1])
    assert asked.ambient_c == 85
    assert asked.kind.code == "GXL"
    assert asked.fuse_a == 10
    assert [one.size for one in asked.contacts] == ["16"]
    first = sizing_case(Analysis(job).network, job.wires[0])
    assert first.fuse_a == 10, "what the one behind it lets through"
    assert first.fuse_from == "F2 behind it"


def test_the_fuse_advised_fits_the_wire() -> None:
    assert fuse_for(metric(1.5), ASKED) == ("blade", 10)
    assert fuse_for(metric(0.5), ASKED._replace(load_a=20.0)) is None
    assert fuse_for(metric(0.5), ASKED._replace(load_a=None)) is None
