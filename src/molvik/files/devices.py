"""Devices defined once and shared as files."""

from pathlib import Path

import msgspec

from molvik.devices import unknown_kind
from molvik.files.errors import JobFileError
from molvik.files.writing import reason, small_file, write_file
from molvik.model import references
from molvik.model.parts import Device

SUFFIX = ".molvik-device"


def write_device(device: Device, path: Path) -> None:
    """Write what a device is; its code and what it points at in a job stay behind."""
    shared = references.detached(device, "devices")
    write_file(path, msgspec.json.format(msgspec.json.encode(shared), indent=1) + b"\n")


def read_device(path: Path) -> Device:
    """Read a shared device; JobFileError says what is wrong with the file."""
    try:
        device = msgspec.json.decode(small_file(path), type=Device)
    except OSError as error:
        raise JobFileError(f"{path.name} cannot be read: {reason(error)}.") from error
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise JobFileError(f"{path.name} is not a device of Molvik: {error}.") from error
    if not device.name.strip():
        raise JobFileError(f"{path.name} cannot be used: it has no name.")
    if problem := unknown_kind((device,)):
        raise JobFileError(f"{path.name} cannot be used: {problem}. Update Molvik to read it.")
    wrong = [name for name, figure in device.values if not 0 < figure < 1e9]
    if wrong:
        raise JobFileError(f"{path.name} cannot be used: its {wrong[0]} is not above zero.")
    shared: Device = references.detached(device, "devices")
    return shared
