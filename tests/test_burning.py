"""Every wire that a short would burn is told, and few others are."""

import random

import pytest
from msgspec.structs import replace

from burning import burning_returns, heated
from conftest import found_of
from feedtrees import random_supply
from molvik.analysis import Analysis
from molvik.model.job import Job
from test_poles import turned_round

ODD = (15, 30, 47, 53, 56, 2364, 3021, 3049)
"""By what comes back through the earth; what cannot come by a changeover's other contact; and by
what comes back to the second of two batteries.
"""


def supply(seed: int) -> Job:
    """Return a supply whose wires are all of one class, in air of 60 deg C."""
    job = random_supply(random.Random(seed), fused=seed % 4 > 0)
    wires = tuple(replace(wire, insulation="C125") for wire in job.wires)
    return replace(job, wires=wires)


def missed_and_needless(seed: int) -> tuple[set[str], set[str], int]:
    """Return the wires that burn and are not told, those told for nothing, and how many are told.
    Every third supply has plus at metal.
    """
    job = supply(seed)
    warm = heated(job)
    asked = turned_round(job) if seed % 3 == 0 else job
    told = {one.subject for one in found_of(Analysis(asked), "fuse-too-large", "no-fuse")}
    burning = {code for code, one in warm.items() if one.burns()} | burning_returns(job)
    easy = {code for code, one in warm.items() if one.is_easy()}
    return burning - told, told & easy, len(told & warm.keys())


@pytest.mark.parametrize("seed", [*range(14), *ODD])
def test_every_wire_that_burns_is_told(seed: int) -> None:
    missed, _, _ = missed_and_needless(seed)
    assert not missed


def test_few_are_told_for_nothing() -> None:
    found = [missed_and_needless(seed) for seed in range(100, 110)]
    stops = sum(count for _, _, count in found)
    assert stops > 40
    assert sum(len(wrong) for _, wrong, _ in found) < 0.05 * stops
