"""A family of housings: what a housing of it has, before it is part of a job."""

from molvik.model.parts import Gender, Grid, HousingGender, Side, Value


class Family(Value, frozen=True):
    """One housing of a family.

    housing, terminals, contact, contacts, key, lever, up: as of a ``Connector``. sealed: each wire
    has a seal. secondary_lock: a second lock holds the terminals. cavity_plugs: empty cavities take
    plugs.
    """

    name: str
    grid: Grid
    housing: HousingGender = ""
    terminals: Gender = ""
    contact: str = ""
    contacts: tuple[tuple[str, str], ...] = ()
    key: Side = ""
    lever: Side = ""
    up: str = ""
    sealed: bool = False
    secondary_lock: bool = False
    cavity_plugs: bool = False
    note: str = ""
