"""First power from a bench supply: what flows is held against the job, and cut off past that."""

from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeySequence, QShortcut

from molvik.desktop.dialogs.questions import Answer, question
from molvik.desktop.stages.page import StagePage
from molvik.desktop.stages.proving.instrumentline import InstrumentLine
from molvik.desktop.widgets.small import button, choice, label, set_role
from molvik.instruments.standin import Server
from molvik.logbook.clock import now_text
from molvik.model import edits
from molvik.model.parts import End
from molvik.proving.bringup import FIRST_A
from molvik.proving.powerstep import allowed_a, still
from molvik.proving.taken import taken
from molvik.proving.validity import loom_fingerprint

EVERY_S = 0.2
VOLTS_SHARE = 1.05
"""A 12 V vehicle is fed 12.6 V: a charged battery at rest."""


class SupplyBar(InstrumentLine):
    """A bench supply in place of the battery."""

    name = "Supply"
    example = "VISA name of a bench supply"
    stand_in_tip = "A bench supply of our own: it feeds this job's loom, sound"
    _flows = Signal(object)

    def __init__(self, page: StagePage) -> None:
        self._needs: dict[str, float] = {}
        """What the job needs, A, by the key's position, where less was not enough."""
        self.key = choice(
            "Key position", [(f"key {name}", name) for name in ("off", "accessory", "run")], "off"
        )
        self.on_button = button(
            "On",
            "Switch it on, held to 1 A at first; it goes off by itself when more flows, and "
            "asks before it gives more",
            self.on,
        )
        self.off_button = button(
            "Off",
            "Switch it off (Esc). Should the program die, a small one "
            "beside it does so. Should the computer die, pull the plug",
            self.stop,
        )
        self.most_a: tuple[tuple[str, float], ...] = ()
        """What may flow in the step that is chosen, A, by the key's position."""
        self.out: tuple[str, ...] = ()
        """The codes of what is not in yet in that step."""
        self.digits = label("", "big")
        self.digits.setAccessibleName("The supply shows")
        self._off_key = QShortcut(QKeySequence(Qt.Key.Key_Escape), page)
        super().__init__(page, self.key, self.on_button, self.off_button)
        self._last: Any = None
        self._flows.connect(self._show)
        self._off_key.activated.connect(self.stop)

    def opened(self, address: str) -> tuple[Any, str]:
        """Open a supply by its VISA name, and switch it off."""
        from molvik.instruments.supply import Supply

        if self._server is not None:
            self._server.stand_in.get_ready()
        made = Supply(address)
        try:
            identity = made.identity()
            made.switch_off()
        except ValueError:
            made.close()
            raise
        return made, identity

    def stand_in(self) -> tuple[Any, str]:
        """Return a stand-in that feeds the loom."""
        from molvik.instruments.standsupply import StandInSupply

        server = Server(StandInSupply(self._page.store.job))
        return server, server.resource

    def able(self, *, can: bool) -> None:
        """Offer switching it on, or off while it is on."""
        self.on_button.setEnabled(can)
        self.key.setEnabled(can)
        is_on = self._task is not None and self.instrument is not None
        self.off_button.setEnabled(is_on)
        self._off_key.setEnabled(is_on)

    def stop(self) -> None:
        """Switch it off at once: what it is still answering is not waited for."""
        super().stop()
        if self.instrument is not None and self._task is not None:
            self.instrument.over.set()

    def on(self) -> None:
        """Bring the vehicle up with the key as it stands, until it is stopped or too much flows."""
        from molvik.instruments.supply import state_named, watch

        supply, analysis, name = self.instrument, self._page.analysis, self.key.currentData()
        if supply is not None and self.most_a and name not in dict(self.most_a):
            keys = " or ".join(key for key, _ in self.most_a)
            self._page.notice.say(f"In this step the key is at {keys}: turn it there first.")
            return
        if supply is None or not (held_a := self._held_a(name, FIRST_A)):
            return
        stands_in, step_a, out = self.stands_in, dict(self.most_a), self.out
        volts = analysis.job.settings.system_v * VOLTS_SHARE
        self._last = None

        def work(stop: Callable[[], bool]) -> Any:
            if stands_in:  # it cannot see the key
                supply.tell(f"SIM:KEY {name.upper()}")
                supply.tell(f"SIM:OUT {','.join(out) or 'NONE'}")
            wanted = step_a.get(name, 0.0)
            if not wanted:
                point = still(analysis.job, analysis.operating_point)(state_named(name))
                wanted = allowed_a(point)
            most, last = min(wanted, held_a), None
            pause = partial(self._enough.wait, EVERY_S)
            for last in watch(supply, volts, most, name, stop, pause, wanted):
                self._flows.emit((last, most))
            return name, last, wanted if wanted > most else 0.0

        self.work(work, self._done)
        self.able(can=False)

    def _show(self, found: tuple[Any, float]) -> None:
        flow, most = found
        self.digits.setText(f"{flow.volts:.1f} V  {flow.amps:.2f} A")
        set_role(self.digits, "big" if not flow.trouble else "bad")
        self.said.setText(f"at most {most:.2f} A{' in this step' if self.most_a else ''}")

    def _held_a(self, name: str, first_a: float) -> float:
        """Return what it is held to: at first little; more where it was tried and the user allows
        it. Nothing where it was given up.
        """
        needs = self._needs.get(name, 0.0)
        if not needs:
            return first_a
        chosen = question(
            self,
            "More than one ampere?",
            f"Held to {first_a:g} A it was at its limit. By the job {needs:.1f} A may flow with "
            f"{'what is in by this step' if self.most_a else 'everything in'} and the key in "
            f"{name}.",
            "Did nothing get warm, smell or smoke? Is someone at the supply's own button?",
            [Answer("less", f"Again at {first_a:g} A"), Answer("more", f"Allow {needs:.1f} A")],
        )
        return {"less": first_a, "more": needs}.get(chosen, 0.0)

    def forget(self) -> None:
        """Let go of the supply; what it was allowed is asked anew."""
        self._needs.clear()
        self.digits.setText("")
        super().forget()

    def _done(self, found: tuple[str, Any, float]) -> None:
        """Keep what flowed, and say why it was switched off."""
        name, flow, needs = found
        if flow is None:
            return
        if flow.trouble and needs:
            self._needs[name] = needs
        else:
            self._needs.pop(name, None)
        self.digits.setText("off")
        self.said.setText(f"it was {flow.amps:.2f} A at {flow.volts:.1f} V")
        self._page.notice.say(flow.trouble)
        job = self._page.store.job
        battery = next((one for one in job.devices if one.kind == "battery"), None)
        if battery is None:
            return
        ends = End(battery.code, "+"), End(battery.code, "-")
        reading = taken(
            job.settings,
            now_text(),
            "current",
            round(flow.amps, 4),
            ends,
            state=name,
            instrument=self.identity[:80],
            note="cut off" if flow.trouble else "first power",
            fingerprint=loom_fingerprint(self._page.analysis.plan),
        )
        self._page.store.do(f"First power, {name}", lambda old: edits.record(old, reading))
