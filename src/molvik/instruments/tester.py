"""A loom tester runs the plan by itself: continuity, then isolation, point by point."""

from collections.abc import Callable, Iterator
from typing import NamedTuple

from molvik.instruments.answers import InstrumentError
from molvik.instruments.visa import Instrument
from molvik.model.parts import End
from molvik.proving.channels import channels
from molvik.proving.isolation import APART_OHM, Isolation, isolation_of
from molvik.proving.proofplan import Measurement, ProofPlan


class Done(NamedTuple):
    """One measurement of a run. measurement: of the plan, None for one of isolation; ohm: what the
    tester showed, None for open. pair: nets that were found to touch, and then ohm is between them.
    done, of: how far it is. leads_ohm: what of it is the tester's own leads, as it showed them.
    """

    measurement: Measurement | None
    ohm: float | None
    pair: tuple[int, int] | None
    done: int
    of: int
    leads_ohm: float = 0.0


LEADS_AFTER = 6
"""After so many measurements that all say the same it is asked whether the leads are on."""

PAIRS_AFTER = 3

MOST_SHORT_OHM = 10.0
"""What a tester's own leads and relays may have, ohms (our choice)."""


class LeadsError(InstrumentError):
    """Everything is open, or everything touches: that is the leads, more likely than the loom."""


def run_plan(
    plan: ProofPlan,
    tester: Instrument,
    stop: Callable[[], bool] = lambda: False,
    *,
    sure: bool = False,
) -> Iterator[Done]:
    """Yield each measurement as it is made: a run that breaks off has given all before it. sure:
    the leads were looked at, and whatever is measured is taken.

    Raises LeadsError before anything is given that only leads in the air would show, and
    InstrumentError.
    """
    channel = channels(plan.bench)
    steps = isolation_of(plan.bench)
    of = len(plan.measurements) + max(1, len(plan.bench.nets).bit_length())
    done, certain = 0, sure
    held: list[Done] = []
    if not channel:
        return
    leads_ohm = _try_out(tester, min(channel.values()))
    for measurement in plan.measurements:
        if stop():
            return
        tester.connect([channel[measurement.red]], [channel[measurement.black]])
        done += 1
        made = Done(measurement, tester.resistance(), None, done, of, leads_ohm)
        if not sure and made.ohm is None and len(held) == done - 1:
            held.append(made)
            if done < min(LEADS_AFTER, len(plan.measurements)):
                continue
            if done > 1:
                raise LeadsError(f"All of the first {done} measurements are open.")
        yield from held
        if made not in held:
            yield made
        held, sure = [], True
    for last in _isolate(plan, tester, steps, channel, done, of, stop, sure=certain):
        yield last._replace(leads_ohm=leads_ohm)


def _try_out(tester: Instrument, point: int) -> float:
    """Have it measure nothing, then a point against itself: open and short of its own leads. Return
    what those have, ohms.

    Raises InstrumentError when it shows anything else: it does not measure ohms, or its matrix does
    not switch, and a loom with open wires could look whole.
    """
    tester.stand_on_ohms()
    tester.open_all()
    nothing = tester.resistance()
    if nothing is not None and nothing < APART_OHM:
        raise InstrumentError(
            f"{tester.name} shows {nothing:.4g} Ω with nothing tied to it: it does not measure "
            "resistance, or its matrix does not open. Nothing was measured."
        )
    tester.connect([point], [point])
    short = tester.resistance()
    if short is None or not abs(short) <= MOST_SHORT_OHM:
        shown = "open" if short is None else f"{short:.4g} Ω"
        raise InstrumentError(
            f"{tester.name} shows {shown} with one point on both of its sides: its own leads are "
            "open, or its matrix does not close. Nothing was measured."
        )
    return max(0.0, short)


def _isolate(
    plan: ProofPlan,
    tester: Instrument,
    steps: Isolation,
    channel: dict[End, int],
    done: int,
    of: int,
    stop: Callable[[], bool],
    *,
    sure: bool,
) -> Iterator[Done]:
    at = plan.bench.tied_at
    held: list[Done] = []
    apart = sure
    while steps.now is not None:
        if stop():
            return
        one, other = ([channel[at[net]] for net in group] for group in steps.now[:2])
        tester.connect(one, other)
        ohm = tester.resistance()
        known = len(steps.touching)
        steps.answer(ohm)
        done += 1
        pair = steps.touching[-1] if len(steps.touching) > known else None
        held.append(Done(None, steps.ohm if pair else ohm, pair, done, max(of, done)))
        apart = apart or ohm is None or ohm >= APART_OHM
        if not apart and len(steps.touching) >= min(PAIRS_AFTER, len(plan.bench.nets) - 1) > 1:
            raise LeadsError(f"All of the first {len(held)} groups are shorted together.")
        if apart:
            yield from held
            held = []
    yield from held
