"""The bench of the job itself: where both probes go, what is expected there, and what was read."""

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtWidgets import QWidget

from molvik.desktop.hand import Hand
from molvik.desktop.stages.page import AT_ONCE, StagePage, plan_known
from molvik.desktop.stages.proving.benchview import UNPLUGGED, BenchView
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.small import CheckedField, ShortLabel, column
from molvik.logbook.clock import now_text
from molvik.model import edits
from molvik.model.parts import Device, End, Splice, terminals_of
from molvik.proving.items import ItemTest
from molvik.proving.points import Point, Shown
from molvik.proving.powerstep import PowerStep, Setup
from molvik.proving.probing import Function, digits, reading_point
from molvik.proving.readings import reading_of, seen_of_shown
from molvik.stopping import may_stop

EXAMPLES = {"V": "12.1", "Ω": "0.3, OL", "A": "4.2", "lamp": "lit, dim, dark"}
NEAR = 6
"""So many parts lie beside those that are probed."""


def _wanted(test: ItemTest) -> Function:
    """Return what the meter is turned to for a part by itself."""
    return "diode" if test.quantity == "voltage" else "Ω"


class JobBench(QWidget):
    """The bench below the tests: probes follow what is chosen, and are moved by hand. A reading is
    typed, or read off the meter that is connected; it enters the job as read there.
    """

    def __init__(self, page: StagePage) -> None:
        super().__init__()
        self._page = page
        self._task: Task | None = None
        self._shown_for: object = None
        self._step: PowerStep | None = None
        self.read_meter: Callable[[End, End], bool] | None = None
        """Reads the connected meter there; returns whether there is one."""
        self.keep_ohm: Callable[[End, End, str], bool] | None = None
        """Keeps ohms as of the wire or measurement they are of; returns whether they are of one."""
        self.keep_part: Callable[[ItemTest, str], None] | None = None
        """Keeps what was read of a part by itself."""
        self._part: ItemTest | None = None
        self.view = BenchView("The bench")
        self.view.canvas.setMinimumHeight(150)
        self.view.read.connect(self._read)
        self.view.moved.connect(self._expect)
        self.view.taken.connect(self._taken)
        self.view.turned.connect(self._turn)
        self.view.meter.turned.connect(lambda _: self._expect())
        self.view.lay.refused.connect(page.notice.say)
        self.expected = ShortLabel("")
        self.expected.setProperty("role", "faint")
        self.expected.setFixedWidth(self.view.meter.width())
        self.reading = CheckedField("Reading at the bench", "What the meter shows", self._keep)
        self.reading.refused.connect(page.notice.say)
        self.view.beside.insertWidget(1, self.expected)
        self.view.beside.insertWidget(2, self.reading)
        self.setLayout(column(self.view))

    def probe(self, subject: str) -> None:
        """Put the red probe on a wire or part for volts, with the key in run."""
        network = self._page.analysis.network
        wire = network.wires.get(subject)
        part = network.parts.get(End.of(subject).at)
        end = End.of(subject)
        if wire is not None:  # a splice lies under its tape
            ends = (one for one in wire.ends if not isinstance(network.parts.get(one.at), Splice))
            end = next(ends, wire.start)
        elif not end.cavity and part is not None:
            end = self._at_plug(End(end.at, next(iter(terminals_of(part)), "")))
        self.view.meter.turn_to("V")
        self.view.show_situation("run", unplugged=False, pulled=frozenset())
        self.view.show_probes(end, End(), marked=(subject,))
        self._expect()
        self.view.canvas.setFocus()

    @property
    def _hand(self) -> Hand:
        return self._page.hand

    # what is shown

    def show_ends(
        self, ends: tuple[End, End] | None, subject: str, point: Point | None = None
    ) -> None:
        """Show where both probes go, else what is in hand in its circuit. point: the reading that
        is proposed, with its situation.
        """
        network = self._page.analysis.network
        asked = (ends, subject, point)
        if asked == self._shown_for:
            self._renew()
            return
        self._shown_for, self._step, self._part = asked, None, None
        if point is not None:
            self.view.meter.turn_to("Ω" if point.is_on_bench else "V")
            state = point.state or self.view.key
            self.view.show_situation(
                state, unplugged=point.is_on_bench, pulled=frozenset(point.out)
            )
        elif ends is not None:
            self.view.meter.turn_to("Ω")
            self.view.show_situation(self.view.key, unplugged=True, pulled=frozenset())
        codes = [end.at for end in ends or () if end.at]
        if point is not None and not codes:
            codes = [point.red.at]
        if not codes:
            wire = network.wires.get(subject)
            codes = [end.at for end in wire.ends if end.at] if wire else [End.of(subject).at]
        self.view.show_bench(network, codes, max(NEAR, len(codes)), codes)
        self.view.show_probes(
            *(ends or (End(), End())), marked=(codes[0] if point is not None else subject,)
        )
        self._expect()

    def show_part(self, test: ItemTest) -> None:
        """Show where a part is measured by itself, and what it should show there."""
        if test == self._shown_for:
            self._renew()
            return
        self._shown_for, self._step, self._part = test, None, test
        self.view.meter.turn_to(_wanted(test))
        self.view.show_situation(self.view.key, unplugged=True, pulled=frozenset())
        red, black = map(self._at_plug, (test.red, test.black))
        codes = list(dict.fromkeys(end.at for end in (red, black) if end.at))
        self.view.show_bench(self._page.analysis.network, codes, max(NEAR, len(codes)), codes)
        self.view.show_probes(red, black, marked=(test.subject,))
        self._expect()

    def _at_plug(self, end: End) -> End:
        """Return where a terminal of a device is probed: in its plug, where it has one."""
        part = self._page.analysis.network.parts.get(end.at)
        plug = part.plug if isinstance(part, Device) else ""
        return End(plug, end.cavity) if plug else end

    @property
    def _is_at_part(self) -> bool:
        """Whether the part that is shown is measured as the probes, the meter and the key stand."""
        test = self._part
        if test is None or not self.view.unplugged or self.view.function != _wanted(test):
            return False
        places = {self._at_plug(test.red), self._at_plug(test.black)}
        return {self.view.red, self.view.black} == places

    def show_step(self, step: PowerStep) -> None:
        """Show a step of bringing power up: what is in and out, the key, the probes."""
        setup = step.setup
        if step == self._shown_for:
            self._renew()
            return
        self._shown_for, self._step, self._part = step, step, None
        network = self._page.analysis.network
        self.view.meter.turn_to(setup.function)
        state = setup.states[0] if setup.states else "off"
        self.view.show_situation(state, unplugged=setup.apart, pulled=self._out_in(setup))
        fuses = [fuse.code for fuse in self._page.store.job.fuses]
        codes = [code for code in (setup.red.at, End.of(step.subject).at) if code]
        self.view.show_bench(network, [*codes, *fuses], len(codes) + len(fuses) + NEAR)
        self.view.show_probes(setup.red, setup.black, marked=(step.subject,))
        self._expect()

    def _expect(self) -> None:
        """Say what is expected with the probes as they are, worked out aside in a large job."""
        function = self.view.function
        self.reading.setPlaceholderText(EXAMPLES.get(function, ""))
        self.view.meter.show_digits("")
        self.expected.setText("")
        analysis = self._page.analysis
        if self._task is not None:  # what it finds was asked of other probes
            self._task.stop()
        if self._step is not None:
            self.expected.setText(self._of_step(self._step.setup))
            return
        if self._part is not None and self._is_at_part:
            self.expected.setText(f"expect {self._part.expect}")
            return
        if not self.view.red.at or not plan_known(analysis):
            return
        try:
            made = reading_point(analysis.network, self.view.probing)
        except ValueError:
            return
        point = made.point
        if point is None:
            self.expected.setText("unplug all first" if not self.view.unplugged else "no power")
            return
        leads = self._page.store.job.settings.meter_leads_ohm

        def show(shown: Shown) -> None:
            self.expected.setText(f"expect {digits(function, shown, leads)}")

        simulator = analysis.simulator
        if len(analysis.job.wires) <= AT_ONCE:
            show(simulator.predicted((), point))
            return

        def work(stop: Callable[[], bool]) -> Shown:
            with may_stop(stop):
                return simulator.predicted((), point)

        self._task = Task(work, self)
        self._task.done.connect(show)
        self._task.failed.connect(lambda why: self.expected.setText(str(why)))
        self._task.start()

    def show_read(self, ohm: float | None) -> None:
        """Show what a connected meter read."""
        self.view.meter.show_digits(digits("Ω", ohm))

    def _renew(self) -> None:
        """The job was changed: what lies there is drawn anew, probes and key stay as they are."""
        network = self._page.analysis.network
        if self.view.renew(network):
            digits_shown = self.view.meter.digits.text()
            self._expect()
            self.view.meter.show_digits(digits_shown)

    def _out_in(self, setup: Setup) -> frozenset[str]:
        """Return what is pulled in a step: the fuse, too, that a meter takes the place of."""
        parts = self._page.analysis.network.parts
        out = frozenset(code for code in setup.out if code in parts)
        return out | {setup.red.at} if setup.function == "A" and setup.red.at else out

    def _of_step(self, setup: Setup) -> str:
        """Return what a step expects where the probes are: it is solved with just that out, and
        every switch off. Nothing once anything stands otherwise.
        """
        view = self.view
        if view.unplugged or view.function != setup.function:
            return ""
        if view.pulled != self._out_in(setup):
            return "not as in the step"
        for figure in setup.figures:
            if view.function == "A":
                clips = {End(figure.place.at, side) for side in ("in", "out")}
                here = {view.red, view.black} == clips
            else:
                here = (view.red, view.black) == (figure.place, setup.black)
            if here and figure.state == view.key:
                return f"expect {digits(view.function, figure.value)}"
        return ""

    # what is done

    def _turn(self, to: str) -> None:
        apart = to == UNPLUGGED
        key = self.view.key if apart else to
        self.view.show_situation(key, unplugged=apart, pulled=self.view.pulled)
        self._expect()

    def _taken(self, code: str) -> None:
        """Pull a part, or put it in again; a device that cannot be pulled is taken in hand."""
        part = self._page.analysis.network.parts.get(code)
        if isinstance(part, Device) and part.kind != "relay" and code not in self.view.pulled:
            self._hand.pick(code)
            return
        pulled = self.view.pulled ^ {code}
        self.view.show_situation(self.view.key, unplugged=self.view.unplugged, pulled=pulled)
        self._expect()

    def _read(self) -> None:
        """The probes are down: read the meter that is connected, or wait for what is typed."""
        self._expect()
        reads = self.read_meter
        unplugged = self.view.function == "Ω" and self.view.unplugged
        if unplugged and reads is not None and reads(self.view.red, self.view.black):
            return
        self.reading.enter()

    def _keep(self, text: str) -> None:
        """Keep what was typed in the job, as read where the probes are. Raises ValueError."""
        if not text.strip():
            return
        page = self._page
        page.notice.say("")  # before what is read now is told to be wrong
        if self._part is not None and self._is_at_part and self.keep_part is not None:
            self.keep_part(self._part, text)
            self.reading.show_value("")
            self.view.meter.show_digits(text.strip())
            return
        made = reading_point(page.analysis.network, self.view.probing)
        point, in_step = made.point, self._step is not None
        if point is None and in_step and self.view.function == "V":  # at the battery by itself
            point = Point.of("voltage", self.view.red, self.view.black, self.view.key)
        if point is None:
            raise ValueError(f"{made.words}: nothing can be read so. Turn the key, or unplug all.")
        leads = page.store.job.settings.meter_leads_ohm
        keep = self.keep_ohm if point.what == "resistance" and not in_step else None
        if keep is not None and keep(self.view.red, self.view.black, text):
            self.reading.show_value("")
            self.view.meter.show_digits(text.strip())
            return
        seen = seen_of_shown(point, text, leads)
        reading = reading_of(seen, page.analysis.plan, now_text(), leads)
        if in_step:  # with every switch off, and parts on the loom: it tells of no cause
            reading = replace(reading, of="power")
        self.reading.show_value("")
        page.store.do(f"Reading: {made.words}", lambda job: edits.record(job, reading))
        self.view.meter.show_digits(digits(self.view.function, seen.shown, leads))

    def forget(self) -> None:
        """The job was closed: let go of it."""
        if self._task is not None:
            self._task.stop()
            self._task = None
        self._shown_for = self._step = self._part = None
        self.view.clear()
        self.expected.setText("")
