"""Repair or a new loom, in money: hours at the user's price, materials at the prices in stock."""

from collections.abc import Iterable
from typing import NamedTuple

from molvik.analysis import Analysis
from molvik.logbook.estimate import (
    OPERATIONS,
    Quantities,
    Rate,
    access_min,
    hours,
    rates,
    reached,
    repair_quantities,
    replace_quantities,
)
from molvik.model.job import Settings
from molvik.model.log import Operation
from molvik.sheet import Sheet, Table, notes
from molvik.survey.materials import Bought, new_loom_needs, priced
from molvik.survey.replacement import bought_for_repair
from molvik.wording import figures


class Cost(NamedTuple):
    """What a piece of work costs. materials: in the job's currency, of what has a price.

    unpriced: what has none, in words. foreign: sums in other currencies. access_h: to reach it all,
    of the hours, h.
    """

    hours: float
    quantities: Quantities
    bought: tuple[Bought, ...]
    work: float
    materials: float
    unpriced: tuple[str, ...]
    foreign: dict[str, float]
    access_h: float = 0.0

    @property
    def total(self) -> float:
        """Work and materials together, in the currency of the quote."""
        return self.work + self.materials


def cost(
    quantities: Quantities,
    bought: Iterable[Bought],
    known: dict[Operation, Rate],
    settings: Settings,
    access_h: float = 0.0,
) -> Cost:
    """Return what quantities of work and materials cost. access_h: to reach it all, h."""
    bought = tuple(bought)
    worked = hours(quantities, known) + access_h
    materials, foreign, unpriced = 0.0, dict[str, float](), []
    for purchase in bought:
        if purchase.price is None or purchase.item is None:
            unpriced.append(purchase.need.what)
        elif purchase.item.currency in ("", settings.currency):
            materials += purchase.price
        else:
            foreign[purchase.item.currency] = (
                foreign.get(purchase.item.currency, 0.0) + purchase.price
            )
    return Cost(
        worked,
        quantities,
        bought,
        worked * settings.hour_price,
        materials,
        tuple(unpriced),
        foreign,
        access_h,
    )


class Choice(NamedTuple):
    """Both ways, and what is asked for: the new loom when the decisions say so."""

    repair: Cost
    new_loom: Cost
    replaced: bool

    @property
    def chosen(self) -> Cost:
        """The one that the decisions ask for."""
        return self.new_loom if self.replaced else self.repair


def choice(analysis: Analysis) -> Choice:
    """Return what repairing the loom as found costs, and a whole new one."""
    job, tree = analysis.job, analysis.loom
    known = rates(job.log)
    replaced = any(fault.decision == "replace the loom" for fault in tree.loom.faults)

    def reckon(quantities: Quantities, bought: tuple[Bought, ...], where: set[str]) -> Cost:
        access = access_min(analysis, where) / 60
        return cost(quantities, bought, known, job.settings, access)

    repair = bought_for_repair(tree, analysis.stock, job.taken)
    new = priced(new_loom_needs(tree), analysis.stock)
    everywhere = {segment.code for segment in tree.loom.segments}
    return Choice(
        reckon(repair_quantities(analysis), repair, reached(analysis)),
        reckon(replace_quantities(analysis), new, everywhere),
        replaced,
    )


def break_even(repair: Cost, new: Cost, settings: Settings) -> str:
    """Say which way is less, by how much, and where both would meet; empty without a loom."""
    if new.hours <= 0:
        return ""
    unit = settings.currency
    words = f"Repair {repair.hours:.1f} h, a new loom {new.hours:.1f} h"
    if not settings.hour_price:
        words += "; give the price of an hour in the job's settings to have it in money."
        return words
    words += f": {repair.total:,.0f} against {new.total:,.0f} {unit} with materials. "
    more = (new.total - repair.total) / settings.hour_price
    if more >= 0:
        words += f"Repair costs less, until it takes {more:.1f} h more than estimated."
    else:
        words += f"A new loom costs less, by as much as {-more:.1f} h of work."
    hours_saved, dearer = new.hours - repair.hours, repair.materials - new.materials
    if hours_saved * dearer > 0:  # less work against dearer materials, or the other way round
        words += f" Both cost the same at {dearer / hours_saved:,.2f} {unit} an hour."
    missing = tuple(dict.fromkeys((*repair.unpriced, *new.unpriced)))
    if missing:
        words += f" Without a price in stock: {', '.join(missing)}."
    abroad = {**new.foreign, **repair.foreign}
    if abroad:
        words += f" Not added up: prices in {', '.join(sorted(abroad))}."
    return words


def quote_sheet(analysis: Analysis) -> Sheet:
    """Return what the work that was decided on costs, line by line."""
    settings = analysis.job.settings
    both = analysis.once(choice)
    chosen, known = both.chosen, rates(analysis.job.log)
    unit = settings.currency
    rows = []
    for operation in OPERATIONS:
        amount = chosen.quantities[operation]
        if amount:
            worked = amount * known[operation].minutes / 60
            price = f"{worked * settings.hour_price:.2f}" if settings.hour_price else ""
            rows.append(("Work", str(operation), figures(amount), f"{worked:.2f} h", price, unit))
    if chosen.access_h:
        price = f"{chosen.access_h * settings.hour_price:.2f}" if settings.hour_price else ""
        rows.append(
            ("Work", "reach it: what must come off", "", f"{chosen.access_h:.2f} h", price, unit)
        )
    for bought in chosen.bought:
        item, price = bought.item, "not known" if bought.price is None else f"{bought.price:.2f}"
        source = f"{item.price:g} each" if item and item.price else ""
        source = f"{item.code}, {source}" if item and source else source
        money = item.currency or unit if item else ""
        amount_text = f"{figures(bought.need.amount)} {bought.need.unit}"
        rows.append(("Material", bought.need.what, amount_text, source, price, money))
    if rows:
        rows.append(("", "Work", "", f"{chosen.hours:.2f} h", f"{chosen.work:.2f}", unit))
        rows.append(("", "Materials", "", "", f"{chosen.materials:.2f}", unit))
        rows.append(("", "Together", "", "", f"{chosen.total:.2f}", unit))
    table = Table(
        ("Kind", "What", "How much", "Rate", "Price", "Currency"),
        (6, 22, 10, 10, 9, 7),
        tuple(rows),
    )
    title = "Quote: a new loom" if both.replaced else "Quote: repair of the loom"
    below = notes(
        break_even(both.repair, both.new_loom, settings) or "No loom was surveyed.",
        "Hours by the rates of the logbook, without tax. What is found when the loom is "
        "opened comes on top.",
    )
    return Sheet("quote", title, (table, *below))
