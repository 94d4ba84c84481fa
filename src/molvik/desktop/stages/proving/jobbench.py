"""The bench of the job itself: where both probes go, what is expected there, and what was read."""

from collections.abc import Callable

from PySide6.QtWidgets import QWidget

from molvik.desktop.hand import Hand
from molvik.desktop.stages.page import AT_ONCE, StagePage, plan_known
from molvik.desktop.stages.proving.benchview import UNPLUGGED, BenchView
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.small import CheckedField, ShortLabel, column
from molvik.logbook.clock import now_text
from molvik.model import edits
from molvik.model.parts import Device, End, terminals_of
from molvik.proving.items import ItemTest
from molvik.proving.points import Point, Shown
from molvik.proving.powerstep import PowerStep, Setup
from molvik.proving.probing import digits, reading_point
from molvik.proving.readings import reading_of, seen_of_shown
from molvik.stopping import may_stop

EXAMPLES = {"V": "12.1", "Ω": "0.3, OL", "A": "4.2", "lamp": "lit, dim, dark"}
NEAR = 6
"""So many parts lie beside those that are probed."""


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
        end = wire.start if wire is not None else End.of(subject)
        if wire is None and not end.cavity and part is not None:
            end = End(end.at, next(iter(terminals_of(part)), ""))
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
        self.view.meter.turn_to("diode" if test.quantity == "voltage" else "Ω")
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
        """Whether the probes are where the part that is shown is measured."""
        test = self._part
        return test is not None and {self.view.red, self.view.black} == {
            self._at_plug(test.red),
            self._at_plug(test.black),
        }

    def show_step(self, step: PowerStep) -> None:
        """Show a step of bringing power up: what is in and out, the key, the probes."""
        setup = step.setup
        asked = step
        if asked == self._shown_for:
            self._renew()
            return
        self._shown_for, self._step, self._part = asked, step, None
        network = self._page.analysis.network
        self.view.meter.turn_to(setup.function)
        state = setup.states[0] if setup.states else "off"
        out = frozenset(code for code in setup.out if code in network.parts)
        pulled = out | {setup.red.at} if setup.function == "A" and setup.red.at else out
        self.view.show_situation(state, unplugged=setup.apart, pulled=pulled)
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
        if self._task is not None:
            self._task.stop()

        def work(stop: Callable[[], bool]) -> Shown:
            with may_stop(stop):
                return simulator.predicted((), point)

        self._task = Task(work, self)
        self._task.done.connect(show)
        self._task.failed.connect(lambda why: self.expected.setText(str(why)))
        self._task.start()

    def _renew(self) -> None:
        """The job was changed: what lies there is drawn anew, probes and key stay as they are."""
        network = self._page.analysis.network
        if self.view.renew(network):
            digits_shown = self.view.meter.digits.text()
            self._expect()
            self.view.meter.show_digits(digits_shown)

    def _of_step(self, setup: Setup) -> str:
        """Return what a step expects where the probes are: it is solved with just that out, and
        every switch off.
        """
        for figure in setup.figures:
            here = self.view.red in (figure.place, End(figure.place.at, "in"))
            if here and figure.state == self.view.key and self.view.function == setup.function:
                return f"expect {digits(self.view.function, figure.value)}"
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
        if made.point is None:
            raise ValueError(f"{made.words}: nothing can be read so. Turn the key, or unplug all.")
        leads = page.store.job.settings.meter_leads_ohm
        keep = self.keep_ohm if made.point.what == "resistance" else None
        if keep is not None and keep(self.view.red, self.view.black, text):
            self.reading.show_value("")
            self.view.meter.show_digits(text.strip())
            return
        seen = seen_of_shown(made.point, text, leads)
        reading = reading_of(seen, page.analysis.plan, now_text(), leads)
        self.reading.show_value("")
        page.store.do(f"Reading: {made.words}", lambda job: edits.record(job, reading))
        self.view.meter.show_digits(digits(self.view.function, seen.shown, leads))

    def forget(self) -> None:
        """The job was closed: let go of it."""
        if self._task is not None:
            self._task.stop()
            self._task = None
        self._shown_for = None
        self.view.clear()
        self.expected.setText("")
