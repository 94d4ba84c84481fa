"""A loom tester runs the plan by itself: continuity, then isolation, point by point."""

from collections.abc import Callable, Iterator
from typing import NamedTuple

from molvik.instruments.visa import Instrument
from molvik.model.parts import End
from molvik.proving.channels import channels
from molvik.proving.isolation import Isolation, isolation_of
from molvik.proving.plan import Measurement, Plan


class Done(NamedTuple):
    """One measurement of a run. measurement: of the plan, None for one of isolation; ohm: what the
    tester showed, None for open. pair: nets that were found to touch, and then ohm is between them.
    done, of: how far it is.
    """

    measurement: Measurement | None
    ohm: float | None
    pair: tuple[int, int] | None
    done: int
    of: int


def run_plan(
    plan: Plan, tester: Instrument, stop: Callable[[], bool] = lambda: False
) -> Iterator[Done]:
    """Yield each measurement as it is made: a run that breaks off has given all before it.

    Raises InstrumentError.
    """
    channel = channels(plan.bench)
    steps = isolation_of(plan.bench)
    of = len(plan.measurements) + max(1, len(plan.bench.nets).bit_length())
    done = 0
    for one in plan.measurements:
        if stop():
            return
        tester.connect([channel[one.red]], [channel[one.black]])
        done += 1
        yield Done(one, tester.ohm("READ?"), None, done, of)
    yield from _isolate(plan, tester, steps, channel, done, of, stop)


def _isolate(
    plan: Plan, tester: Instrument, steps: Isolation, channel: dict[End, int], done: int,
    of: int, stop: Callable[[], bool],
) -> Iterator[Done]:  # fmt: skip
    at = plan.bench.tied_at
    while steps.now is not None:
        if stop():
            return
        one, other = ([channel[at[net]] for net in group] for group in steps.now[:2])
        tester.connect(one, other)
        ohm = tester.ohm("READ?")
        known = len(steps.touching)
        steps.answer(ohm)
        done += 1
        if len(steps.touching) > known:
            yield Done(None, steps.ohm, steps.touching[-1], done, max(of, done))
        else:
            yield Done(None, ohm, None, done, max(of, done))
