"""The diagram of current tracks: read back from its shapes alone, nothing over anything, references
that lead both ways, the same job always the same drawing.
"""

import json
import re
from collections import defaultdict
from collections.abc import Iterator
from functools import cache
from pathlib import Path as Path_

import pytest
from hypothesis import given, settings
from pytestqt.qtbot import QtBot

from conftest import page as page_of
from jobs import jobs
from molvik.blocks.arrangements import BLOCKS, lay
from molvik.blocks.templates import TEMPLATES
from molvik.circuits.diagram.frame import Heading, sheets
from molvik.circuits.diagram.netlist import nets_of
from molvik.circuits.diagram.systems import SYSTEMS
from molvik.circuits.diagram.tracks import Diagram, Page, diagram
from molvik.circuits.simulate import OperatingPoint
from molvik.cli import main
from molvik.demo import DEMOS, demo_job
from molvik.desktop.stages.circuits.diagramview import DiagramView
from molvik.desktop.window import MainWindow
from molvik.devices.states import OFF, RUN, RUNNING, STATES, State
from molvik.drawing.lettering import face_of, shortened, width_of
from molvik.drawing.scene import Box, Path, Point, Scene, Text
from molvik.model.job import Job
from molvik.model.parts import End
from molvik.netlist.network import Network

WIRE_PX = 1.7
"""What is drawn at least as wide is a wire; thinner ones belong to symbols."""

Segment = tuple[Point, Point]


def _names() -> list[str]:
    found = [f"demo {name}" for name in DEMOS] + [f"from {title}" for title in TEMPLATES]
    return found + [f"block {title}" for title, block in BLOCKS.items() if not block.alters]


NAMES = _names()


@cache  # made when it is first asked for: a circuit is laid until it passes its own check
def job_named(name: str) -> Job:
    where, title = name.split(" ", 1)
    if where == "demo":
        return demo_job(title)
    return TEMPLATES[title].make() if where == "from" else lay(Job("x"), title)


def drawn(job: Job) -> Diagram:
    return diagram(Network(job))


# Reading a drawing back.


class Group:
    """Places that are joined, found by union."""

    def __init__(self) -> None:
        self.above: dict[object, object] = {}

    def top(self, one: object) -> object:
        self.above.setdefault(one, one)
        while self.above[one] != one:
            one = self.above[one]
        return one

    def join(self, one: object, other: object) -> None:
        self.above[self.top(one)] = self.top(other)


def segments(scene: Scene) -> list[Segment]:
    return [
        (shape.points[0], shape.points[1])
        for shape in scene.shapes
        if isinstance(shape, Path)
        and len(shape.points) == 2
        and shape.pen is not None
        and shape.pen.width >= WIRE_PX
        and not shape.closed
        and shape.pen.width not in (3.0,)  # the short plate of a battery
    ]


def on(point: Point, line: Segment) -> bool:
    """Return whether a point lies on a line, its ends included."""
    a, b = line
    left, right = sorted((a.x, b.x))
    upper, lower = sorted((a.y, b.y))
    return left - 0.3 <= point.x <= right + 0.3 and upper - 0.3 <= point.y <= lower + 0.3


def read_back(made: Diagram) -> set[frozenset[str]]:
    """Return the places that a diagram joins, by its lines, its terminals and its references."""
    groups, places = Group(), set[str]()
    for page in made.pages:
        lines = segments(page.scene)
        rail = max((line for line in lines if line[0].y == line[1].y), key=lambda one: one[0].y)
        texts = [shape for shape in page.scene.shapes if isinstance(shape, Text)]
        lines = [line for line in lines if line != rail]
        for n, line in enumerate(lines):
            groups.join((page.number, n), (page.number, n))
            for m, other in enumerate(lines[:n]):
                if any(on(end, other) for end in line) or any(on(end, line) for end in other):
                    groups.join((page.number, n), (page.number, m))
            for end in line:
                if abs(end.y - rail[0].y) < 0.3 and line[0].x == line[1].x:
                    foot = next(
                        text
                        for text in texts
                        if 0 < text.box.x - end.x < 10 and -16 < text.box.y - end.y < -10
                    )
                    groups.join((page.number, n), f"earth {foot.words}")
        for text in texts:
            if text.role == "copper" and (said := re.fullmatch(r"(.+) · (\d+)", text.words)):
                near = _beside(text, lines, ahead=int(said[2]) > page.last)
                groups.join((page.number, near), f"line {said[1]}")
        for area in page.scene.areas:
            if area.box.width == area.box.height == 8:
                places.add(area.ref)
                touched = [n for n, line in enumerate(lines) if on(area.middle, line)]
                assert touched, area.ref
                groups.join(f"place {area.ref}", (page.number, touched[0]))
    found: dict[object, set[str]] = defaultdict(set)
    for place in places:
        found[groups.top(f"place {place}")].add(place)
    return {frozenset(one) for one in found.values()}


def _beside(text: Text, lines: list[Segment], *, ahead: bool) -> int:
    """Return the line that a reference is written at the end of: right of it where it leads ahead,
    else left.
    """
    y = text.box.middle.y
    near = text.box.x - 8 if ahead else text.box.right + 8
    ends = [
        (abs(end.x - near), n)
        for n, line in enumerate(lines)
        if abs(line[0].y - y) < 0.3 and line[0].y == line[1].y
        for end in line
    ]
    away, found = min(ends)
    assert away < 0.5, text.words
    return found


def nets(job: Job, places: set[str]) -> set[frozenset[str]]:
    """Return the places that a job's wires join, with bodies on the earth they are bolted to."""
    network = Network(job)
    found: dict[object, set[str]] = defaultdict(set)
    bolted = {f"{device.code}/case": device.case for device in job.devices}
    for place in places:
        end = End.of(place)
        if bolted.get(place):
            end = End(bolted[place], "")
        number = network.net_of.get(end)
        found[number if number is not None else place].add(place)
    return {frozenset(one) for one in found.values()}


@pytest.mark.parametrize("by_system", [False, True])
@pytest.mark.parametrize("name", NAMES)
def test_read_back_a_diagram_joins_what_the_wires_join(name: str, by_system: bool) -> None:
    read = read_back(diagram(Network(job_named(name)), by_system=by_system))
    places = {place for one in read for place in one}
    assert places
    assert read == nets(job_named(name), places)


@pytest.mark.parametrize("name", NAMES)
def test_every_wire_fuse_splice_and_earth_is_drawn_once(name: str) -> None:
    job, made = job_named(name), drawn(job_named(name))
    said = [area.ref for page in made.pages for area in page.scene.areas]
    for wire in job.wires:
        assert (said.count(wire.code) == 1) != (wire.code in made.left_out), wire.code
    ends = {end for wire in job.wires for end in wire.ends if end.at}
    used = {end.at for end in ends}
    for fuse in job.fuses:
        assert (said.count(fuse.code) == 1) == (fuse.code in used)
    words = {
        text.words for page in made.pages for text in page.scene.shapes if isinstance(text, Text)
    }
    joined = " ".join(words)
    for code in (*(one.code for one in job.splices), *(one.code for one in job.earths)):
        assert re.search(rf"\b{code}\b", joined) or code not in used, code


# Nothing over anything.


def written(text: Text) -> Box:
    """Return the box that words take."""
    wide = width_of(shortened(text), text.pixels, face_of(text))
    box = text.box
    left = {"left": box.x, "right": box.right - wide}.get(text.align, box.middle.x - wide / 2)
    return Box(left, box.middle.y - text.pixels * 0.45, wide, text.pixels * 0.9)


def over(page: Page) -> Iterator[str]:
    """Yield what lies over something else on a page."""
    texts = [shape for shape in page.scene.shapes if isinstance(shape, Text)]
    boxes = [written(text) for text in texts]
    lines = segments(page.scene)
    for n, (text, box) in enumerate(zip(texts, boxes, strict=True)):
        for other, beside in zip(texts[:n], boxes[:n], strict=True):
            if box.overlaps(beside):
                yield f"“{text.words}” over “{other.words}”"
        for a, b in lines:
            left, right = sorted((a.x, b.x))
            upper, lower = sorted((a.y, b.y))
            if box.overlaps(Box(left - 0.5, upper - 0.5, right - left + 1, lower - upper + 1)):
                yield f"“{text.words}” over a line at {a}"
    symbols = [area for area in page.scene.areas if area.box.width == 48]
    for area in symbols:
        inner = area.box.grown(-14, -4)
        whole = area.box.grown(-9, -4)
        for text, box in zip(texts, boxes, strict=True):
            if whole.overlaps(box) and text.words != "M":
                yield f"“{text.words}” over {area.ref}"
        for a, b in lines:
            left, right = sorted((a.x, b.x))
            upper, lower = sorted((a.y, b.y))
            if inner.overlaps(Box(left, upper, right - left + 0.1, lower - upper + 0.1)):
                yield f"a line at {a} through {area.ref}"


@pytest.mark.parametrize("by_system", [False, True])
@pytest.mark.parametrize("name", NAMES)
def test_nothing_lies_over_anything(name: str, by_system: bool) -> None:
    for page in diagram(Network(job_named(name)), by_system=by_system).pages:
        assert list(over(page)) == [], page.number


@pytest.mark.parametrize("name", NAMES)
def test_references_lead_both_ways(name: str) -> None:
    """Where a line goes on in another track, that track says from where it comes."""
    made = drawn(job_named(name))
    ahead: dict[str, list[tuple[int, int]]] = defaultdict(list)
    back: dict[str, list[tuple[int, int]]] = defaultdict(list)
    for page in made.pages:
        for text in page.scene.shapes:
            if isinstance(text, Text) and text.role == "copper":
                if said := re.fullmatch(r"(.+) · (\d+)", text.words):
                    goal = int(said[2])
                    assert not page.first <= goal <= page.last
                    (ahead if goal > page.last else back)[said[1]].append((page.number, goal))
    assert set(ahead) == set(back)
    page_at = {
        track: page.number for page in made.pages for track in range(page.first, page.last + 1)
    }
    for name_, found in ahead.items():
        assert {page_at[goal] for _, goal in found} == {page for page, _ in back[name_]}
        assert {page_at[goal] for _, goal in back[name_]} == {page for page, _ in found}


def test_the_same_job_has_always_the_same_drawing() -> None:
    job = demo_job("heron")
    once, again = ([page.scene for page in drawn(job).pages] for _ in range(2))
    assert once == again


def test_relays_name_the_tracks_of_their_other_parts() -> None:
    made = drawn(demo_job("heron"))
    for relay in (device for device in demo_job("heron").devices if device.kind == "relay"):
        assert len(made.tracks[relay.code]) == 2
        words = [
            text.words
            for page in made.pages
            for text in page.scene.shapes
            if isinstance(text, Text) and text.words.startswith(("coil ", "contact "))
        ]
        for track in made.tracks[relay.code]:
            assert any(word.endswith(f" {track}") for word in words), relay.code


def test_each_system_has_pages_of_its_own() -> None:
    made = diagram(Network(demo_job("marten")), by_system=True)
    job = demo_job("marten")
    pages = {page.number: page.system for page in made.pages}
    by_name = {
        device.name: {
            page.system
            for page in made.pages
            for area in page.scene.areas
            if area.ref == device.code
        }
        for device in job.devices
    }
    for name, system in (
        ("Alternator, 120 A", "starting and charging"),
        ("Coil A", "ignition"),
        ("Injector 1", "injection"),
        ("Coolant gauge", "gauges and warning lamps"),
        ("Fan, left", "cooling"),
        ("Headlamps", "lamps"),
        ("Heater blower", "body"),
        ("Cluster node", "bus"),
        ("Battery", "power distribution"),
    ):
        assert by_name[name] == {system}, name
    key = next(fuse.code for fuse in job.fuses if fuse.name == "Key switch")
    page = next(one for one in made.pages if key in {area.ref for area in one.scene.areas})
    assert page.system == "power distribution"  # it leads to more than two
    # The computer is cut over the pages of what it drives and reads.
    assert {"injection", "ignition", "sensors"} <= by_name["Engine computer"]
    assert list(dict.fromkeys(pages.values())) == [
        system for system in SYSTEMS if system in pages.values()
    ]
    first = made.pages[0].scene.texts()
    assert any(words.startswith("Power distribution · Page 1") for words in first)


def test_an_empty_job_and_pages_of_no_tracks() -> None:
    made = drawn(Job("x"))
    assert made.pages == ()
    assert made.page_of("W1") is None
    with pytest.raises(ValueError, match="two tracks"):
        diagram(Network(Job("x")), 1)


@settings(max_examples=40, deadline=None)
@given(jobs())
def test_a_random_job_is_drawn_clear_and_reads_back(job: Job) -> None:
    made = drawn(job)
    read = read_back(made)
    assert read == nets(job, {place for one in read for place in one})
    for page in made.pages:
        assert list(over(page)) == [], page.number


# In a state.


def test_what_is_alive_in_a_state_is_drawn_strong_and_contacts_stand_as_they_do() -> None:
    """Held to the solution: each terminal's wire is strong where it has half the voltage."""
    job = demo_job("heron")
    network = Network(job)
    for state in (OFF, RUN, RUNNING):
        point = OperatingPoint(network, state)
        made = diagram(network, point=point)
        seen = 0
        for page in made.pages:
            pens = {
                (shape.points[0], shape.points[1]): shape.pen
                for shape in page.scene.shapes
                if isinstance(shape, Path) and len(shape.points) == 2 and shape.pen
            }
            rail = max(line[0].y for line in segments(page.scene))
            for area in page.scene.areas:
                if area.box.width != 8 or area.ref not in point.solution.volts:
                    continue
                line = next(one for one in pens if one[0] == area.middle and pens[one].width > 1.5)
                if line[1].y == rail:
                    continue  # earth is never alive
                volts = abs(point.solution.volts[area.ref])
                assert (pens[line].role == "line") == (volts < 6), (state.name, area.ref)
                seen += 1
        assert seen > 40


def test_a_relay_that_is_pulled_in_is_drawn_closed() -> None:
    job = demo_job("heron")
    network = Network(job)
    lamps = next(device for device in job.devices if device.name == "Headlamps relay")
    for state, closed in ((OFF, False), (RUN, True)):
        made = diagram(network, point=OperatingPoint(network, state))
        page = made.pages[0]
        for page in made.pages:
            for area in page.scene.areas:
                if area.ref == lamps.code and area.box.width == 48:
                    x, y = area.middle
                    ways = [
                        shape.points
                        for shape in page.scene.shapes
                        if isinstance(shape, Path)
                        and len(shape.points) == 2
                        and shape.points[0] == Point(x, y + 12)
                        and shape.points[1].y == y - 12
                    ]
                    for way in ways:  # none at its coil
                        assert (way[1].x == x) == closed


# In the window, and on the command line.


def shown(window: MainWindow, job: Job, qtbot: QtBot) -> DiagramView:
    window.files.new()
    window.store.load(job, None)
    view: DiagramView = page_of(window, "Circuits").turn_to("Diagram")
    qtbot.waitUntil(lambda: view.made is not None and not view.waits)
    return view


def test_the_diagram_is_turned_over_picked_from_and_followed(
    window: MainWindow, qtbot: QtBot, tmp_path: Path_
) -> None:
    view = shown(window, demo_job("heron"), qtbot)
    assert view.made is not None
    assert len(view.made.pages) >= 5
    assert "51 tracks" in view.said.text()
    view.list.chosen.emit("2")
    scene = view.canvas.draw(900, 600)
    assert scene is not None
    assert "Page 2" in scene.texts()[0] or any("Page 2" in one for one in scene.texts())
    view.canvas.picked.emit("F3")
    assert window.hand.subject == "F3"
    window.hand.pick("K3")
    number = view.made.page_of("K3")
    assert view.number == number
    assert view.list.key() == str(number)
    framed = view.canvas.draw(900, 600)
    assert framed is not None
    assert len(framed.shapes) > len(view.made.pages[view.number - 1].scene.shapes)
    view.by.setCurrentText("by system")
    qtbot.waitUntil(lambda: view.made is not None and view.made.pages[0].system != "")
    view.state.setCurrentText("run")
    qtbot.waitUntil(lambda: not view.waits)
    drawn_now = view.canvas.draw(900, 600)
    assert drawn_now is not None
    assert any("run: what is alive" in one for one in drawn_now.texts())
    path = tmp_path / "heron.pdf"
    view.save_pdf(path)
    qtbot.waitUntil(lambda: "Saved to" in view.notice.text())
    assert path.read_bytes().startswith(b"%PDF")
    assert view._paper() is not None


def test_an_edit_is_drawn_and_a_job_without_wires_says_what_to_do(
    window: MainWindow, qtbot: QtBot
) -> None:
    view = shown(window, Job("x", title="x"), qtbot)
    assert view.canvas.draw(900, 600) is None
    assert "lay a block" in view.canvas.empty
    window.store.do("Lay", lambda job: lay(job, "Starter"))
    qtbot.waitUntil(lambda: view.made is not None and bool(view.made.pages))
    assert view.canvas.draw(900, 600) is not None


def test_the_diagram_on_the_command_line(
    tmp_path: Path_, capsys: pytest.CaptureFixture[str]
) -> None:
    pdf, svg = tmp_path / "d.pdf", tmp_path / "d.svg"
    assert main(["diagram", "--demo", "heron", "--out", str(pdf), "--state", "run"]) == 0
    assert "51 tracks on 5 sheets" in capsys.readouterr().out
    assert pdf.read_bytes().startswith(b"%PDF")
    assert main(["diagram", "--demo", "heron", "--out", str(pdf)]) == 2
    assert "there already" in capsys.readouterr().err
    assert main(["diagram", "--demo", "heron", "--out", str(svg)]) == 0
    system = tmp_path / "s.pdf"
    assert main(["diagram", "--demo", "heron", "--by", "system", "--out", str(system)]) == 0
    capsys.readouterr()
    first = (tmp_path / "d-01.svg").read_text("utf-8")
    assert "Heron pick-up" in first
    assert len(list(tmp_path.glob("d-*.svg"))) == 5
    assert main(["diagram", "--demo", "heron", "--out", str(tmp_path / "d.png")]) == 2
    assert main(["diagram", "--demo", "heron", "--out", str(svg), "--state", "flying"]) == 2
    assert "no state" in capsys.readouterr().err


def test_a_sheet_has_its_frame_and_its_title_block() -> None:
    """Fields of 50 mm from the upper left (ISO 5457), on A3."""
    (first, *_) = sheets(drawn(demo_job("heron")), Heading("Heron", "as found", "2026-12-01", "M."))
    assert (first.width, first.height) == (420, 297)
    zones = [shape for shape in first.shapes if isinstance(shape, Text) and shape.pixels == 3.0]
    across = sorted({zone.box.x for zone in zones if zone.words.isdigit()})
    assert across == [20 + 50 * number for number in range(8)]
    assert {zone.words for zone in zones} == {*"12345678", *"ABCDEF"}
    assert {"Heron", "2026-12-01", "1 of 5"} <= set(first.texts())
    small = min(shape.pixels for shape in first.shapes if isinstance(shape, Text))
    assert small >= 2.1  # mm: of the title block's heads


# The list of nets.


@pytest.mark.parametrize("state", [None, *STATES])
def test_the_list_of_nets_is_that_of_the_solution(state: State | None) -> None:
    job = demo_job("heron")
    found = nets_of(job, state.name if state is not None else "")
    network = Network(job)
    places = [place for one in found for place in one.places]
    assert len(places) == len(set(places)) == sum(bool(end.at) for end in network.net_of)
    assert sorted(code for one in found for code in one.wires) == sorted(w.code for w in job.wires)
    for one in found:
        assert len({network.net_of[End.of(place)] for place in one.places}) == 1
    if state is None:
        assert all(one.volts is None for one in found)
        return
    point = OperatingPoint(network, state)
    zero = point.solution.volts.get(point.reference, 0.0)
    for one in found:
        known = [
            point.solution.volts[place] - zero
            for place in one.places
            if place in point.solution.volts
        ]
        if known:
            assert one.volts is not None
            assert abs(one.volts) == pytest.approx(max(map(abs, known)))
        else:
            assert one.volts is None


def test_nets_on_the_command_line(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["netlist", "--demo", "heron", "--state", "run", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["state"] == "run"
    battery = next(one for one in told["nets"] if "D2/+" in one["places"])
    assert battery["volts"] > 11
    assert main(["netlist", "--demo", "plover"]) == 0
    assert "C1/1" in capsys.readouterr().out
    assert main(["netlist", "--demo", "heron", "--state", "flying"]) == 2
    assert "no state" in capsys.readouterr().err
    with pytest.raises(ValueError, match="no battery"):
        nets_of(Job("x"), "run")
