"""Ends, nets, feeds and stories."""

import math

import networkx
import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import small_job, wire
from molvik.circuits.story import story
from molvik.model.job import Job
from molvik.model.parts import LOOSE, Connector, Device, End, Fuse, Grid, Splice
from molvik.netlist.ends import EndError, read_end
from molvik.netlist.network import Network


@pytest.mark.parametrize(
    ("text", "end"),
    [
        ("C1 4", End("C1", "4")),
        ("c1/4", End("C1", "4")),
        ("F1 out", End("F1", "out")),
        ("f1.IN", End("F1", "in")),
        ("D1 +", End("D1", "+")),
        ("D1+", End("D1", "+")),
        ("E1", End("E1")),
        ("loose", LOOSE),
        ("", LOOSE),
    ],
)
def test_an_end_is_read_as_it_is_typed(text: str, end: End) -> None:
    assert read_end(text, Network(small_job())) == end


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("C9 1", "There is no C9"),
        ("C1 40", r"Engine plug \(C1\) has no cavity 40"),
        ("C1", "type its cavity too"),
        ("F1", "Type F1 in, F1 out"),
        ("hello there", "not an end of a wire"),
    ],
)
def test_an_end_that_is_not_there_is_refused_with_what_to_type(text: str, words: str) -> None:
    with pytest.raises(EndError, match=words):
        read_end(text, Network(small_job()))


def test_mated_halves_carry_a_wire_through() -> None:
    job = small_job(
        wire("W1", "F2/out", "C1/1"),
        wire("W2", "C2/1", "E1"),
        connectors=(
            Connector("C1", "Half", Grid(2, 3)),
            Connector("C2", "Other half", Grid(2, 3), plugs_into="C1"),
        ),
    )
    network = Network(job)
    assert network.net_of[End("F2", "out")] == network.net_of[End("E1")]
    assert [stop.name for stop in story(network, job.wires[0])] == [
        "F2 Lamp",
        "Half",
        "Other half",
        "Block",
    ]


FED = small_job(
    wire("W1", "D1/+", "F1/in"),
    wire("W2", "F1/out", "K1/30"),
    wire("W3", "K1/87", "F2/in"),
    wire("W4", "F2/out", "C1/1"),
    wire("W5", "C1/2", "E1"),
)


def test_the_fuse_nearest_before_a_wire_is_the_weakest_on_its_way() -> None:
    network = Network(FED)
    feeds = {w.code: network.feed(w) for w in FED.wires}
    assert feeds["W1"] is not None
    assert math.isinf(feeds["W1"].limit_a)
    # Through the relay's contact the main fuse still counts; then the lamp's own.
    assert [(f.fuse, f.limit_a) for c in ("W2", "W3", "W4") if (f := feeds[c])] == [
        ("F1", 40),
        ("F1", 40),
        ("F2", 10),
    ]
    assert feeds["W5"] is None


def test_a_second_way_without_a_fuse_is_what_counts() -> None:
    job = small_job(*FED.wires, wire("W6", "D1/+", "C2/1"), wire("W7", "C2/1", "K1/87"))
    feed = Network(job).feed(job.wires[2])
    assert feed is not None
    assert math.isinf(feed.limit_a)


@st.composite
def fused_jobs(draw: st.DrawFn) -> Job:
    """A battery and splices joined at random by fuses of random ratings."""
    count = draw(st.integers(2, 6))
    pairs = draw(
        st.lists(
            st.tuples(
                st.integers(0, count - 1), st.integers(0, count - 1), st.sampled_from([5, 10, 15])
            ),
            min_size=1,
            max_size=9,
        )
    )
    splices = tuple(Splice(f"S{n}") for n in range(count))
    fuses = tuple(Fuse(f"F{n}", "f", rating) for n, (_, _, rating) in enumerate(pairs))
    wires = [wire("W0", "D1/+", "S0")]
    for n, (one, other, _) in enumerate(pairs):
        wires += [wire(f"W{2 * n + 1}", f"S{one}", f"F{n}/in")]
        wires += [wire(f"W{2 * n + 2}", f"F{n}/out", f"S{other}")]
    battery = Device("D1", "Battery", "battery", ("+", "-"))
    return Job("x", fuses=fuses, splices=splices, devices=(battery,), wires=tuple(wires))


@given(fused_jobs())
def test_feeds_agree_with_an_independent_largest_flow(job: Job) -> None:
    """Fuses side by side add up: the largest flow, by NetworkX's preflow-push."""
    network = Network(job)
    graph: networkx.DiGraph[str] = networkx.DiGraph()
    for n, fuse in enumerate(job.fuses):
        one, other = job.wires[2 * n + 1].start.at, job.wires[2 * n + 2].finish.at
        for a, b in ((one, other), (other, one)):
            known = graph.get_edge_data(a, b, {"capacity": 0})["capacity"]
            graph.add_edge(a, b, capacity=known + fuse.rating_a)
    for splice in job.splices[1:]:
        feed = network.feeds.get(network.net_of.get(End(splice.code), -1))
        if {splice.code, "S0"} <= set(graph) and networkx.has_path(graph, "S0", splice.code):
            assert feed is not None
            assert feed.limit_a == networkx.maximum_flow_value(graph, "S0", splice.code)
        else:
            assert feed is None


def test_a_story_goes_on_through_fuses_and_stops_where_wires_part() -> None:
    job = small_job(
        *FED.wires,
        wire("W6", "S1", "C1/3"),
        wire("W7", "S1", "C1/4"),
        wire("W8", "S1", "C2/2"),
        splices=(Splice("S1", "Lamp joint"),),
    )
    network = Network(job)
    names = [stop.name for stop in story(network, network.wires["W1"])]
    assert names == ["Battery", "F1 Main", "Relay"]
    last = story(network, network.wires["W6"])[0]
    assert last.name == "Lamp joint"
    assert last.branches == ("W7", "W8")
    assert "also W7, W8" in last.detail


def test_a_story_of_a_loose_wire_says_so() -> None:
    job = small_job(wire("W1", "C1/1", ""))
    assert story(Network(job), job.wires[0])[-1].name == "Loose end"


def test_a_story_in_a_ring_ends() -> None:
    job = small_job(
        wire("W1", "S1", "S2"),
        wire("W2", "S2", "S1"),
        splices=(Splice("S1"), Splice("S2")),
    )
    stops = story(Network(job), job.wires[0])
    assert {stop.wire for stop in stops if stop.wire} == {"W1", "W2"}
