"""What a person would see of a fault: what differs from the job as it is."""

from collections.abc import Mapping

from molvik.circuits.simulate import OperatingPoint
from molvik.devices.states import CRANK, ISOLATED, KEY_OFF_RUNNING

States = Mapping[str, OperatingPoint]


def symptoms(before: States, after: States) -> tuple[str, ...]:
    """Return what changes between two solutions of the same states, the worst first."""
    found = [*_engine(before, after)]
    for what in ("blown", "chatter"):
        where: dict[str, list[str]] = {}
        for name, point in after.items():
            for code in sorted(set(getattr(point, what)) - set(getattr(before[name], what))):
                where.setdefault(code, []).append(name)
        verb = "blows" if what == "blown" else "chatters"
        found += [f"{code} {verb}: {', '.join(names)}." for code, names in where.items()]
    changes: dict[tuple[str, str], list[str]] = {}
    for name, point in after.items():
        for load in point.loads:
            was = before[name].load[load.device]
            if was.state != load.state:
                key = load.name, f"{load.state} instead of {was.state}"
                changes.setdefault(key, []).append(name)
    found += [f"{name}: {how} in {', '.join(change)}." for (name, how), change in changes.items()]
    return tuple(found)


def _engine(before: States, after: States) -> list[str]:
    found = []
    if CRANK.name in after:
        was, now = before[CRANK.name].no_start, after[CRANK.name].no_start
        if now and now != was:
            found.append(f"The engine does not start: {now}.")
        elif was and not now:
            found.append("The engine starts.")
    for name, how in ((KEY_OFF_RUNNING.name, "the key"), (ISOLATED.name, "the isolator")):
        if name in after:
            was_on, is_on = not before[name].lost, not after[name].lost
            if is_on and not was_on:
                found.append(f"The engine does not stop with {how}.")
            elif was_on and not is_on:
                found.append(f"The engine stops with {how}.")
    return found
