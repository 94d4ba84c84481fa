"""Sheets of the looms to build: what covers them, how they are put together, what was changed."""

from collections.abc import Mapping

from molvik.model.job import Job
from molvik.reference.coverings import COVERINGS
from molvik.routing.assembly import Assembly
from molvik.routing.building import after_laying
from molvik.routing.compare import Change
from molvik.routing.covers import Cover, wanted
from molvik.routing.ways import Ways
from molvik.sheet import Sheet, Table, notes
from molvik.wording import counted


def covering_sheet(covers: dict[str, Cover], left: Mapping[str, float]) -> Sheet:
    """Return what covers each stretch, and how much of each covering is wanted and there. left: how
    much of each thing in stock is there for it, by code.
    """
    rows = tuple(
        (
            cover.run,
            COVERINGS[cover.covering].name,
            cover.size,
            f"{cover.over_mm:.1f}",
            "" if cover.problem else f"{cover.amount_m:.2f}",
            f"{cover.item}, cut" if cover.cut else cover.item,
            cover.problem,
        )
        for cover in covers.values()
    )
    sums = tuple(
        (
            COVERINGS[one.covering].name,
            one.size,
            f"{one.amount_m:.2f}",
            one.item,
            "" if one.have_m is None else f"{one.have_m:.2f}",
            f"{one.short_m:.2f}" if one.short_m else "",
        )
        for one in wanted(covers, left)
    )
    return Sheet(
        "coverings",
        "Coverings",
        (
            Table(
                ("Stretch", "Covering", "Size", "Over mm", "Cut m", "From", "Does not go on"),
                (5, 10, 9, 7, 7, 6, 30),
                rows,
            ),
            Table(
                ("Covering", "Size", "Together m", "From", "There m", "Short m"),
                (10, 9, 9, 6, 8, 8),
                sums,
            ),
            *notes(
                "Sizes by what is in stock, else the smallest generic one that goes on. Tape all "
                "over a loom makes it stiff: tape every 150 mm where it is bent or moves."
            ),
        ),
    )


def assembly_sheet(job: Job, ways: Ways, made: Assembly) -> Sheet:
    """Return in which order a loom is put together, to be ticked."""
    rows = tuple(
        (f"{number}", step.do, step.detail, "☐")
        for number, step in enumerate(after_laying(job, ways, made), 1)
    )
    stuck = [
        f"The {one.what} of {one.at} cannot be slid on any more: on each side a plug is on."
        for one in made.stuck
    ]
    if made.off:
        stuck.append(
            f"Cheapest to take off: {', '.join(made.off)}, {counted(made.terminals, 'terminal')}."
        )
    return Sheet(
        "assembly",
        "Order of assembly",
        (
            Table(("No", "Do", "How", "Done"), (3, 26, 40, 4), rows),
            *notes(
                *stuck,
                "Once all wires are laid. What is slid on before is out of the way of what "
                "comes after.",
            ),
        ),
    )


def changes_sheet(job: Job, changes: dict[str, tuple[Change, ...]]) -> Sheet:
    """Return what of the loom as found is another in the looms to build."""
    names = {loom.code: loom.name for loom in job.routing.looms}
    rows = tuple(
        (names[loom], change.how, change.new, change.old, change.name, change.was, change.now)
        for loom, found in changes.items()
        for change in found
    )
    return Sheet(
        "beside-the-old-loom",
        "Beside the old loom",
        (
            Table(
                ("Loom", "What", "Now", "Was", "Stretch or place", "It was", "It is"),
                (12, 9, 5, 5, 24, 14, 14),
                rows,
            ),
        ),
    )
