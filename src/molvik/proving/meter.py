"""What a meter can tell: how far its reading may be off, by the form of its data sheet."""

from molvik.model.job import Settings


def spread_ohm(value_ohm: float, settings: Settings) -> float:
    """Return how far a reading may be off, ohms: so many per cent of it, and so many steps."""
    return abs(value_ohm) * settings.meter_percent / 100 + (
        settings.meter_counts * settings.meter_step_ohm
    )
