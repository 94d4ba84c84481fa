"""The one search, against NetworkX."""

import itertools
import math
import operator
from collections import defaultdict

import networkx
import pytest
from hypothesis import given
from hypothesis import strategies as st

from molvik.netlist.search import search

Edge = tuple[int, int, float]


@st.composite
def graphs(draw: st.DrawFn) -> list[Edge]:
    nodes = st.integers(0, 9)
    costs = st.integers(0, 40).map(lambda n: n / 4)  # exact sums, ties among them
    return draw(st.lists(st.tuples(nodes, nodes, costs), min_size=1, max_size=40))


def known_of(edges: list[Edge]) -> dict[int, list[Edge]]:
    known: dict[int, list[Edge]] = defaultdict(list)
    for edge in edges:
        known[edge[0]].append(edge)
        known[edge[1]].append(edge)
    return known


def far(edge: Edge, at: int) -> int:
    return edge[1] if edge[0] == at else edge[0]


def as_graph(edges: list[Edge]) -> "networkx.Graph[int]":
    graph: networkx.Graph[int] = networkx.Graph()
    for a, b, cost in edges:
        if not graph.has_edge(a, b) or graph[a][b]["weight"] > cost:
            graph.add_edge(a, b, weight=cost)
    return graph


@given(graphs())
def test_the_least_cost_to_every_place_is_dijkstras(edges: list[Edge]) -> None:
    begin = edges[0][0]
    reach = search(known_of(edges), {begin: 0.0}, far, lambda edge: edge[2])
    assert reach.cost == networkx.single_source_dijkstra_path_length(as_graph(edges), begin)
    assert list(reach.cost.values()) == sorted(reach.cost.values()), "in the order of cost"
    for at, cost in reach.cost.items():
        way = reach.way_to(at)
        assert sum(edge[2] for edge in way) == cost, "and the way costs what is said"
        place = at
        for edge in way:
            place = far(edge, place)
        assert place == begin


@given(graphs())
def test_the_widest_way_is_along_the_maximum_spanning_tree(edges: list[Edge]) -> None:
    """A published fact of graph theory (T. C. Hu, 1961): bottlenecks lie on that tree."""
    begin = edges[0][0]
    reach = search(known_of(edges), {begin: -math.inf}, far, lambda edge: -edge[2], join=max)
    graph: networkx.Graph[int] = networkx.Graph()
    for a, b, width in edges:
        if not graph.has_edge(a, b) or graph[a][b]["weight"] < width:
            graph.add_edge(a, b, weight=width)
    tree = networkx.maximum_spanning_tree(graph)
    for at, cost in reach.cost.items():
        if at != begin:
            way = networkx.shortest_path(tree, begin, at)
            assert -cost == min(tree[a][b]["weight"] for a, b in itertools.pairwise(way))
    assert set(reach.cost) == networkx.node_connected_component(graph, begin)


@given(graphs(), st.integers(0, 9))
def test_a_search_for_one_place_ends_there_with_the_same_answer(
    edges: list[Edge], end: int
) -> None:
    known, begin = known_of(edges), {edges[0][0]: 0.0}
    whole = search(known, begin, far, lambda edge: edge[2])
    one = search(known, begin, far, lambda edge: edge[2], operator.add, end)
    assert one.cost.get(end) == whole.cost.get(end)
    assert len(one.cost) <= len(whole.cost)


def test_several_beginnings_and_steps_that_are_no_way() -> None:
    edges: list[Edge] = [(1, 2, 5.0), (2, 3, math.inf), (4, 3, 1.0)]
    reach = search(known_of(edges), {1: 0.0, 4: 2.0}, far, lambda edge: edge[2])
    assert reach.cost == {1: 0.0, 4: 2.0, 3: 3.0, 2: 5.0}
    assert reach.came[1] is None
    assert reach.way_to(9) == []
    assert reach.cost[3] == pytest.approx(3.0)
