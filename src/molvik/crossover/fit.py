"""Whether a terminal that sits in one cavity fits another."""

from typing import Literal, NamedTuple

from molvik.crossover.leads import Lead
from molvik.electrical.conductor import area_mm2
from molvik.model.geometry import contact_of
from molvik.model.parts import Connector
from molvik.model.refs import Ref
from molvik.reference.contacts import CONTACTS

Verdict = Literal["reuse", "re-terminate", "will not fit", "not known"]


class Fit(NamedTuple):
    """The verdict and why."""

    verdict: Verdict
    why: str


def fit(lead: Lead, source: Connector, target: Connector, cavity: str) -> Fit:
    """Return whether a lead's terminal goes into a cavity of the target as it is."""
    was = contact_of(source, Ref.parse(lead.place).cavity)
    wanted = contact_of(target, cavity)
    contact = CONTACTS.get(wanted)
    if contact is not None and lead.size is not None:
        area = area_mm2(lead.size)
        if not contact.least_mm2 <= area <= contact.most_mm2:
            return Fit(
                "will not fit",
                f"{lead.size} is outside {contact.least_mm2:g} to {contact.most_mm2:g} mm² of "
                f"terminal size {wanted}: splice in a tail of a size that fits",
            )
    if source.code == target.code and was == wanted:
        return Fit("reuse", "same housing, same terminal")
    genders = source.terminals, target.terminals
    if all(genders) and genders[0] != genders[1]:
        return Fit("re-terminate", f"{genders[1]}s are needed, these are {genders[0]}s")
    if not was or not wanted:
        return Fit("not known", "the terminal size of one of the housings is not known")
    if was != wanted:
        return Fit("re-terminate", f"terminal size {wanted} is needed, this is {was}")
    return Fit("reuse", f"terminal size {wanted} on both sides: compare the terminals by eye")
