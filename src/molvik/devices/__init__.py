"""The kinds of devices there are. One module in ``kinds`` says all that is particular to some of
them; every ``Kind`` in it is found, and its name is a kind that a job may hold.
"""

import importlib
import pkgutil
from collections.abc import Iterable, Mapping
from types import MappingProxyType

from molvik.devices import kinds
from molvik.devices.kind import Kind
from molvik.model.parts import Device


def _every() -> dict[str, Kind]:
    found: dict[str, Kind] = {}
    for module in pkgutil.iter_modules(kinds.__path__):
        names = vars(importlib.import_module(f"{kinds.__name__}.{module.name}"))
        found |= {kind.name: kind for kind in names.values() if isinstance(kind, Kind)}
    return dict(sorted(found.items(), key=lambda one: one[0].lower()))


_FOUND = _every()

KINDS: Mapping[str, Kind] = MappingProxyType(_FOUND)
"""By name, in the order of the alphabet."""


def unknown_kind(devices: Iterable[Device]) -> str:
    """Return which device is of a kind that there is not, in words; empty when none is. Who reads
    devices from outside asks it: all else takes every kind to be known.
    """
    unknown = (device for device in devices if device.kind not in KINDS)
    return next((f"{d.code or d.name} is of an unknown kind, “{d.kind}”" for d in unknown), "")


def kind_of(device: Device) -> Kind:
    """Return what is particular to a device's kind."""
    return KINDS[device.kind]


def value(device: Device, name: str, nominal_v: float = 12.0) -> float:
    """Return a figure of a device: its own, or the usual one of its kind at a nominal voltage."""
    return KINDS[device.kind].figure(device, name, nominal_v)


def generators(devices: Iterable[Device]) -> list[Device]:
    """Return what charges among devices: alternators and dynamos."""
    return [device for device in devices if KINDS[device.kind].regulates]
