"""Where wires run. All common practice, with no source.

The air of each place is what a job begins with; it can be set per job.
"""

from typing import NamedTuple

from molvik.model.job import Settings


class Place(NamedTuple):
    """A place where wires run. air_c: the air round them on a hot day, deg C."""

    code: str
    name: str
    air_c: float


_PLACES = (
    Place("", "engine bay", 60.0),
    Place("exhaust", "beside the exhaust", 110.0),
    Place("cabin", "cabin", 45.0),
    Place("tank", "at the tank or under the floor", 45.0),
    Place("outside", "outside", 40.0),
)

PLACES: dict[str, Place] = {place.code: place for place in _PLACES}


def air_c(settings: Settings, place: str) -> float:
    """Return the air of a place in a job, deg C; of an unknown place that of the engine bay."""
    if place not in PLACES or not place:
        return settings.ambient_c
    return dict(settings.air_c).get(place, PLACES[place].air_c)
