"""What a meter shows on each part by itself, unplugged: windings, senders, diodes, contacts.

Figures are the parts' own where they were entered, else the usual ones of their kind; a fifth more
or less is no wonder for those (common practice). A screen and a network's line are among them: they
are measured with some plugs on and others off.
"""

from collections.abc import Iterator

from molvik.devices import kind_of, value
from molvik.devices.kind import OwnTest
from molvik.devices.kinds.network import TERMINATOR_OHM
from molvik.model.job import Job, Quantity
from molvik.model.parts import Device, End, Wire
from molvik.proving.items import ItemTest
from molvik.wording import figures

OWN_SHARE, USUAL_SHARE = 0.1, 0.2
"""How far a part may be from its own figure, and from the usual one of its kind (our choice)."""

DIODE_V = (0.4, 0.8)
"""What a meter's diode test shows forwards, V (common practice)."""

CLOSED_OHM, EARTHED_OHM = 0.1, 1.0
"""A contact that is made, and a screen that is earthed, show no more than this, the leads left out
(common practice)."""

TERMINATED = {
    1: "about 120 Ω: one terminator is there, the other is missing",
    2: "about 60 Ω: both terminators are there",
    3: "about 40 Ω: one terminator too many",
}
"""By how many of 120 ohms lie across a line (ISO 11898-2: two, one at each end)."""

TERMINATOR_SHARE = 0.15


def part_tests(job: Job) -> tuple[ItemTest, ...]:
    """Return what each part of a job should show by itself, at the bench's temperature."""
    found = [test for device in job.devices if device.terminals for test in _of(job, device)]
    found += [test for wire in job.wires if wire.use == "screen" for test in _screen(job, wire)]
    return (*found, *_line(job))


def _of(job: Job, device: Device) -> Iterator[ItemTest]:
    settings = job.settings
    for test in kind_of(device).own_tests(device, settings.system_v, settings.bench_c):
        match test.shows:
            case "figure":
                yield _ohms(job, device, test)
            case "closed":
                expect = f"under {CLOSED_OHM:g} Ω"
                yield _test(device, test.pair, test.what, expect, 0.0, CLOSED_OHM, test.position)
            case "open":
                yield _test(device, test.pair, test.what, "open", position=test.position)
            case "diode":
                low, high = DIODE_V
                yield _test(
                    device,
                    test.pair,
                    test.what,
                    f"{low} to {high} V",
                    low,
                    high,
                    quantity="voltage",
                )


def _test(
    device: Device,
    pair: tuple[str, ...],
    what: str,
    expect: str,
    least: float | None = None,
    most: float | None = None,
    position: str = "",
    quantity: Quantity = "resistance",
) -> ItemTest:
    between = " and ".join(name or "its body" for name in pair)
    red, black = (End(device.code, name) for name in pair)
    return ItemTest(
        "part",
        device.code,
        device.name,
        between,
        red,
        black,
        what,
        expect,
        least,
        most,
        position,
        quantity,
    )


def _ohms(job: Job, device: Device, test: OwnTest) -> ItemTest:
    ohm = value(device, test.figure, job.settings.system_v) * test.times
    own = any(name == test.figure for name, _ in device.values)
    share = OWN_SHARE if own else USUAL_SHARE
    least, most = ohm * (1 - share), ohm * (1 + share)
    expect = f"{figures(least)} to {figures(most)} Ω{'' if own else ', as is usual'}"
    return _test(device, test.pair, test.what, expect, least, most)


def _screen(job: Job, wire: Wire) -> Iterator[ItemTest]:
    """A screen is earthed at one end: seen from the other, with the plug of its earthed end on,
    then off (common practice). That end is at a controller, or at an earth point.
    """
    plugs = {d.plug for d in job.devices if kind_of(d).is_computer and d.plug}
    earths = {earth.code for earth in job.earths}
    ends = [end for end in wire.ends if end.at in plugs | earths]
    if len(ends) != 1 or not all(end.at for end in wire.ends):
        return
    far = next(end for end in wire.ends if end != ends[0])
    name, between = wire.function or "Screen", f"{far} and metal"
    on, off = f"{ends[0].at} on", f"{ends[0].at} off"
    yield ItemTest(
        "part",
        wire.code,
        name,
        between,
        far,
        End(),
        f"screen, {on}",
        f"under {EARTHED_OHM:g} Ω",
        0.0,
        EARTHED_OHM,
        on,
    )
    yield ItemTest(
        "part",
        wire.code,
        name,
        between,
        far,
        End(),
        f"screen, {off}",
        "open: it is earthed at one end",
        position=off,
    )


def _line(job: Job) -> Iterator[ItemTest]:
    """The two wires of a network with all plugged in: the two terminators beside each other."""
    nodes = [d for d in job.devices if d.kind == "network node" and len(d.terminals) > 1]
    if len(nodes) < 2:
        return
    half, what = TERMINATOR_OHM / 2, "the network's line"
    red, black = (End(nodes[0].code, name) for name in nodes[0].terminals[:2])
    yield ItemTest(
        "part",
        nodes[0].code,
        nodes[0].name,
        f"{red.cavity} and {black.cavity}",
        red,
        black,
        what,
        f"about {half:g} Ω, all plugged in, power off",
        half * (1 - TERMINATOR_SHARE),
        half * (1 + TERMINATOR_SHARE),
        what,
        means=line_words,
    )


def line_words(ohm: float) -> str:
    """Return what ohms across a two-wire line of a network mean, all plugged in, power off."""
    if ohm > 1.5 * TERMINATOR_OHM:
        return "no terminator: what was thrown away as a cap may have been one"
    for count, words in TERMINATED.items():
        if abs(ohm - TERMINATOR_OHM / count) < TERMINATOR_SHARE * TERMINATOR_OHM / count:
            return words
    return "less than three terminators make: the two wires are shorted, or a module is faulty"
