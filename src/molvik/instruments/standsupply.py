"""A stand-in of a bench supply with a current limit: it feeds the job's loom, with what is hidden
in it, in place of the battery. It cannot see the key: SIM:KEY tells it (a command of our own).
"""

import re
from collections.abc import Sequence
from functools import partial

from molvik.instruments.supply import FIRST_STATES
from molvik.model.job import Job
from molvik.netlist.faults import Fault
from molvik.netlist.network import Network
from molvik.netlist.states import OFF, State
from molvik.proving.bench import Bench
from molvik.proving.played import Played
from molvik.proving.powerstep import still


class StandInSupply:
    """Answers commands. faults: what is hidden in the loom."""

    def __init__(self, job: Job, faults: Sequence[Fault] = ()) -> None:
        self._played = Played(Network(job), Bench(job))
        self._solved = still(job, partial(self._played.solved, tuple(faults)))
        self._state: State = OFF
        self._volts, self._most_a, self._on = 12.0, 1.0, False
        self._errors: list[str] = []
        self._name = f"Molvik,stand-in of a bench supply,{job.id[:8] or '0'},1"

    def answer(self, line: str) -> str | None:
        """Return what is answered to a line, None for nothing."""
        command = " ".join(line.strip().upper().split())
        volts, amps = self._flow()
        told = {
            "*IDN?": self._name, "*OPC?": "1", "OUTP?": str(int(self._on)),
            "VOLT?": f"{self._volts:+.4E}", "CURR?": f"{self._most_a:+.4E}",
            "MEAS:VOLT?": f"{volts:+.4E}", "MEAS:VOLT:DC?": f"{volts:+.4E}",
            "MEAS:CURR?": f"{amps:+.4E}", "MEAS:CURR:DC?": f"{amps:+.4E}",
        }  # fmt: skip
        if command in told:
            return told[command]
        if command == "SYST:ERR?":
            return self._errors.pop(0) if self._errors else '0,"No error"'
        if found := re.fullmatch(r"(VOLT|CURR) (\d*\.?\d+)", command):
            self._hold(found[1], float(found[2]))
        elif found := re.fullmatch(r"OUTP (ON|OFF|1|0)", command):
            self._on = found[1] in ("ON", "1")
        elif found := re.fullmatch(r"SIM:KEY (\w+)", command):
            known = {state.name.upper(): state for state in FIRST_STATES}
            self._state = known.get(found[1], self._state)
        elif command == "*RST":
            self._on = False
        elif command not in ("", "*CLS"):
            self._errors.append('-113,"Undefined header"')
        return None

    def _hold(self, what: str, value: float) -> None:
        if what == "VOLT":
            self._volts = value
        else:
            self._most_a = value

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
