"""Readings as they are taken: with who took them, how warm it was, and what the leads show."""

from typing import Any

from molvik.model.job import Quantity, Reading, Settings
from molvik.model.parts import End


def taken(
    settings: Settings,
    at: str,
    quantity: Quantity,
    value: float | None,
    points: tuple[End, ...],
    *,
    leads_ohm: float | None = None,
    **more: Any,
) -> Reading:
    """Return a reading. at: local time with its UTC offset, ISO 8601; more: its other fields.

    leads_ohm: what of it is the instrument's leads, None for those of the job's meter.
    """
    leads = settings.meter_leads_ohm if leads_ohm is None else leads_ohm
    return Reading(
        more.pop("item", ""),
        quantity,
        value,
        points,
        at,
        settings.measured_by,
        leads_ohm=leads if quantity == "resistance" else 0.0,
        bench_c=settings.bench_c,
        **more,
    )
