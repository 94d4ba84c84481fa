"""A stand-in of a bench supply with a current limit: it feeds the job's loom, with what is hidden
in it, in place of the battery. It cannot see the key, nor which fuses and computers are out:
SIMulate:KEY and SIMulate:OUT tell it (commands of our own).
"""

from collections.abc import Sequence
from functools import partial

from molvik.devices.states import OFF, Fault, State
from molvik.instruments.scpi import CommandError, ScpiDevice, numeric, switch
from molvik.instruments.supply import FIRST_STATES
from molvik.model.job import Job
from molvik.netlist.network import Network
from molvik.proving.bench import Bench
from molvik.proving.faultsimulator import FaultSimulator
from molvik.proving.powerstep import still

MOST_V, MOST_A = 32.0, 80.0
"""What it can give, as a common bench supply (our choice)."""

NONE = "NONE"
"""Said where nothing is out."""

FIRST_V, FIRST_A = 0.0, 1.0
"""As it stands when it was switched on."""


class StandInSupply(ScpiDevice):
    """Answers commands. faults: what is hidden in the loom."""

    def __init__(self, job: Job, faults: Sequence[Fault] = ()) -> None:
        self._played = FaultSimulator(Network(job), Bench(job))
        self._job, self._faults = job, tuple(faults)
        self.reset()
        super().__init__(
            f"Molvik,stand-in of a bench supply,{job.id[:8] or '0'},1",
            {
                "[SOURce:]VOLTage[:LEVel][:IMMediate][:AMPLitude]": self._set_volts,
                "[SOURce:]VOLTage[:LEVel][:IMMediate][:AMPLitude]?": lambda _: _e(self._volts),
                "[SOURce:]CURRent[:LEVel][:IMMediate][:AMPLitude]": self._set_amps,
                "[SOURce:]CURRent[:LEVel][:IMMediate][:AMPLitude]?": lambda _: _e(self._most_a),
                "OUTPut[:STATe]": self._switch,
                "OUTPut[:STATe]?": lambda _: str(int(self._on)),
                "MEASure[:SCALar]:VOLTage[:DC]?": lambda _: _e(self._flow()[0]),
                "MEASure[:SCALar]:CURRent[:DC]?": lambda _: _e(self._flow()[1]),
                "SIMulate:KEY": self._turn,
                "SIMulate:OUT": self._take_out,
            },
        )

    def get_ready(self) -> None:
        """Solve what it may be asked: from then on it answers as fast as a real one."""
        for state in FIRST_STATES:
            self._solved(state)

    def reset(self) -> None:
        """Be off, with the key off, and all in."""
        self._state: State = OFF
        self._take_out(NONE)
        self._volts, self._most_a, self._on = FIRST_V, FIRST_A, False

    def _set_volts(self, text: str) -> None:
        self._volts = numeric(text, 0.0, MOST_V)

    def _set_amps(self, text: str) -> None:
        self._most_a = numeric(text, 0.0, MOST_A)

    def _switch(self, text: str) -> None:
        self._on = switch(text)

    def _turn(self, text: str) -> None:
        known = {state.name.upper(): state for state in FIRST_STATES}
        if text.upper() not in known:
            raise CommandError(-224)
        self._state = known[text.upper()]

    def _take_out(self, text: str) -> None:
        """Take out what is listed, by its codes, and put all else in."""
        codes = () if text.strip().upper() == NONE else text.replace(" ", "").split(",")
        known = {part.code for part in self._job.parts()}
        if not known.issuperset(codes):
            raise CommandError(-224)
        out = tuple(Fault("open", code) for code in codes)
        self._solved = still(self._job, partial(self._played.solved, (*self._faults, *out)))

    def _flow(self) -> tuple[float, float]:
        """Return voltage and current: at its limit the voltage gives way."""
        if not self._on:
            return 0.0, 0.0
        point = self._solved(self._state)
        # What a battery behind its own ohms gives, and what it would give at this voltage.
        wanted = max(0.0, point.source_amps) * self._volts / max(1.0, point.nominal * 1.05)
        if point.blown:
            wanted = max(wanted, max(blown.amps for blown in point.blown.values()))
        if wanted <= self._most_a:
            return self._volts, wanted
        return self._volts * self._most_a / wanted, self._most_a


def _e(value: float) -> str:
    return f"{value:+.4E}"
