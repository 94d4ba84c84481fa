"""A day of a vehicle as it is typed: its parts, and how long loads are on in each."""

from collections.abc import Callable, Sequence

from msgspec.structs import replace

from molvik.circuits.balance import drive_of
from molvik.model import edits
from molvik.model.driving import Leg
from molvik.model.job import Job
from molvik.numbers import read_number
from molvik.parsing.quantities import read_current_a
from molvik.typed.field import Field, Typed

YES = ("yes", "y", "on", "true", "1", "x")
NO = ("no", "n", "off", "false", "0", "", "-")

MOST_MINUTES = 60.0 * 24 * 60
NEW = "new part"


def _yes(text: str) -> bool:
    tidy = text.strip().lower()
    if tidy in YES:
        return True
    if tidy in NO:
        return False
    raise ValueError(f"“{text.strip()}” is neither yes nor no.")


def _name(text: str) -> str:
    if not text.strip():
        raise ValueError("Give this part of the day a name: in traffic, on the road, parked.")
    return " ".join(text.split())


def _minutes(text: str) -> float:
    tidy = text.strip().lower()
    hours = tidy.endswith("h")
    tidy = tidy.removesuffix("min").removesuffix("h").strip()
    minutes = read_number(tidy, "time in minutes", "30", least=0, most=MOST_MINUTES)
    return minutes * 60 if hours else minutes


def _rpm(text: str) -> float:
    tidy = text.strip().lower().removesuffix("1/min").removesuffix("rpm").strip()
    return read_number(tidy or "0", "engine speed", "800", least=0, most=20_000)


def _extra(text: str) -> float:
    return read_current_a(text) if text.strip() not in ("", "0") else 0.0


LEG_FIELDS: tuple[Field[Leg], ...] = (
    Field("Part", "What the vehicle does", lambda leg: leg.name, lambda t, _: {"name": _name(t)}),
    Field(
        "Time",
        "How long it takes: 30 min, 12 h; a bare number is minutes",
        lambda leg: f"{leg.minutes:g} min",
        lambda t, _: {"minutes": _minutes(t)},
        unit="min",
    ),
    Field(
        "Engine",
        "Its speed, 1/min; 0 with the key off",
        lambda leg: f"{leg.rpm:g} 1/min",
        lambda t, _: {"rpm": _rpm(t)},
        unit="1/min",
    ),
    Field(
        "Night",
        "Whether lamps are on",
        lambda leg: "yes" if leg.night else "no",
        lambda t, _: {"night": _yes(t)},
        ("yes", "no"),
        listed=True,
    ),
    Field(
        "Rain",
        "Whether wipers and heated windows are on",
        lambda leg: "yes" if leg.rain else "no",
        lambda t, _: {"rain": _yes(t)},
        ("yes", "no"),
        listed=True,
    ),
    Field(
        "More",
        "What the job does not have: a winch, a radio, a trailer",
        lambda leg: f"{leg.extra_a:g} A",
        lambda t, _: {"extra_a": _extra(t)},
        unit="A",
    ),
)


def type_leg(job: Job, number: int, field: Field[Leg], text: str) -> Typed:
    """Return the change that a typed field of a part of the day makes. Raises ValueError."""
    fields = field.read(text, None)  # type: ignore[arg-type]
    return _changed(
        f"{field.name} of “{drive_of(job)[number].name}”",
        lambda leg: replace(leg, **fields),
        number,
    )


def type_share(job: Job, number: int, device: str, text: str) -> Typed:
    """Return the change of how long a load is on, as a share of the time; empty for what is usual.
    Raises ValueError.
    """
    tidy = text.strip().removesuffix("%").strip()
    share = None if not tidy else read_number(tidy, "share in per cent", "50", 0, 100) / 100

    def changed(leg: Leg) -> Leg:
        shares = dict(leg.shares)
        shares.pop(device, None)
        if share is not None:
            shares[device] = share
        return replace(leg, shares=tuple(shares.items()))

    return _changed(f"How long {device} is on", changed, number)


def _changed(step: str, change: Callable[[Leg], Leg], number: int) -> Typed:
    def edit(job: Job) -> Job:
        legs = list(drive_of(job))
        legs[number] = change(legs[number])
        return edits.change_settings(job, drive=tuple(legs))

    return Typed(step, "", edit)


def with_leg(job: Job) -> Job:
    """Return the job with one part of the day more."""
    legs = drive_of(job)
    return edits.change_settings(job, drive=(*legs, Leg(NEW, 30.0, 800.0)))


def without_legs(job: Job, numbers: Sequence[int]) -> Job:
    """Return the job without some parts of the day."""
    legs = tuple(leg for n, leg in enumerate(drive_of(job)) if n not in set(numbers))
    return edits.change_settings(job, drive=legs)
