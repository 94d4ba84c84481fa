"""This wire with that one: the copper, the class, the outside through the seal, and the verdict."""

from typing import NamedTuple

from molvik.electrical.conductor import area_mm2
from molvik.electrical.heat import outside_diameter_mm
from molvik.model.parts import WireSize
from molvik.reference.insulation import Insulation
from molvik.sizes.sizing_case import SizingCase
from molvik.sizes.wire import Sizing, judge


class Substitute(NamedTuple):
    """What a substitute comes to. copper: its section as a share of the old one's. old_mm, new_mm:
    outside diameters. seals: for each known contact, its size and whether its seal closes on it;
    crimps: whether the contact takes its copper. sizing: the verdict on it in the wire's place.
    """

    size: WireSize
    kind: Insulation
    copper: float | None
    class_k: float
    old_mm: float | None
    new_mm: float
    seals: tuple[tuple[str, bool], ...]
    crimps: tuple[tuple[str, bool], ...]
    sizing: Sizing

    @property
    def fits(self) -> bool:
        """Whether it goes through every seal and into every contact that is known."""
        return all(good for _, good in (*self.seals, *self.crimps))

    @property
    def will_do(self) -> bool:
        """Whether it fits and passes."""
        return self.fits and self.sizing.passes


def substitute(
    old: WireSize | None, requirements: SizingCase, size: WireSize, kind: Insulation
) -> Substitute:
    """Return what a wire of another size and insulation comes to in the place of an old one."""
    contacts = dict.fromkeys(requirements.contacts)
    outside = outside_diameter_mm(size, kind)
    area = area_mm2(size)
    return Substitute(
        size,
        kind,
        None if old is None else area / area_mm2(old),
        kind.limit_c - requirements.kind.limit_c,
        None if old is None else outside_diameter_mm(old, requirements.kind),
        outside,
        tuple((contact.size, contact.seal_takes(outside)) for contact in contacts),
        tuple((kind.size, kind.least_mm2 <= area <= kind.most_mm2) for kind in contacts),
        judge(size, requirements._replace(kind=kind)),
    )


def in_words(found: Substitute) -> tuple[tuple[str, str, str], ...]:
    """Return the comparison as facts: a name, what it comes to, and "bad" where it fails."""
    facts: list[tuple[str, str, str]] = []
    if found.copper is not None:
        more = "as much" if abs(found.copper - 1) < 0.005 else f"{found.copper - 1:+.0%}"
        facts.append(("Copper", f"{more}, {area_mm2(found.size):.2f} mm²", ""))
    warmer = "the same" if not found.class_k else f"{found.class_k:+g} K"
    facts.append(("Class", f"{warmer}: {found.kind.name}", ""))
    was = "" if found.old_mm is None else f", was {found.old_mm:.2f} mm"
    facts.append(("Outside", f"{found.new_mm:.2f} mm{was}", ""))
    for name, all_of, good_words, bad_words in (
        ("Seal", found.seals, "closes on it", "does not close on it: it leaks"),
        ("Terminal", found.crimps, "takes its copper", "is not made for this copper"),
    ):
        for contact, good in all_of:
            words = good_words if good else bad_words
            facts.append((name, f"size {contact} {words}", "" if good else "bad"))
    if not found.seals:
        facts.append(("Seal", "no terminal size is known: measure the seal before you cut", ""))
    failing = [criterion for criterion in found.sizing.criteria if not criterion.passes]
    for criterion in failing:
        facts.append((criterion.name.capitalize(), f"{criterion.has} of {criterion.limit}", "bad"))
    tight = found.sizing.binding
    if not failing and tight is not None:
        facts.append(("Verdict", f"passes, {tight.margin:.0%} in hand on {tight.name}", ""))
    for missing in found.sizing.unknown:
        facts.append(("Not judged", f"without {missing}", ""))
    return tuple(facts)
