"""What the electrical solution could not do, so that no silence is taken for right."""

from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.circuits.simulate import OperatingPoint
from molvik.devices.states import STATES, State
from molvik.electrical.elements import SolveError
from molvik.findings.finding import Finding


def point_in(analysis: Analysis, state: State) -> OperatingPoint:
    """Return the solution in a state. Raises SolveError where there is none to judge by."""
    point = analysis.operating_point(state)
    if point.problem:
        raise SolveError(point.problem)
    return point


def cannot_solve(analysis: Analysis) -> Iterator[Finding]:
    """A part with figures that cannot be is left out of what is alive; the rest is judged."""
    refused: dict[str, str] = {}
    for state in STATES:
        refused |= analysis.operating_point(state).refused
    for code, reason in refused.items():
        part = analysis.job.part(code)
        name = f"{part.name} ({code})" if part is not None and part.name else code
        yield Finding(
            "cannot-solve",
            "stop",
            code,
            f"{name} has {reason}.",
            "It was left out of what is alive; whatever it feeds or returns is not judged.",
            "Change its figures.",
        )
    problems = {state.name: analysis.operating_point(state).problem for state in STATES}
    if any(problems.values()):
        states = ", ".join(name for name, problem in problems.items() if problem)
        yield Finding(
            "cannot-solve",
            "stop",
            "job",
            f"What is alive cannot be computed ({states}). {next(filter(None, problems.values()))}",
            "Nothing that rests on it was judged.",
            "Look for figures that cannot be: resistances, currents, voltages of parts.",
        )
