"""Verdicts where a slip would pass unnoticed: the weaker, the worse, the other half, the last."""

import itertools
import math
from pathlib import Path

import pytest
from msgspec.structs import replace

from conftest import metric, small_job, wire
from molvik.analysis import Analysis
from molvik.circuits.loss import PathLoss
from molvik.crossover.fit import fit
from molvik.crossover.leads import Lead
from molvik.crossover.order import Op, play
from molvik.devices import KINDS, value
from molvik.devices.kinds.alternator import OUTPUT_AT_RPM, share_at
from molvik.devices.states import RUN, RUNNING
from molvik.electrical.bundle import Core, Neighbours, _across_mm, _path
from molvik.electrical.conductor import resistance_20_ohm_per_m, strand_diameter_mm
from molvik.electrical.heat import outside_diameter_mm
from molvik.files.writing import written_whole
from molvik.findings import find_all
from molvik.logbook.clock import hours_by_stage, running
from molvik.model.crossover import RepinSet
from molvik.model.job import Job
from molvik.model.log import LogEntry
from molvik.model.parts import Colour, Connector, Device, Fuse, Grid, Pin, WireSize
from molvik.model.routing import LoomNode, NewLoom, Routing, Run, Zone
from molvik.netlist.network import Network
from molvik.pinouts.loose import candidates
from molvik.reference.contacts import CONTACTS
from molvik.reference.copper import TEMPERATURE_COEFFICIENT
from molvik.reference.insulation import CONDUCTIVITY_W_PER_M_K, insulation
from molvik.reference.limits import USES
from molvik.routing.lengths import TERMINAL_M
from molvik.sizes.drop import NOT_BLAMED
from molvik.sizes.hot import temperature_c
from molvik.sizes.sizing_case import Criterion, Installation, PathAsked, SizingCase
from molvik.sizes.wire import judge, smallest
from test_alive import job_of

KIND = insulation("C125")


def case(**fields: object) -> SizingCase:
    asked = SizingCase(4.0, 2.0, (Installation(40.0),), KIND, USES["lighting"], 12.0)
    return asked._replace(**fields)  # type: ignore[arg-type]


def criterion(asked: SizingCase, name: str, area: float = 1.0) -> Criterion:
    return next(one for one in judge(metric(area), asked).criteria if one.name == name)


@pytest.mark.parametrize("order", [1, -1])
def test_a_wire_is_judged_by_the_weaker_of_its_terminals(order: int) -> None:
    both = (CONTACTS["20"], CONTACTS["12"])[::order]
    weaker = min(one.current_a for one in both)
    assert weaker < max(one.current_a for one in both)
    judged = criterion(case(contacts=both), "terminal")
    assert judged.margin == pytest.approx(1 - 4.0 / weaker)
    assert judged.limit.startswith(f"{weaker:g} A")


def test_the_smallest_size_is_told_whatever_its_terminals_carry() -> None:
    """A terminal that is too small is told by itself: a thicker wire does not mend it."""
    load_a = 2 * CONTACTS["20"].current_a
    bare = case(load_a=load_a)
    assert smallest(bare, "metric") is not None
    assert smallest(bare._replace(contacts=(CONTACTS["20"],)), "metric") == smallest(bare, "metric")


def test_air_hotter_than_the_insulation_fails_even_without_a_load() -> None:
    hot = case(load_a=0.0, lies=(Installation(KIND.limit_c + 1),))
    assert not criterion(hot, "heat").passes
    assert criterion(hot._replace(lies=(Installation(40.0),)), "heat").passes


def test_a_wire_of_which_no_path_is_known_may_lose_half_and_loses_all_of_its_own() -> None:
    """Ohm's law by hand: the other half is left to its return."""
    asked = case()
    hot_c = temperature_c(metric(1.0), asked)
    assert hot_c is not None
    ohm = resistance_20_ohm_per_m(metric(1.0)) * (1 + TEMPERATURE_COEFFICIENT * (hot_c - 20)) * 2.0
    judged = criterion(asked, "voltage drop")
    assert float(judged.has.split()[0]) == pytest.approx(4.0 * ohm, abs=6e-4)
    limit = USES["lighting"].drop_share * 12.0 / 2
    assert float(judged.limit.split()[0]) == pytest.approx(limit, abs=6e-4)
    assert judged.margin == pytest.approx(1 - 4.0 * ohm / limit, abs=1e-3)


def test_a_short_piece_of_a_bad_path_is_not_blamed_for_next_to_nothing() -> None:
    use = USES["lighting"]
    limit = use.drop_share * 12.0
    loss = PathLoss("D3", "Lamp", "lighting", RUN, 3 * limit, 0.01, 4.0, 0.001, "W9", 2 * limit)
    judged = criterion(case(length_m=0.05, paths=(PathAsked(loss, use),)), "voltage drop")
    assert float(judged.limit.split()[0]) == pytest.approx(NOT_BLAMED * limit, abs=6e-4)
    assert judged.passes


@pytest.mark.parametrize("order", [1, -1])
def test_of_two_loads_behind_a_wire_the_worse_path_counts(order: int) -> None:
    near = Device("D3", "Near lamp", "lamp", ("+", "-"), values=(("A", 2.0),))
    far = Device("D4", "Far lamp", "lamp", ("+", "-"), values=(("A", 4.0),))
    wires = "D1/+ F1/in, F1/out D3/+, D3/- E1, D3/+ D4/+, D4/- E1, E1 D1/-"
    job = job_of(wires, *(near, far)[::order])
    long = tuple(
        replace(one, size=metric(0.75), length_m=8.0 if "D4" in str(one.ends) else 0.5)
        for one in job.wires
    )
    asked = Analysis(replace(job, wires=long)).electrics.sizing_cases["W1"]
    assert [one.loss.device for one in asked.paths if not one.loss.state.shortly] == ["D4"]


def test_two_alternators_on_one_cable_add_up() -> None:
    makers = tuple(
        Device(
            code,
            f"Alternator {code}",
            "alternator",
            ("B+",),
            case="E1",
            values=(("most A", rated),),
        )
        for code, rated in (("D2", 60.0), ("D3", 90.0))
    )
    job = job_of(
        "D1/+ F1/in, F1/out D2/B+, D2/B+ D3/B+, E1 D1/-",
        *makers,
        fuses=(Fuse("F1", "Charge", 250, "bolt-down"),),
    )
    job = replace(job, wires=tuple(replace(w, size=metric(50), length_m=1.0) for w in job.wires))
    rated = Analysis(job).electrics.charging_a
    assert rated["W1"] == rated["F1"] == 150.0
    assert rated["W3"] == 90.0


def test_between_two_points_of_its_curve_an_alternator_gives_what_lies_between() -> None:
    (low, least), (high, most) = OUTPUT_AT_RPM[0], OUTPUT_AT_RPM[1]
    assert share_at(OUTPUT_AT_RPM, (low + high) / 2) == pytest.approx((least + most) / 2)
    assert share_at(OUTPUT_AT_RPM, low - 1) == least
    assert share_at(OUTPUT_AT_RPM, OUTPUT_AT_RPM[-1][0] * 2) == OUTPUT_AT_RPM[-1][1]
    for (_, one), (rpm, more) in itertools.pairwise(OUTPUT_AT_RPM):
        assert share_at(OUTPUT_AT_RPM, rpm) == pytest.approx(more)
        assert more > one


def test_a_wire_among_idle_ones_passes_its_heat_through_its_own_insulation() -> None:
    """IEC 60287-1-1, 4.1.2.1: the resistance of an insulation is rho / (2 pi) ln(D / d)."""
    core = Core(metric(0.35), KIND, 5.0)
    wide, copper = outside_diameter_mm(core.size, KIND), strand_diameter_mm(core.size)
    own = math.log(wide / copper) / (2 * math.pi * CONDUCTIVITY_W_PER_M_K)
    assert math.log(wide / copper) > 0.5, "more than from the middle of a bundle that is warm"
    idle = Neighbours((wide,) * 6, 0.0, 0.0)
    across = _across_mm(core, idle)
    assert _path(core, idle, across, 1.0) == pytest.approx(own)
    warm = 0.5 / (2 * math.pi * CONDUCTIVITY_W_PER_M_K)
    assert _path(core, idle, across, 0.0) == pytest.approx(warm)


def test_half_the_cells_have_half_the_resistance_and_a_winding_a_quarter() -> None:
    battery = Device("D1", "Battery", "battery", ("+", "-"))
    relay = Device("K1", "Relay", "relay", ("30", "87", "86", "85"))
    for name in ("ohm", "charge ohm"):
        assert value(battery, name, 6.0) == pytest.approx(value(battery, name, 12.0) / 2)
    assert value(relay, "coil ohm", 24.0) == pytest.approx(4 * value(relay, "coil ohm", 12.0))


@pytest.mark.parametrize("kind", [name for name, one in KINDS.items() if one.inrush])
def test_what_a_load_begins_with_is_judged_against_its_fuse(kind: str) -> None:
    entry = KINDS[kind]
    assert entry.inrush is not None
    load = Device("D3", "It", kind, ("+", "-"), values=(("A", 4.0),))
    job = job_of("D1/+ F1/in, F1/out D3/+, D3/- E1, E1 D1/-", load)
    job = replace(job, wires=tuple(replace(w, size=metric(6), length_m=0.1) for w in job.wires))
    analysis = Analysis(job)
    amps = analysis.operating_point(RUNNING).load["D3"].amps
    inrush = analysis.electrics.fuse_work["F1"].inrush
    assert inrush is not None
    assert inrush[0] == pytest.approx(entry.inrush[0] * amps, rel=0.01)
    assert inrush[1] == entry.inrush[1]
    assert entry.inrush[0] > 1.5, "it begins with more than it runs with"


def matched(donor: tuple[str, ...], wanted: tuple[str, ...]) -> dict[str, set[str]]:
    """Return how sure the matches of leads are, by their function."""

    def plug(code: str, names: tuple[str, ...]) -> Connector:
        pins = tuple(Pin(str(n), name) for n, name in enumerate(names, 1))
        return Connector(code, code, Grid(2, 4), pins=pins)

    job = Job(
        "x",
        connectors=(plug("C1", donor), plug("C2", wanted)),
        repins=(RepinSet("R1", "Plug", sources=("C1",), target="C2"),),
    )
    found: dict[str, set[str]] = {}
    for one in Analysis(job).plans["R1"].matches:
        found.setdefault(one.lead.function, set()).add(one.state)
    return found


def test_a_match_is_not_sure_where_another_says_the_same() -> None:
    both = "Fuel pump", "Horn"
    assert matched(both, both) == {"Fuel pump": {"sure"}, "Horn": {"sure"}}
    assert matched(both, ("Fuel pump", *both))["Fuel pump"] == {"look"}
    assert "sure" not in matched(("Fuel pump", *both), both)["Fuel pump"]
    assert matched(("Fuel pump", *both), both)["Horn"] == {"sure"}


@pytest.mark.parametrize(("hours", "forgotten"), [(11, False), (13, True)])
def test_a_clock_is_forgotten_after_half_a_day(hours: int, forgotten: bool) -> None:
    log = (LogEntry("2026-11-02T06:00:00+00:00", "clock on", "sizes"),)
    session = running(log)
    assert session is not None
    now = session.begin.replace(hour=6 + hours)
    assert session.forgotten(now) is forgotten
    assert hours_by_stage(log, now) == {"sizes": 0.0 if forgotten else pytest.approx(hours)}


@pytest.mark.parametrize("contact", sorted(CONTACTS))
def test_a_terminal_takes_the_largest_and_the_smallest_wire_it_is_made_for(contact: str) -> None:
    """At the ends of its range a crimp is good; a hundredth of a mm² past it is not."""
    made = CONTACTS[contact]
    for mm2, verdict in (
        (made.most_mm2, "reuse"),
        (made.least_mm2, "reuse"),
        (made.most_mm2 + 0.01, "will not fit"),
        (made.least_mm2 - 0.01, "will not fit"),
    ):
        plug = Connector("C1", "Plug", Grid(1, 2), contact=contact, terminals="pin")
        lead = Lead("C1/1", (), "", "", "", None, WireSize("metric", mm2))
        assert fit(lead, plug, plug, "2").verdict == verdict
        job = small_job(
            wire("W1", "C1/1", "F1/out", size=WireSize("metric", mm2)), connectors=(plug,)
        )
        refused = [one for one in find_all(Analysis(job)) if one.rule == "terminal-size"]
        assert bool(refused) == (verdict == "will not fit")


def test_a_lead_is_not_put_back_before_it_was_taken_out() -> None:
    """That it is taken out later makes it no better."""
    wrong = (Op("unpark", "C1/1", "", "C1/2"), Op("park", "C1/1", "C1/1", ""))
    problems, _ = play(wrong, ["C1/1"])
    assert [(one.at, one.text) for one in problems] == [(0, "C1/1 has not been taken out yet")]
    assert play(wrong[::-1], ["C1/1"])[0] == ()


@pytest.mark.parametrize("rights", [0o600, 0o640, 0o664])
def test_a_file_that_is_replaced_keeps_who_may_read_it(tmp_path: Path, rights: int) -> None:
    path = tmp_path / "list.csv"
    path.write_text("before")
    path.chmod(rights)
    with written_whole(path) as part:
        part.write_text("after")
    assert path.read_text() == "after"
    assert path.stat().st_mode & 0o777 == rights


def test_only_a_plug_gets_a_drip_loop_where_it_is_wet() -> None:
    """Water runs along a wire into a plug; a stud is cleaned and bolted."""
    joints = (
        LoomNode("J1", "H1", "Plug", carries=("C1",)),
        LoomNode("J2", "H1", "Stud", carries=("E1",)),
    )
    loom = NewLoom("H1", "Loom", service_m=0.03, drip_m=0.07)
    routing = Routing(
        (loom,), joints, (Run("R1", "J1", "J2", 1.0, zone="Arch"),), (Zone("Arch", wet=True),)
    )
    job = replace(small_job(wire("W1", "C1/1", "E1")), routing=routing)
    cut = Analysis(job).cut_lengths["W1"]
    assert cut.ends_m == pytest.approx((TERMINAL_M + 0.03 + 0.07, TERMINAL_M + 0.03))


def circuits(donor: str, wanted: str, names: str = "Injector Injector") -> dict[str, str]:
    """Return where leads go that have circuits, by these. names: of the leads, then of cavities."""
    donor_names, _, wanted_names = names.partition(" / ")

    def plug(code: str, called: str, numbers: str) -> Connector:
        both = zip(called.split(), numbers.split(), strict=True)
        pins = tuple(Pin(str(n), name, number) for n, (name, number) in enumerate(both, 1))
        return Connector(code, code, Grid(2, 4), pins=pins)

    job = Job(
        "x",
        connectors=(
            plug("C1", donor_names, donor),
            plug("C2", wanted_names or donor_names, wanted),
        ),
        repins=(RepinSet("R1", "Plug", sources=("C1",), target="C2"),),
    )
    found = Analysis(job).plans["R1"].matches
    return {one.lead.circuit: one.want.circuit if one.want else "" for one in found}


def test_of_several_that_say_the_same_those_of_one_circuit_are_for_each_other() -> None:
    assert circuits("31 32", "32 31") == {"31": "31", "32": "32"}
    assert circuits("31 32", "31 32") == {"31": "31", "32": "32"}


def test_what_is_called_quite_otherwise_is_proposed_by_its_circuit() -> None:
    odd = "Krypton Xenon / Basalt Granit"
    assert circuits("31 32", "32 31", odd) == {"31": "31", "32": "32"}
    assert circuits("31 32", "41 42", odd) == {"31": "", "32": ""}


def test_a_lead_that_another_takes_the_place_of_is_told_by_the_nearest() -> None:
    """Two pumps for one cavity: the one that is left is told of what is most like it."""
    donor = ("Fuel pump", "Fuel pump", "Horn")
    wanted = ("Fuel pump", "Fuel level", "Washer pump")

    def plug(code: str, names: tuple[str, ...]) -> Connector:
        pins = tuple(Pin(str(n), name) for n, name in enumerate(names, 1))
        return Connector(code, code, Grid(2, 4), pins=pins)

    job = Job(
        "x",
        connectors=(plug("C1", donor), plug("C2", wanted)),
        repins=(RepinSet("R1", "Plug", sources=("C1",), target="C2"),),
    )
    told = [one for one in Analysis(job).plans["R1"].matches if one.runners]
    for one in told:
        assert [runner.score for runner in one.runners] == sorted(
            (runner.score for runner in one.runners), reverse=True
        )
        if one.want is None:
            assert one.reason.startswith(one.runners[0].function)
    assert told


def test_of_two_cavities_that_fit_a_loose_wire_the_empty_one_comes_first() -> None:
    pins = tuple(Pin(str(n), "Lamp", colour=Colour("RD", "WH")) for n in (1, 2))
    plug = Connector("C1", "Plug", Grid(1, 2), pins=pins)
    job = small_job(wire("W1", "C1/1", "F2/out"), connectors=(plug,))
    found = candidates(Network(job), Colour("RD", "WH"))
    assert [str(one.end) for one in found] == ["C1/2", "C1/1"]
    assert "a wire is there already" in found[1].why
    free = candidates(Network(replace(job, wires=())), Colour("RD", "WH"))
    assert [str(one.end) for one in free] == ["C1/1", "C1/2"]


@pytest.mark.parametrize(
    ("share", "rest", "named"),
    [(0.5, 0.4, False), (0.5, 0.6, True), (0.9, 0.05, False), (0.9, 0.2, True)],
)
def test_the_worst_of_a_path_is_named_where_the_rest_drops_more_than_its_own_share(
    share: float, rest: float, named: bool
) -> None:
    """share: of this wire by length; rest: what the others drop, of what the path may."""
    use = USES["lighting"]
    limit = use.drop_share * 12.0
    loss = PathLoss("D3", "Lamp", "lighting", RUN, rest * limit + 0.01, 0.01, 4.0, share, "W9", 0.2)
    judged = criterion(case(length_m=0.5, paths=(PathAsked(loss, use),)), "voltage drop")
    assert ("Most of it is in W9, 0.20 V" in judged.why) == named
