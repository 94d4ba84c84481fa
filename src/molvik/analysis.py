"""Everything computed from one job value, each part when it is first asked for."""

from collections.abc import Callable
from functools import cached_property
from typing import Any, TypeVar

from molvik.circuits.network import Network
from molvik.circuits.story import Stop, story
from molvik.model.job import Job
from molvik.proving.continuity import ContinuityTest, Verdict, continuity_test, verdicts
from molvik.sheets import Sheet
from molvik.sheets.continuity_list import continuity_list
from molvik.sheets.wire_list import wire_list
from molvik.sizes.wire import Question, Sizing, judge, question
from molvik.survey.tree import LoomTree

Result = TypeVar("Result")


class Analysis:
    """The computed side of one job. It is thrown away with the job value it belongs to."""

    def __init__(self, job: Job) -> None:
        self.job = job
        self._kept: dict[Callable[..., Any], Any] = {}

    @cached_property
    def network(self) -> Network:
        """What is really connected."""
        return Network(self.job)

    @cached_property
    def questions(self) -> dict[str, Question]:
        """What is asked of each wire."""
        return {wire.code: question(self.network, wire) for wire in self.job.wires}

    @cached_property
    def sizings(self) -> dict[str, Sizing]:
        """The verdict on the size of each wire that has one."""
        return {
            wire.code: judge(wire.size, self.questions[wire.code])
            for wire in self.job.wires
            if wire.size is not None
        }

    @cached_property
    def tests(self) -> dict[str, ContinuityTest]:
        """The continuity test of each wire that has both ends."""
        return {
            wire.code: continuity_test(wire, self.job.settings)
            for wire in self.job.wires
            if wire.start.at and wire.finish.at
        }

    @cached_property
    def proof(self) -> dict[str, Verdict]:
        """What the readings say of each wire that has both ends."""
        return verdicts(self.job)

    @cached_property
    def sheets(self) -> tuple[Sheet, ...]:
        """The sheets of the job."""
        return wire_list(self.network), continuity_list(self.network)

    @cached_property
    def loom(self) -> LoomTree:
        """The loom as found."""
        return LoomTree(self.job.loom)

    def story(self, code: str) -> tuple[Stop, ...]:
        """Return a wire's stops from end to end."""
        return story(self.network, self.network.wires[code])

    def once(self, compute: Callable[["Analysis"], Result]) -> Result:
        """Return what a function of a layer above makes of this analysis, computed once."""
        if compute not in self._kept:
            self._kept[compute] = compute(self)
        result: Result = self._kept[compute]
        return result
