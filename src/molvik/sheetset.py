"""Every sheet of a job, in its order: what each part of the work prints."""

from collections.abc import Callable

from molvik.analysis import Analysis
from molvik.crossover.repinsheet import back_sheet, repin_sheet
from molvik.findings import survey
from molvik.findings.findingsheet import accepted_words, findings_sheet
from molvik.logbook.logsheet import logbook_sheet
from molvik.logbook.quote import quote_sheet
from molvik.proving.channels import channel_sheet
from molvik.proving.report import report_sheet
from molvik.routing.laying import cutting_sheet
from molvik.routing.sheets import assembly_sheet, changes_sheet, covering_sheet
from molvik.sheet import Sheet
from molvik.survey.surveysheet import fault_sheet, replacement_sheet


def _of_crossover(analysis: Analysis) -> tuple[Sheet, ...]:
    plans = analysis.plans.values()
    return tuple(make(plan) for plan in plans for make in (repin_sheet, back_sheet))


def _of_survey(analysis: Analysis) -> tuple[Sheet, ...]:
    loom, job = analysis.loom, analysis.job
    replaced = replacement_sheet(loom, analysis.stock, job.taken)
    return fault_sheet(loom, job.settings), replaced


def _of_routing(analysis: Analysis) -> tuple[Sheet, ...]:
    if not analysis.cut_lengths:
        return ()
    job = analysis.job
    sheets = [
        cutting_sheet(job, analysis.electrics.ways, analysis.cut_lengths),
        assembly_sheet(job, analysis.electrics.ways, analysis.assembly),
    ]
    if analysis.covers:
        sheets.append(covering_sheet(analysis.covers, analysis.stock_left))
    if any(analysis.loom_changes.values()):
        sheets.append(changes_sheet(job, analysis.loom_changes))
    return tuple(sheets)


def _of_proving(analysis: Analysis) -> tuple[Sheet, ...]:
    if not analysis.plan.measurements:
        return ()
    network, plan = analysis.network, analysis.plan
    accepted = [accepted_words(one) for one in (*survey.decided(analysis), *analysis.job.accepted)]
    return report_sheet(network, plan, accepted), channel_sheet(network, plan)


SHEETS: tuple[Callable[[Analysis], tuple[Sheet, ...]], ...] = (
    lambda analysis: analysis.sheets,
    lambda analysis: (analysis.once(findings_sheet),),
    _of_crossover,
    _of_survey,
    _of_routing,
    _of_proving,
    lambda analysis: (quote_sheet(analysis), logbook_sheet(analysis)),
)
"""What makes the sheets of a job, in their order."""


def every_sheet(analysis: Analysis) -> tuple[Sheet, ...]:
    """Return all sheets of a job."""
    sheets = (sheet for make in SHEETS for sheet in make(analysis))
    if analysis.spoken.is_plain:
        return tuple(sheets)
    return tuple(sheet.said(analysis.spoken.say) for sheet in sheets)
