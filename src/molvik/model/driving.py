"""How a vehicle is used: what its charging is judged by."""

from molvik.model.parts import Value


class Leg(Value, frozen=True):
    """A part of a vehicle's day. minutes: how long it takes; rpm: of its engine, 1/min, 0 with the
    key off. night, rain: what is switched on by usage. shares: which share of the time a load is
    on, where the user knows better, by code. extra_a: what the job does not have, A.
    """

    name: str
    minutes: float
    rpm: float
    night: bool = False
    rain: bool = False
    shares: tuple[tuple[str, float], ...] = ()
    extra_a: float = 0.0
