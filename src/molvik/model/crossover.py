"""Repinning: which plug becomes which, what the user decided, and how far the work has come."""

from typing import Literal

import msgspec

from molvik.model.parts import Pin, Value

Disposition = Literal["match", "join", "stow", "remove"]
Approach = Literal["donor's wiring", "chassis wiring", "mixed"]
SetKind = Literal["crossover", "one to one"]


class Pinout(Value, frozen=True):
    """One more table for a connector: another year, another variant, what it is to become."""

    connector: str
    name: str
    pins: tuple[Pin, ...] = ()


class Decided(Value, frozen=True):
    """The user's word on one lead.

    lead: the cavity it sat in at the start, "C1/5". to: the cavity it is for, "C2/33"; with "join",
    the cavity whose wire it joins. said: both functions when it was decided, so that a table that
    says otherwise later is noticed. why: the reason, in the user's words, for what is put aside.
    """

    lead: str
    disposition: Disposition = msgspec.field(name="fate")
    to: str = ""
    said: tuple[str, str] = ("", "")
    why: str = ""


class Rejected(Value, frozen=True):
    """A cavity that a lead is not for. fresh: nor is any other; it gets a new wire."""

    lead: str
    to: str
    fresh: bool = False


class Extension(Value, frozen=True):
    """A lead that is too short for its new place. length_m: what is added, m."""

    lead: str
    length_m: float
    why: str = ""


class OriginalPosition(Value, frozen=True):
    """What sat in a cavity when the work began. wires: code and which end, "start" or "finish"."""

    place: str
    wires: tuple[tuple[str, Literal["start", "finish"]], ...] = ()


class RepinSet(Value, frozen=True):
    """One plug to be repinned. Q1 is a code.

    sources: connectors whose leads take part. target: the connector that is to be right. wanted:
    the name of the pinout it is to have, empty for its own. start: where everything sat when the
    first step was ticked, empty before that. rejected: what is not to be proposed again. order:
    keys of steps as the user wants them.
    """

    code: str
    name: str
    sources: tuple[str, ...] = ()
    target: str = ""
    wanted: str = ""
    kind: SetKind = "crossover"
    approach: Approach = msgspec.field(default="mixed", name="school")
    decided: tuple[Decided, ...] = ()
    rejected: tuple[Rejected, ...] = ()
    extensions: tuple[Extension, ...] = ()
    start: tuple[OriginalPosition, ...] = ()
    order: tuple[str, ...] = ()
