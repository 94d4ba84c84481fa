"""Each design rule finds its mistake, and only that."""

import pytest
from msgspec.structs import replace

from conftest import awg, found, metric, small_job, wire
from molvik.analysis import Analysis
from molvik.findings import find_all, open_findings
from molvik.findings.finding import ENDLESS
from molvik.findings.findingsheet import findings_sheet
from molvik.model import edits
from molvik.model.job import Acceptance, Job, Settings
from molvik.model.parts import (
    LOOSE,
    Colour,
    Connector,
    Device,
    EarthPoint,
    End,
    Fuse,
    Grid,
    Pin,
    Wire,
)
from molvik.parsing.functions.words import is_earth, is_supply
from molvik.proving.wiretest import continuity_reading

SOUND = {"size": metric(1), "insulation": "C125", "length_m": 1.0, "load_a": 5.0}
FEED = wire("W1", "D1/+", "F2/in", size=metric(2.5), insulation="C125", length_m=0.3, load_a=5.0)
LOAD = wire("W2", "F2/out", "C1/1", **SOUND)
BACK = wire("W3", "C1/2", "E1", **SOUND)


def plug(*pins: Pin, **fields: object) -> tuple[Connector, ...]:
    one = Connector("C1", "Engine plug", Grid(2, 3), pins=pins, **fields)  # type: ignore[arg-type]
    return (one, Connector("C2", "Lamp plug", Grid(2, 3)))


def test_a_sound_loom_has_no_findings() -> None:
    assert found(small_job(FEED, LOAD, BACK)) == {}


def test_two_wires_in_one_cavity_are_a_stop() -> None:
    findings = found(small_job(wire("W1", "C1/1", "C2/1"), wire("W2", "C1/1", "C2/2")))
    assert set(findings) == {"two-wires-one-cavity"}
    one = findings["two-wires-one-cavity"][0]
    assert one.severity == "stop"
    assert one.subject == "C1/1"
    assert "W1 and W2" in one.what


def test_a_cavity_the_housing_does_not_have_is_a_stop() -> None:
    findings = found(small_job(wire("W1", "C1/9", "C2/1")))
    assert findings["no-such-cavity"][0].severity == "stop"


def test_a_wire_in_a_plugged_cavity_needs_a_look() -> None:
    job = small_job(wire("W1", "C1/1", "C2/1"), connectors=plug(Pin("1", fill="plugged")))
    assert found(job)["closed-cavity"][0].severity == "look"


@pytest.mark.parametrize(
    ("function", "severity"), [("Power earth 2", "stop"), ("Tachometer", "look")]
)
def test_a_function_named_but_not_wired(function: str, severity: str) -> None:
    job = small_job(wire("W1", "C1/1", "C2/1"), connectors=plug(Pin("2", function)))
    one = found(job)["named-not-wired"][0]
    assert (one.severity, one.subject) == (severity, "C1/2")


def test_a_cavity_wired_on_the_other_half_is_not_missing() -> None:
    halves = (
        Connector("C1", "Half", Grid(2, 3), pins=(Pin("1", "Lamp"), Pin("2", "Horn"))),
        Connector("C2", "Other half", Grid(2, 3), plugs_into="C1"),
    )
    job = small_job(wire("W1", "C2/1", "E1"), wire("W2", "C1/3", "E1"), connectors=halves)
    assert [one.subject for one in found(job)["named-not-wired"]] == ["C1/2"]


def test_a_plugged_or_empty_cavity_is_not_missing() -> None:
    pins = (Pin("2", "Tachometer", fill="plugged"), Pin("3", "Knock", fill="empty"))
    job = small_job(wire("W1", "C1/1", "C2/1"), connectors=plug(*pins))
    assert found(job) == {}


def test_a_donor_plug_that_is_only_read_from_is_one_note() -> None:
    job = small_job(connectors=plug(Pin("1", "Power earth"), Pin("2", "Tachometer")))
    findings = found(job)
    assert set(findings) == {"listed-no-wires"}
    assert findings["listed-no-wires"][0].severity == "note"


@pytest.mark.parametrize(
    ("size", "word"), [(metric(4), "thick"), (metric(0.35), "thin"), (awg(12), "thick")]
)
def test_a_wire_the_terminal_cannot_take_is_a_stop(size: object, word: str) -> None:
    # Size 16 contacts take 0.5 to 2.1 mm2 (common practice).
    findings = found(small_job(wire("W1", "C1/1", "C2/1", size=size)))
    assert len(findings["terminal-size"]) == 2
    assert f"too {word}" in findings["terminal-size"][0].what


def test_another_colour_than_the_pinouts_is_a_note() -> None:
    job = small_job(
        wire("W1", "C1/1", "C2/1", colour=Colour("WH", "BU")),
        connectors=plug(Pin("1", "Injector", colour=Colour("WH", "GN"))),
    )
    one = found(job)["colour-differs"][0]
    assert one.severity == "note"
    assert "white, blue tracer" in one.what


def test_halves_with_the_same_terminals_do_not_mate() -> None:
    halves = (
        Connector("C1", "Half", Grid(2, 3), terminals="pin"),
        Connector("C2", "Other half", Grid(2, 3), terminals="pin", plugs_into="C1"),
    )
    assert "both have pins" in found(small_job(connectors=halves))["halves-do-not-mate"][0].what
    other = (Connector("C1", "a", Grid(1, 2)), Connector("C2", "b", Grid(1, 3), plugs_into="C1"))
    assert "cavities differ" in found(small_job(connectors=other))["halves-do-not-mate"][0].what


def test_a_plug_that_is_only_mapped_is_one_note_and_not_many_stops() -> None:
    plug = Connector("C1", "Engine computer", Grid(5, 7))
    wires = tuple(Wire(f"W{n}", End("C1", str(n)), LOOSE, f"Function {n}") for n in range(1, 35))
    job = Job("mapped", connectors=(plug,), wires=wires)
    assert "loose-end" not in found(job)
    (one,) = found(job)["ends-not-drawn"]
    assert one.what.startswith("34 wires of C1 Engine computer go nowhere yet")
    # Once one of them goes somewhere, the others were forgotten.
    there = replace(
        job,
        wires=(replace(wires[0], finish=End("E1")), *wires[1:]),
        earths=(EarthPoint("E1", "Block"),),
    )
    assert len(found(there)["loose-end"]) == 33
    assert "ends-not-drawn" not in found(there)


def test_a_loose_end_is_a_stop() -> None:
    findings = found(small_job(wire("W1", "C1/1", ""), wire("W2", "", "")))
    assert [one.severity for one in findings["loose-end"]] == ["stop", "stop"]
    assert "both ends loose" in findings["loose-end"][1].what


def test_a_terminal_that_is_not_there_is_a_stop() -> None:
    findings = found(small_job(wire("W1", "C1/1", "D1/87"), wire("W2", "C1/2", "E9")))
    assert [one.subject for one in findings["no-such-place"]] == ["W1 D1/87", "W2 E9"]


def test_a_wire_to_itself_and_a_wire_entered_twice() -> None:
    findings = found(small_job(wire("W1", "E1", "E1"), wire("W2", "E1", "C1/1")))
    assert findings["ends-in-one-place"][0].subject == "W1"
    twice = found(small_job(wire("W1", "C1/1", "E1"), wire("W2", "E1", "C1/1")))
    assert twice["side-by-side"][0].subject == "W2"


def test_an_earth_on_a_supply_is_a_stop() -> None:
    job = small_job(wire("W1", "C1/1", "E1"), connectors=plug(Pin("1", "Battery supply switched")))
    assert found(job)["earth-meets-supply"][0].severity == "stop"
    across = small_job(wire("W1", "D1/+", "D1/-"))
    assert "dead short" in found(across)["earth-meets-supply"][0].why


@pytest.mark.parametrize(
    ("function", "earth", "supply"),
    [
        ("Power earth 1", True, False),
        ("GND", True, False),
        ("31", True, False),
        ("Sensor ground", False, False),
        ("Battery supply", False, True),
        ("Throttle 5 V supply", False, False),
        ("Crank sensor screen", False, False),
        ("Main relay coil, ground side", False, False),
        ("Fuel pump relay control (to earth)", False, False),
        ("Leistungsmasse", True, False),
        ("Masse capteurs", False, False),
        ("Klemme 30", False, True),
        ("+ après contact", False, True),
        ("Pump supply", False, True),
        ("Power steering switch", False, False),
        ("Ignition coil 1", False, False),
    ],
)
def test_names_of_earths_and_supplies(function: str, earth: bool, supply: bool) -> None:
    # Common practice in English manuals; a sensor's return is not a power earth.
    assert (is_earth(function), is_supply(function)) == (earth, supply)


@pytest.mark.parametrize(
    ("function", "severity"),
    [
        ("Main relay coil, ground side", "look"),
        ("Fan relay earth", "look"),
        ("Sensor earth", "stop"),
        ("Masse capteurs", "stop"),
        ("PGND", "stop"),
    ],
)
def test_a_relays_control_is_no_earth_and_the_sensors_earth_is(
    function: str, severity: str
) -> None:
    job = small_job(
        wire("W1", "C1/1", "E1"), connectors=plug(Pin("1", "Power earth"), Pin("2", function))
    )
    (one,) = found(job)["named-not-wired"]
    assert one.severity == severity


def test_a_thin_wire_is_a_stop_with_the_size_to_use() -> None:
    job = small_job(FEED, wire("W2", "F2/out", "C1/1", **{**SOUND, "load_a": 30.0}))
    one = found(job)["undersized"][0]
    assert one.severity == "stop"
    assert "AWG or" in one.remedy


def test_a_wire_too_thin_to_handle_needs_a_look() -> None:
    findings = found(small_job(wire("W1", "C1/1", "C2/1", size=awg(26))))
    assert findings["too-thin-to-handle"][0].severity == "look"


def test_too_much_drop_needs_a_look() -> None:
    job = small_job(FEED, wire("W2", "F2/out", "C1/1", **{**SOUND, "length_m": 9.0}))
    assert found(job)["voltage-drop"][0].severity == "look"


def test_too_much_for_a_terminal_is_a_stop() -> None:
    # Size 16 contacts carry 13 A (common practice).
    thick = {**SOUND, "size": metric(2), "load_a": 14.0}
    job = small_job(FEED, wire("W2", "F2/out", "C1/1", **thick))
    assert found(job)["terminal-overloaded"][0].severity == "stop"


def test_a_fed_wire_of_unknown_size_or_load_is_a_note() -> None:
    job = small_job(FEED, wire("W2", "F2/out", "C1/1"), wire("W3", "C2/1", "C2/2"))
    findings = found(job)
    assert [one.subject for one in findings["cannot-be-judged"]] == ["W2"]
    assert "its size" in findings["cannot-be-judged"][0].what


def test_no_fuse_at_all_is_a_stop_but_not_for_the_starter() -> None:
    beacon = wire("W1", "D1/+", "C1/1", **SOUND)
    assert found(small_job(beacon))["no-fuse"][0].severity == "stop"
    cable = {"size": metric(50), "use": "starter", "load_a": 150.0, "length_m": 1.0}
    starter = replace(small_job(wire("W1", "D1/+", "D9/30", **cable)))
    with_one = replace(
        starter, devices=(*starter.devices, Device("D9", "Starter", "starter", ("30", "50")))
    )
    assert "no-fuse" not in found(with_one)
    assert "no-fuse" not in found(small_job(wire("W1", "D1/+", "C1/1", **cable))), "it may be"


@pytest.mark.parametrize("end", ["K1/85", "D8/+"])
def test_calling_a_wire_a_starters_cable_does_not_make_it_one(end: str) -> None:
    thin = wire("W1", "D1/+", end, size=metric(1), use="starter", load_a=2.0, length_m=1.0)
    job = small_job(thin)
    job = replace(job, devices=(*job.devices, Device("D8", "Lamp", "lamp", ("+", "-"))))
    assert found(job)["no-fuse"][0].severity == "stop"


def test_the_way_to_the_first_fuse_is_kept_short() -> None:
    long = wire("W1", "D1/+", "F2/in", size=metric(2.5), length_m=1.5, load_a=5.0)
    findings = found(small_job(long, LOAD))
    assert findings["far-fuse"][0].severity == "look"
    assert "no-fuse" not in findings


def test_a_fuse_larger_than_the_wire_may_carry_is_a_stop() -> None:
    thin = wire("W2", "F1/out", "C1/1", **{**SOUND, "size": metric(0.5), "load_a": 2.0})
    feed = wire("W1", "D1/+", "F1/in", size=metric(10), insulation="C125", length_m=0.3)
    findings = found(small_job(feed, thin))
    one = findings["fuse-too-large"][0]
    assert one.severity == "stop"
    assert one.what.startswith("F1, 40 A, is too large for W2, 0.5 mm²")


def test_a_fuse_close_to_its_rating_needs_a_look() -> None:
    busy = wire("W2", "F2/out", "C1/1", **{**SOUND, "load_a": 8.5})
    assert found(small_job(FEED, busy))["fuse-too-small"][0].subject == "F2"


def test_a_rating_nobody_makes_is_a_note() -> None:
    job = small_job(fuses=(Fuse("F1", "Odd", 13),))
    assert found(job)["no-such-fuse"][0].severity == "note"


def test_readings_that_fail_and_wires_moved_since() -> None:
    job = small_job(LOAD)
    at = "2026-11-02T10:00:00+01:00"
    high = continuity_reading(LOAD, 5.0, at, Settings())
    failed = edits.record(job, high)
    assert found(failed)["failed-continuity"][0].severity == "stop"
    low = edits.record(job, continuity_reading(LOAD, 0.01, at, Settings()))
    assert found(low)["below-leads"][0].severity == "look"
    moved = edits.change_wire(failed, "W2", finish=BACK.start)
    assert found(moved)["moved-since-measured"][0].severity == "note"
    assert "failed-continuity" not in found(moved)


def test_an_accepted_finding_is_kept_and_printed_but_no_longer_open() -> None:
    job = small_job(wire("W1", "C1/1", ""))
    one = find_all(Analysis(job))[0]
    job = edits.accept(job, Acceptance(one.key, "spare, capped and tied", "2026-11-02T10:00Z"))
    analysis = Analysis(job)
    assert open_findings(analysis) == ()
    assert find_all(analysis) == (one,)
    assert (
        findings_sheet(analysis).tables[0].rows[0][-1]
        == "accepted 2026-11-02: spare, capped and tied"
    )


def test_findings_say_ground_to_those_who_say_ground() -> None:
    job = small_job(wire("W1", "C1/1", "C2/1"), connectors=plug(Pin("2", "Power earth 2")))
    job = edits.change_settings(job, earth_word="ground")
    one = found(job)["named-not-wired"][0]
    assert "Power earth 2" in one.what  # the user's own words stay
    assert "ground" in one.why
    assert "earth" not in one.why


def test_the_worst_comes_first() -> None:
    job = Job(
        "x",
        connectors=plug(Pin("2", "Tachometer"), Pin("1", colour=Colour("RD"))),
        devices=(Device("D1", "Battery", "battery", ("+", "-")),),
        wires=(wire("W1", "C1/1", "", colour=Colour("BK")),),
    )
    assert [one.severity for one in find_all(Analysis(job))] == ["stop", "look", "note"]


def test_a_fuse_before_a_wire_that_may_carry_nothing_is_told() -> None:
    """In air hotter than its insulation stands a wire carries nothing, and any fuse is endless."""
    hot = replace(LOAD, ambient_c=150.0)
    one = found(small_job(FEED, hot, BACK))["fuse-too-large"][0]
    assert one.subject == "W2"
    assert one.rests_on[0].value == ENDLESS
