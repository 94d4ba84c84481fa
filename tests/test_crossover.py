"""Crossover: matching, what happens to each lead, and an order that can be done by hand."""

import itertools
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from conftest import found, metric, small_job, wire
from molvik.analysis import Analysis
from molvik.crossover.fit import fit
from molvik.crossover.leads import Lead
from molvik.crossover.order import Op, order, parked, play
from molvik.crossover.repinplan import IN, OUT, RepinPlan, ticks_of
from molvik.crossover.work import start_over, tick, untick
from molvik.demo import demo_job
from molvik.findings import find_all
from molvik.model import crossover_edits, edits
from molvik.model.crossover import Decided, Extension, Pinout, RepinSet
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.parts import Connector, End, Grid, Pin, Wire
from molvik.parsing.functions.words import differences, said
from molvik.sheetset import every_sheet

AT = "2026-11-20T10:00:00+01:00"


def plan_of(job: Job, code: str = "Q1") -> RepinPlan:
    return Analysis(job).plans[code]


@pytest.fixture(scope="module")
def plover() -> Job:
    return demo_job("plover")


# The order: what can be done by hand (facts of the trade: a cavity holds one terminal).


@st.composite
def shuffles(draw: st.DrawFn) -> tuple[list[str], dict[str, str], set[str], set[str]]:
    """Seated leads, where some of them go, which leave, which cavities get a new wire."""
    places = [f"C{1 + n % 2}/{n}" for n in range(draw(st.integers(1, 14)))]
    seated = draw(st.lists(st.sampled_from(places), unique=True))
    targets = draw(st.permutations(places))
    fates = draw(st.lists(st.integers(0, 3), min_size=len(seated), max_size=len(seated)))
    moves = {
        lead: end
        for lead, end, disposition in zip(seated, targets, fates, strict=False)
        if disposition >= 2 and lead != end
    }
    leaving = {lead for lead, disposition in zip(seated, fates, strict=True) if disposition == 1}
    new = {p for p in draw(st.sets(st.sampled_from(places))) if p not in moves.values()}
    return seated, moves, leaving - set(moves), new


@given(shuffles())
def test_a_plan_played_out_by_hand_never_meets_a_full_cavity(
    shuffle: tuple[list[str], dict[str, str], set[str], set[str]],
) -> None:
    seated, moves, leaving, new = shuffle
    ops, blocked = order(moves, leaving, new, seated, {})
    problems, sits = play(ops, seated)
    assert problems == ()
    stuck = {one.lead for one in blocked}
    for place in new:
        assert sits.get(place) == f"+{place}" or f"+{place}" in stuck
    where = {lead: place for place, lead in sits.items()}
    for lead in seated:
        if lead in leaving:
            assert lead not in where
        elif lead in moves and lead not in stuck:
            assert where[lead] == moves[lead]
        else:
            assert where[lead] == lead
    # Nothing is lost and nothing is there twice.
    assert len(set(sits.values())) == len(sits)
    # What is blocked really meets somebody who stays.
    for one in blocked:
        assert one.end in seated
        assert one.end not in leaving
        assert one.end not in moves or one.end in stuck


@given(st.permutations(range(7)))
def test_as_many_leads_are_parked_as_there_are_cycles(shuffled: list[int]) -> None:
    import networkx

    seated = [f"C1/{n}" for n in range(7)]
    moves = {f"C1/{n}": f"C1/{end}" for n, end in enumerate(shuffled) if n != end}
    graph = networkx.DiGraph(moves.items())
    cycles = sum(1 for _ in networkx.simple_cycles(graph))
    ops, blocked = order(moves, (), (), seated, {})
    assert blocked == ()
    assert parked(ops) == cycles


def fewest_parked(moves: dict[str, str]) -> int:
    """Find the least number of parkings by trying everything, breadth first."""
    start = frozenset(moves)
    seen = {(start, frozenset[str]())}
    wave = [(start, frozenset[str]())]  # leads still in their first place, leads in the hand
    for count in itertools.count():
        spread = list(wave)
        while spread:
            seated, out = spread.pop()
            for lead in (*seated, *out):
                if moves[lead] not in seated:
                    state = (seated - {lead}, out - {lead})
                    if state not in seen:
                        seen.add(state)
                        spread.append(state)
                        wave.append(state)
        if any(not seated and not out for seated, out in wave):
            return count
        wave = [
            state
            for seated, out in wave
            for lead in seated
            if (state := (seated - {lead}, out | {lead})) not in seen and not seen.add(state)  # type: ignore[func-returns-value]
        ]
    raise AssertionError


@given(st.permutations(range(6)), st.integers(0, 3))
def test_nobody_can_do_it_with_fewer_parked(shuffled: list[int], shift: int) -> None:
    # Some go to cavities beyond, so that there are chains as well as cycles.
    moves = {
        f"C1/{n}": f"C1/{end + (10 if end < shift else 0)}"
        for n, end in enumerate(shuffled)
        if n != end or end < shift
    }
    ops, _ = order(moves, (), (), [f"C1/{n}" for n in range(6)], {})
    assert parked(ops) == fewest_parked(moves)


@given(shuffles())
def test_never_more_than_one_lead_hangs_beside_the_one_in_hand(
    shuffle: tuple[list[str], dict[str, str], set[str], set[str]],
) -> None:
    seated, moves, leaving, new = shuffle
    hanging = 0
    for op in order(moves, leaving, new, seated, {})[0]:
        hanging += (op.kind == "park") - (op.kind == "unpark")
        assert hanging in (0, 1)


def test_paths_are_worked_along_the_rows() -> None:
    rank = {f"C1/{n}": (0, float(n // 4), float(n % 4)) for n in range(16)}
    moves = {"C1/9": "C1/12", "C1/2": "C1/13", "C1/5": "C1/14"}
    ops, _ = order(moves, (), (), list(moves), rank)
    assert [op.lead for op in ops] == ["C1/2", "C1/5", "C1/9"]


def test_an_order_that_breaks_says_at_which_step_and_what_frees_it() -> None:
    ops = (Op("move", "C1/1", "C1/1", "C1/2"), Op("move", "C1/2", "C1/2", "C1/3"))
    problems, sits = play(ops, ["C1/1", "C1/2"])
    assert [(one.at, one.text) for one in problems] == [
        (0, "C1/2 is still full; step 2 frees it"),
    ]
    assert sits["C1/3"] == "C1/2"
    assert play((Op("unpark", "C1/1", "", "C1/2"),), ["C1/1"])[0][0].text.endswith("out yet")


# Words (common practice; no source).


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ("TPS signal", "Throttle wiper"),
        ("Coolant temp", "CLT signal"),
        ("Lambda heater", "O2 sensor heater"),
        ("Boost sensor signal", "MAP"),
        ("Injector cyl. 3", "INJ 3"),
        ("Engine speed out", "Tachometer"),
        ("CAN-H", "CAN high"),
        ("Reversing lamp switch", "reverse light switch"),
        ("RPM sensor -", "Crankshaft sensor return"),
        ("Knock sensor screen", "Knock shield"),
    ],
)
def test_names_that_mean_the_same(one: str, other: str) -> None:
    assert said(one)[:3] == said(other)[:3]


@pytest.mark.parametrize(
    ("function", "kind"),
    [
        ("Power ground", "earth"),
        ("Sensor ground", "return"),
        ("TPS ground", "return"),
        ("Coolant sensor earth", "return"),
        ("TPS 5V", "reference"),
        ("throttle ref", "reference"),
        ("sensor supply A", "reference"),
        ("Boost sensor supply", "reference"),
        ("Ignition feed", "key"),
        ("Keep alive", "permanent"),
        ("Supply from main relay", "relay"),
        ("Main relay driver", "signal"),
        ("Knock shield", "screen"),
        ("", ""),
    ],
)
def test_of_what_kind_a_conductor_is(function: str, kind: str) -> None:
    assert said(function).kind == kind


@pytest.mark.parametrize(
    ("circuit", "kind"), [("30", "permanent"), ("15", "key"), ("31", "earth"), ("87", "relay")]
)
def test_a_terminal_number_of_din_72552_tells_the_kind(circuit: str, kind: str) -> None:
    assert said("", circuit).kind == kind


def test_what_is_alike_in_name_but_not_in_kind_is_told() -> None:
    assert differences(said("Tacho, 2 pulses per turn"), said("Tacho, 4 pulses per turn"))
    assert differences(said("Fuel sender 10-180 ohm"), said("Fuel sender, 240 to 33 ohm"))
    assert differences(said("Oil pressure switch"), said("Oil pressure sender"))
    assert differences(said("Fan", note="pulls low"), said("Fan", note="high side"))
    assert differences(said("One-wire oxygen sensor"), said("Oxygen sensor, four-wire"))
    assert not differences(said("Fuel sender 10-180 ohm"), said("Fuel sender 10 to 180 ohms"))
    assert not differences(said("Tacho, 2 pulses per turn"), said("Tacho"))


# The demo, against a hand-made answer.

ANSWER = {
    "C1/7": "52",
    "C1/8": "5",
    "C1/9": "6",
    "C1/10": "7",
    "C1/11": "8",
    "C1/14": "11",
    "C1/15": "12",
    "C1/19": "15",
    "C1/20": "16",
    "C1/21": "17",
    "C1/22": "18",
    "C1/23": "19",
    "C1/26": "23",
    "C1/27": "24",
    "C1/28": "30",
    "C1/30": "27",
    "C1/31": "28",
    "C1/32": "29",
    "C1/36": "33",
    "C1/37": "34",
    "C1/38": "37",
    "C1/39": "38",
    "C1/40": "41",
    "C1/41": "42",
    "C1/44": "3",
    "C1/45": "2",
    "C1/46": "4",
    "C1/48": "49",
    "C1/50": "50",
    "C1/52": "60",
    "C1/53": "61",
    "C1/58": "",
    "C1/61": "62",
    "C2/43": "45",
    "C2/45": "47",
    "C2/47": "43",
    "C2/30": "53",
    "C2/53": "21",
    "C2/21": "26",
    "C2/69": "69",
    "C1/47": "48",
}
"""Looked up by hand, function by function. C1/47 needs a converter first."""

GROUPS = [
    ({"C1/1", "C1/2"}, {"68", "70"}),
    ({"C1/4", "C1/5", "C1/6"}, {"1", "13", ""}),
    ({"C1/25", "C1/29"}, {"22", "31"}),
]
"""Of these any will do; the third supply has no cavity of its own."""


def test_the_demos_matches_are_right_or_left_to_the_user(plover: Job) -> None:
    found = {one.lead.place: one for one in plan_of(plover).matches}
    assert len(found) == 48
    for lead, cavity in ANSWER.items():
        match = found[lead]
        to = match.want.place.partition("/")[2] if match.want else ""
        if match.settled:
            assert to == cavity, (lead, match)
    for leads, cavities in GROUPS:
        got = {m.want.place.partition("/")[2] if m.want else "" for m in map(found.get, leads) if m}
        assert got == cavities
    assert found.keys() == ANSWER.keys() | set().union(*(leads for leads, _ in GROUPS))
    left = {lead for lead, one in found.items() if not one.settled}
    assert left == {"C1/14", "C1/15", "C1/47", "C1/58"}  # coils by letter and by cylinder; pulses
    assert found["C1/47"].state == "converter"
    assert "pulses: 2 against 4" in found["C1/47"].reason
    oil = next(m for m in plan_of(plover, "Q2").matches if m.lead.place == "C3/5")
    assert oil.state == "converter"


def test_the_demo_has_a_cycle_of_three_a_chain_of_four_and_the_rest(plover: Job) -> None:
    plan = plan_of(plover)
    steps = [(op.kind, op.lead, op.end) for op in plan.ops]
    at = steps.index(("park", "C2/47", ""))
    assert steps[at : at + 4] == [
        ("park", "C2/47", ""),
        ("move", "C2/45", "C2/47"),
        ("move", "C2/43", "C2/45"),
        ("unpark", "C2/47", "C2/43"),
    ]
    at = steps.index(("move", "C2/21", "C2/26"))
    assert steps[at : at + 4] == [
        ("move", "C2/21", "C2/26"),
        ("move", "C2/53", "C2/21"),
        ("move", "C2/30", "C2/53"),
        ("move", "C1/28", "C2/30"),
    ]
    assert plan.broken == ()
    by_action: dict[str, list[str]] = {}
    for one in plan.happenings:
        by_action.setdefault(one.action, []).append(one.place or one.end)
    assert by_action["stays"] == ["C2/69"]  # no move for its own sake
    assert by_action["joins"] == ["C1/6"]  # three feeds into two
    assert "stowed" not in by_action, "nobody decided that"
    assert "C1/58" in by_action["undecided"]
    assert sorted(by_action["new"]) == ["C2/54", "C2/55"]
    assert {one.place for one in plan.happenings if one.extend_m} == {"C1/36", "C1/38"}
    assert len(plan.repin.leads) >= 40


def test_a_cavity_that_waits_for_a_decision_gets_no_plug(plover: Job) -> None:
    plan = plan_of(plover)
    assert "11" not in plan.empty["C2"]
    assert "48" not in plan.empty["C2"]
    assert "9" in plan.empty["C2"]


# What the user says.


def table_job(donor: dict[str, str], wanted: dict[str, str], **fields: object) -> Job:
    """Return a job with two tables and no wires, and a set from the one to the other."""
    one = Connector("C1", "Donor", Grid(2, 10), pins=tuple(Pin(c, f) for c, f in donor.items()))
    two = Connector("C2", "ECU", Grid(2, 10), pins=tuple(Pin(c, f) for c, f in wanted.items()))
    job = Job("x", connectors=(one, two))
    return crossover_edits.add(job, RepinSet("", "ECU", ("C1",), "C2", **fields))  # type: ignore[arg-type]


def test_two_tables_alone_are_enough() -> None:
    plan = plan_of(table_job({"1": "TPS signal", "2": "Ground"}, {"7": "Throttle", "8": "GND"}))
    assert [(op.begin, op.end) for op in plan.ops] == [("C1/1", "C2/7"), ("C1/2", "C2/8")]


def test_two_functions_of_one_name_are_left_to_the_user() -> None:
    plan = plan_of(table_job({"1": "Fan relay", "2": "Fan relay"}, {"7": "Fan", "8": "Pump relay"}))
    assert not any(one.settled and one.want for one in plan.matches)
    assert [one.action for one in plan.happenings[:2]] == ["undecided", "undecided"]


def test_one_feed_for_three_cavities_is_branched_with_a_splice() -> None:
    wanted = {"7": "Battery supply", "8": "Constant feed", "9": "Keep alive"}
    plan = plan_of(table_job({"1": "Permanent supply"}, wanted))
    actions = {one.end: one.action for one in plan.happenings}
    assert sorted(actions.values()) == ["other connector", "splits", "splits"]
    assert "splice" in next(one.reason for one in plan.happenings if one.action == "splits")


def test_what_the_user_confirms_stands_over_a_new_import_that_says_the_same() -> None:
    job = table_job({"1": "Ignition coil 1-4"}, {"7": "Coil A", "8": "Coil B"})
    word = Decided("C1/1", "match", "C2/8", ("Ignition coil 1-4", "Coil B"))
    job = crossover_edits.decide(job, "Q1", word)
    (match,) = plan_of(job).matches
    assert (match.state, match.want and match.want.place) == ("confirmed", "C2/8")
    pins = (Pin("7", "Coil A"), Pin("8", "Coil B"), Pin("9", "Fan"))
    again = edits.set_pins(job, "C2", pins, "second.csv")
    assert plan_of(again).matches[0].state == "confirmed"
    other = edits.set_pins(job, "C2", (Pin("7", "Coil B"), Pin("8", "Coil A")), "third.csv")
    (match,) = plan_of(other).matches
    assert not match.settled
    assert "the tables now say" in match.reason
    assert plan_of(other).ops[0].kind == "new"  # not pushed anywhere meanwhile


def test_a_match_to_a_cavity_that_does_not_exist_is_told() -> None:
    job = table_job({"1": "Fan relay"}, {"7": "Cooling fan relay"})
    job = crossover_edits.decide(job, "Q1", Decided("C1/1", "match", "C2/99"))
    (match,) = plan_of(job).matches
    assert not match.settled
    assert "C2/99, which does not exist" in match.reason


def test_a_cavity_is_given_to_one_lead_only() -> None:
    job = table_job({"1": "Coil 1-4", "2": "Coil 2-3"}, {"7": "Coil A", "8": "Coil B"})
    for lead in ("C1/1", "C1/2"):
        job = crossover_edits.decide(job, "Q1", Decided(lead, "match", "C2/7"))
    assert [(one.lead, one.to) for one in job.repins[0].decided] == [("C1/2", "C2/7")]


def test_a_lead_without_a_place_is_stowed_removed_or_joined_as_the_user_says() -> None:
    job = table_job({"1": "Immobiliser", "2": "Fan relay"}, {"7": "Fan"})
    assert plan_of(job).by_lead["C1/1"].action == "undecided"
    assert not any(op.lead == "C1/1" for op in plan_of(job).ops), "it is not in the order"
    why = crossover_edits.decide(job, "Q1", Decided("C1/1", "stow", why="not used here"))
    assert plan_of(why).by_lead["C1/1"].action == "stowed"
    assert plan_of(why).by_lead["C1/1"].reason == "you decided: stow, not used here"
    gone = crossover_edits.decide(job, "Q1", Decided("C1/1", "remove"))
    assert plan_of(gone).by_lead["C1/1"].action == "removed"
    joined = crossover_edits.decide(job, "Q1", Decided("C1/1", "join", "C2/7"))
    assert plan_of(joined).by_lead["C1/1"][2:4] == ("joins", "C2/7")
    back = crossover_edits.undecide(gone, "Q1", "C1/1")
    assert plan_of(back).by_lead["C1/1"].action == "undecided"


LEFT = {
    "1": "Battery feed",
    "2": "Power ground",
    "3": "Injector 1",
    "4": "Coil 2",
    "5": "CAN high",
    "6": "Seat heater",
}


@pytest.mark.parametrize("approach", ["mixed", "donor's wiring", "chassis wiring"])
def test_nothing_is_put_aside_that_nobody_decided(approach: str) -> None:
    """Leads for which the other table has nothing: they wait, are counted, and are told."""
    job = table_job(LEFT, {"7": "Oil pressure lamp"})
    job = crossover_edits.change(job, "Q1", approach=approach)
    plan = plan_of(job)
    assert {one.action for one in plan.happenings if one.lead} == {"undecided"}
    assert plan.ops == tuple(op for op in plan.ops if op.kind == "new")
    finding = next(one for one in find_all(Analysis(job)) if one.rule == "lead-left-undone")
    assert finding.severity == "stop"
    assert "6 wires have no cavity" in finding.what
    assert "4 of them feeds, earths, injectors or coils" in finding.what
    for lead in ("C1/1", "C1/2", "C1/3", "C1/4"):
        job = crossover_edits.decide(job, "Q1", Decided(lead, "stow", why="kept for later"))
    finding = next(one for one in find_all(Analysis(job)) if one.rule == "lead-left-undone")
    assert finding.severity == "look"


@pytest.mark.parametrize("seed", range(20))
def test_nothing_is_put_aside_whatever_the_words_are(seed: int) -> None:
    """Words that no list has: abbreviations, other languages, no words at all."""
    chance = random.Random(seed)
    words = (
        "INJ1",
        "PGND",
        "Masse Leistung",
        "Einspritzventil 3",
        "masse puissance",
        "87",
        "KL15",
        "bobina 2",
        "",
        "qzx vrb",
        "lkj 7",
        "Sonde -",
    )
    donor = {str(n): chance.choice(words) for n in range(1, 9)}
    wanted = {str(n): chance.choice(words) for n in range(1, 5)}
    plan = plan_of(table_job(donor, wanted))
    assert not {"stowed", "removed"} & {one.action for one in plan.happenings}
    assert not any(
        op.kind == "leave" and plan.by_lead[op.lead].action != "joins" for op in plan.ops
    )


def test_confirming_one_lead_puts_no_other_aside() -> None:
    job = table_job({"1": "Fan relay", "2": "Cooling fan relay"}, {"7": "Fan relay"})
    for lead, other in (("C1/1", "C1/2"), ("C1/2", "C1/1")):
        said = crossover_edits.decide(job, "Q1", Decided(lead, "match", "C2/7"))
        assert plan_of(said).by_lead[other].action == "undecided"


def test_an_undecided_lead_is_not_pushed_upon() -> None:
    job = table_job({"1": "Fan relay"}, {"7": "Cooling fan relay"})
    there = wire("W1", "C2/7", "C1/20", function="Something else")
    job = replace(job, wires=(there, wire("W2", "C1/1", "", function="Fan relay")))
    job = crossover_edits.decide(job, "Q1", Decided("C2/7", "match", "C2/99"))
    plan = plan_of(job)
    assert [(one.lead, one.end) for one in plan.blocked] == [("C1/1", "C2/7")]
    assert not any(op.end == "C2/7" for op in plan.ops)


def test_the_school_says_what_happens_to_the_rest_and_which_diagram_holds() -> None:
    job = table_job({"1": "Immobiliser", "2": "Fan relay"}, {"7": "Fan"})
    mixed = plan_of(job)
    assert mixed.by_lead["C1/2"].diagram == "donor"
    chassis = plan_of(crossover_edits.change(job, "Q1", approach="chassis wiring"))
    assert chassis.by_lead["C1/1"].action == "undecided"
    assert chassis.by_lead["C1/2"].diagram == "chassis"
    donor = plan_of(crossover_edits.change(job, "Q1", approach="donor's wiring"))
    assert donor.by_lead["C1/1"].action == "undecided"
    assert donor.by_lead["C1/2"].diagram == "donor"


def test_one_housing_becomes_another_variant_of_itself() -> None:
    pins = (Pin("1", "Fan relay"), Pin("2", "Pump relay"), Pin("3", "Check lamp"))
    job = Job("x", connectors=(Connector("C1", "ECU", Grid(1, 4), pins=pins),))
    with pytest.raises(EditError, match="what it is already"):
        crossover_edits.add(job, RepinSet("", "ECU", ("C1",), "C1"))
    turned = (Pin("1", "Pump relay"), Pin("2", "Check lamp"), Pin("3", "Fan relay"))
    job = crossover_edits.add_pinout(job, Pinout("C1", "automatic", turned))
    job = crossover_edits.add(job, RepinSet("", "ECU", ("C1",), "C1", "automatic"))
    plan = plan_of(job)
    assert parked(plan.ops) == 1
    assert len(plan.ops) == 4
    with pytest.raises(EditError, match="The repin set ECU wants"):
        crossover_edits.remove_pinout(job, "C1", "automatic")


def test_a_broken_housing_is_changed_one_to_one() -> None:
    old = Connector("C1", "Broken", Grid(1, 3), "plug", "socket", "20")
    new = Connector("C2", "New", Grid(1, 3), "plug", "socket", "20")
    wires = tuple(wire(f"W{n}", f"C1/{n}", "E1", function="same name") for n in (1, 2, 3))
    job = replace(small_job(), connectors=(old, new), wires=wires)
    with pytest.raises(EditError, match="choose the new connector"):
        crossover_edits.add(job, RepinSet("", "x", ("C1",), "C1", kind="one to one"))
    job = crossover_edits.add(job, RepinSet("", "Broken", ("C1",), "C2", kind="one to one"))
    plan = plan_of(job)
    assert [(op.begin, op.end) for op in plan.ops] == [
        ("C1/1", "C2/1"),
        ("C1/2", "C2/2"),
        ("C1/3", "C2/3"),
    ]
    assert [step.do for step in plan.steps[:2]] == ["Number the wires", "Compare key and numbers"]


@pytest.mark.parametrize(
    ("repin", "words"),
    [
        (RepinSet("", " ", ("C1",), "C2"), "a name"),
        (RepinSet("", "x", (), "C2"), "wires come from"),
        (RepinSet("", "x", ("C9",), "C2"), "no connector C9"),
        (RepinSet("", "x", ("C1",), "C2", "1999"), "no table called"),
    ],
)
def test_a_set_that_cannot_be_is_refused(repin: RepinSet, words: str) -> None:
    with pytest.raises(EditError, match=words):
        crossover_edits.add(small_job(), repin)


def test_a_terminal_is_used_again_made_new_or_does_not_fit() -> None:
    def lead(area: float) -> Lead:
        return Lead("C1/1", (), "", "", "", None, metric(area))

    def housing(contact: str, terminals: str = "socket", **fields: object) -> Connector:
        return Connector("C", "", Grid(1, 2), "plug", terminals, contact, **fields)  # type: ignore[arg-type]

    one, two = replace(housing("20"), code="C1"), replace(housing("16"), code="C2")
    assert fit(lead(0.75), one, one, "2").verdict == "reuse"
    assert fit(lead(0.75), one, two, "2").verdict == "re-terminate"
    assert fit(lead(2.5), one, two, "2").verdict == "will not fit"
    assert "2.5 mm² is outside 0.5 to 2.1 mm²" in fit(lead(2.5), one, two, "2").why
    assert fit(lead(0.75), one, housing("20", "pin"), "2").verdict == "re-terminate"
    assert fit(lead(0.75), one, housing(""), "2").verdict == "not known"
    mixed = housing("20", contacts=(("2", "12"),))
    assert fit(lead(0.75), one, mixed, "1").verdict == "reuse"
    assert fit(lead(0.75), one, mixed, "2").verdict == "will not fit"


def test_a_lead_that_is_too_short_is_extended_before_it_goes_in() -> None:
    job = table_job({"1": "Fan relay"}, {"7": "Cooling fan relay"})
    job = crossover_edits.extend(job, "Q1", Extension("C1/1", 0.4, "other side"))
    assert plan_of(job).moves[0].ticks == (OUT, "extended by 0.40 m", IN, "tugged")
    none = crossover_edits.extend(job, "Q1", Extension("C1/1", 0.0))
    assert plan_of(none).moves[0].ticks == (OUT, IN, "tugged")
    with pytest.raises(EditError, match="zero or more"):
        crossover_edits.extend(job, "Q1", Extension("C1/1", -1))


# The work, tick by tick.


def do_all(job: Job, code: str) -> Job:
    """Tick every part of every step, as at the bench."""
    for number in range(len(Analysis(job).plans[code].steps)):
        step = Analysis(job).plans[code].steps[number]
        for part in step.ticks:
            job = tick(job, code, step, step.tick_key(part), AT, "Mirel")
    return job


def test_ticking_moves_the_wires_and_the_end_is_what_was_wanted(plover: Job) -> None:
    plover = crossover_edits.decide(plover, "Q1", Decided("C1/58", "stow", why="no immobiliser"))
    plan = plan_of(plover)
    steps = [step.key for step in plan.steps]
    done = do_all(plover, "Q1")
    after = plan_of(done)
    assert [step.key for step in after.steps] == steps  # the plan stands while it is worked on
    assert after.astray(ticks_of(after.network, "Q1")) == ()
    at = Analysis(done).network.wires_at
    for one in plan.happenings:
        if one.lead is None or one.action == "undecided":
            continue
        (code, _) = one.lead.wires[0]
        if one.place == "C1/4":  # spliced to the third supply: its tail sits there
            assert done.wire(code).start == End("S1")  # type: ignore[union-attr]
            assert at[End("C2", "1")][0].start == End("S1")
        elif one.action in ("moves", "other connector", "stays"):
            assert [w.code for w in at[End(*one.end.split("/"))]] == [code]
        elif one.action == "joins":
            assert done.wire(code).start == End("S1")  # type: ignore[union-attr]
        else:
            assert End() in done.wire(code).ends  # type: ignore[union-attr]
    assert done.wire("W40").stowed  # type: ignore[union-attr]
    filled = {pin.cavity: pin.fill for pin in done.connector("C2").pins}  # type: ignore[union-attr]
    assert filled["9"] == "plugged"
    assert all(len(wires) == 1 for end, wires in at.items() if end.at == "C2")


def test_a_tick_taken_back_puts_the_wire_back(plover: Job) -> None:
    step = next(s for s in plan_of(plover).moves if s.take == "C1/8")
    job = tick(plover, "Q1", step, step.tick_key(OUT), AT, "")
    code = "W7"
    assert job.wire(code).start == End()  # type: ignore[union-attr]
    job = tick(job, "Q1", step, step.tick_key(IN), AT, "")
    assert job.wire(code).start == End("C2", "5")  # type: ignore[union-attr]
    job = untick(job, "Q1", step, step.tick_key(IN))
    assert job.wire(code).start == End()  # type: ignore[union-attr]
    job = untick(job, "Q1", step, step.tick_key(OUT))
    assert job.wire(code).start == End("C1", "8")  # type: ignore[union-attr]


def test_a_new_wire_comes_into_the_job_with_its_terminal(plover: Job) -> None:
    step = next(s for s in plan_of(plover).moves if s.put == "C2/54")
    job = tick(plover, "Q1", step, step.tick_key("wire made"), AT, "")
    assert len(job.wires) == len(plover.wires)
    job = tick(job, "Q1", step, step.tick_key(IN), AT, "")
    made = job.wires[-1]
    assert (made.start, made.function) == (End("C2", "54"), "Reverse lamp switch")
    assert not made.finish.at  # where it goes is for the user to say
    assert plan_of(job).astray(ticks_of(Analysis(job).network, "Q1")) == ()
    back = untick(job, "Q1", step, step.tick_key(IN))
    assert back.wires == plover.wires


def test_a_lead_that_joins_another_ends_with_it_in_a_splice(plover: Job) -> None:
    def ticked(job: Job, take: str, part: str) -> Job:
        step = next(s for s in plan_of(job).moves if s.take == take)
        return tick(job, "Q1", step, step.tick_key(part), AT, "")

    first = ticked(plover, "C1/6", OUT)
    job = ticked(first, "C1/6", "spliced")
    (splice,) = job.splices
    at = Analysis(job).network.wires_at
    # The third supply, the one it joins, and a tail to where that one's terminal is.
    assert [w.code for w in at[End(splice.code)]] == ["W3", "W5", job.wires[-1].code]
    assert [w.code for w in at[End("C1", "4")]] == [job.wires[-1].code]
    job = ticked(ticked(job, "C1/4", OUT), "C1/4", IN)
    at = Analysis(job).network.wires_at
    assert [w.code for w in at[End("C2", "1")]] == [job.wires[-1].code]
    plan = plan_of(job)
    assert plan.astray(ticks_of(plan.network, "Q1")) == ()
    assert "loose-end" not in found(job)
    step = next(s for s in plan.moves if s.take == "C1/6")
    back = untick(job, "Q1", step, step.tick_key("spliced"))
    assert back.splices == ()
    at = Analysis(back).network.wires_at
    assert [w.code for w in at[End("C2", "1")]] == ["W3"]
    assert back.wire("W5").start == End()  # type: ignore[union-attr]


def test_a_push_into_a_full_cavity_is_refused(plover: Job) -> None:
    step = next(s for s in plan_of(plover).moves if s.take == "C1/28")
    job = tick(plover, "Q1", step, step.tick_key(OUT), AT, "")
    with pytest.raises(EditError, match="C2/30 is still full: W46 is in it"):
        tick(job, "Q1", step, step.tick_key(IN), AT, "")


def test_a_plan_whose_wires_were_moved_meanwhile_says_so(plover: Job) -> None:
    step = plan_of(plover).moves[0]
    job = tick(plover, "Q1", step, step.tick_key(OUT), AT, "")
    job = edits.change_wire(job, "W9", start=End("C1", "60"))
    job = edits.remove_wires(job, frozenset(["W10"]))
    plan = plan_of(job)
    astray = plan.astray(ticks_of(plan.network, "Q1"))
    assert "W9 is in C1/60 now; the plan has it in C1/10." in astray
    assert any(text.startswith("W10 is no longer in the job") for text in astray)
    fresh = start_over(job, "Q1")
    assert plan_of(fresh).astray(set()) == ()
    assert not [one for one in fresh.ticks if one.list == "repin Q1"]


def test_the_way_back_to_stock_is_a_plan_too(plover: Job) -> None:
    plan = plan_of(plover)
    seated = [lead.place for lead in plan.repin.leads]
    _, after = play(plan.ops, seated)
    problems, sits = play(plan.back, after)
    assert problems == ()
    assert set(sits) == set(seated)  # every cavity that was full is full again, no other
    first = dict(after)
    for op in plan.back:
        if op.kind == "move":
            assert first[op.lead] == op.end  # each lead that moved is in its first cavity


def test_the_users_order_is_kept_and_judged(plover: Job) -> None:
    keys = [op.key for op in plan_of(plover).ops]
    at = keys.index("move C1/28 C2/30")
    turned = [keys[at], *keys[:at], *keys[at + 1 :]]
    job = crossover_edits.change(plover, "Q1", order=tuple(turned))
    plan = plan_of(job)
    assert plan.ops[0].key == "move C1/28 C2/30"
    assert plan.broken[0].at == 0
    assert "C2/30 is still full; step" in plan.broken[0].text


def test_any_pair_of_pinouts_gives_a_plan_that_can_be_done() -> None:
    words = [f"Signal {n}" for n in range(1, 13)]
    for seed in range(40):
        chance = random.Random(seed)
        donor = {str(n): chance.choice(words) for n in chance.sample(range(1, 20), 9)}
        wanted = {str(n): w for n, w in zip(chance.sample(range(1, 20), 9), words, strict=False)}
        wires = tuple(
            Wire(f"W{n}", End("C2", str(n)), End("C1", "20"), chance.choice(words))
            for n in chance.sample(range(1, 20), 5)
        )
        job = replace(table_job(donor, wanted), wires=wires)
        plan = plan_of(job)
        assert plan.broken == ()
        done = do_all(job, "Q1")
        assert plan_of(done).astray(ticks_of(Analysis(done).network, "Q1")) == ()


def test_the_repin_sheets_are_among_the_sheets(plover: Job) -> None:
    names = [sheet.name for sheet in every_sheet(Analysis(plover))]
    assert {"repin-Q1", "repin-Q2", "repin-Q3", "repin-Q1-back"} <= set(names)
    plover = crossover_edits.decide(plover, "Q1", Decided("C1/58", "stow", why="no immobiliser"))
    back = next(s for s in every_sheet(Analysis(plover)) if s.name == "repin-Q1-back")
    assert ("Boost sensor signal", "C2/30", "C1/28") in [row[1:] for row in back.tables[0].rows]
    assert ("Immobiliser line", "capped or spliced", "C1/58") in [
        row[1:] for row in back.tables[0].rows
    ]


def test_what_is_wrong_with_a_repinning_is_found(plover: Job) -> None:
    by_rule = found(plover)
    assert [one.subject for one in by_rule["match-to-decide"]] == [
        "C1/14 Q1",
        "C1/15 Q1",
        "C3/9 Q2",
        "C5/5 Q3",
    ]
    assert [one.subject for one in by_rule["needs-converter"]] == ["C1/47 Q1", "C3/5 Q2"]
    (tight,) = by_rule["lead-does-not-fit"]
    assert "2.5 mm² is outside 0.5 to 2.1 mm²" in tight.why
    keys = [op.key for op in plan_of(plover).ops]
    last = tuple(sorted(keys, key=lambda key: key != "move C1/28 C2/30"))
    broken = found(crossover_edits.change(plover, "Q1", order=last))
    assert [one.severity for one in broken["order-breaks"]] == ["stop"]
    step = plan_of(plover).moves[0]
    astray = tick(plover, "Q1", step, step.tick_key(OUT), AT, "")
    astray = edits.change_wire(astray, "W9", start=End("C1", "60"))
    assert [one.subject for one in found(astray)["wires-astray"]] == ["Q1"]


def test_a_cavity_that_a_repinning_fills_is_not_called_forgotten(plover: Job) -> None:
    assert "named-not-wired" not in found(plover)
    assert "named-not-wired" in found(replace(plover, repins=()))
