"""A wire that its bundle overheats: what is named and would help, against the job so changed."""

import re

import pytest
from msgspec.structs import replace

from molvik.analysis import Analysis
from molvik.electrical.conductor import area_mm2
from molvik.findings import find_all
from molvik.findings.finding import Finding
from molvik.model.job import Job
from molvik.model.parts import Bundle, EarthPoint, End, Fuse, Wire, WireSize
from molvik.reference.copper import AWG_SIZES, METRIC_SIZES
from molvik.sizes.bundles import bundle_summary
from molvik.sizes.resize import resized, resizes
from molvik.sizes.sizing_case import SizingCase
from molvik.sizes.wire import smallest


def wire(code: str, amps: float, size: WireSize, bundle: str = "Main") -> Wire:
    return Wire(
        code,
        End("F1", "out"),
        End("E1"),
        "Fan",
        size=size,
        insulation="C125",
        length_m=2.0,
        load_a=amps,
        bundle=bundle,
    )


def crowd(covering: str = "tape", hot_a: float = 30.0, many: int = 6) -> Job:
    thin = wire("W1", 11.6, WireSize("awg", 16))
    others = tuple(wire(f"W{n}", hot_a, WireSize("awg", 14)) for n in range(2, 2 + many))
    return Job(
        "x",
        wires=(thin, *others),
        fuses=(Fuse("F1", "f", 15),),
        earths=(EarthPoint("E1", "e"),),
        bundles=(Bundle("Main", covering=covering),),
    )


def told(job: Job, code: str = "W1") -> Finding:
    return next(
        one
        for one in find_all(Analysis(job))
        if one.subject == code and one.rule in ("undersized", "runs-hot")
    )


def hot_c(job: Job, code: str) -> float:
    return Analysis(job).electrics.copper_c[code]


def test_it_names_what_heats_the_bundle_and_offers_no_absurd_size() -> None:
    found = told(crowd())
    assert "It is Main that overheats it, most of all W2 (30 A on 14 AWG, 16% of the heat)" in (
        found.remedy
    )
    assert "/0 AWG" not in found.remedy
    assert "Use " not in found.remedy


@pytest.mark.parametrize("hot_a", [20.0, 24.0, 30.0])
def test_what_each_help_would_come_to_is_what_the_changed_job_comes_to(hot_a: float) -> None:
    job = crowd(hot_a=hot_a)
    words = dict(re.findall(r"(by itself|in two|the covering) (\d+) °C", told(job).remedy))
    alone = replace(job, wires=(replace(job.wires[0], bundle=""), *job.wires[1:]))
    assert float(words["by itself"]) == pytest.approx(hot_c(alone, "W1"), abs=1)
    bare = replace(job, bundles=(Bundle("Main"),))
    assert float(words["the covering"]) == pytest.approx(hot_c(bare, "W1"), abs=1)
    parted = tuple(
        replace(one, bundle="Other" if n % 2 else "Main") for n, one in enumerate(job.wires)
    )
    both = replace(job, wires=parted, bundles=(*job.bundles, Bundle("Other", covering="tape")))
    assert float(words["in two"]) == pytest.approx(hot_c(both, "W1"), rel=0.08)


def test_one_that_is_too_thin_by_itself_is_told_its_size() -> None:
    alone = crowd(many=0)
    thin = replace(alone, wires=(wire("W1", 40.0, WireSize("awg", 16), ""),))
    assert told(thin).remedy.startswith("Use ")


def ask(job: Job) -> dict[str, SizingCase]:
    return dict(Analysis(job).electrics.sizing_cases)


@pytest.mark.parametrize("system", ["metric", "awg"])
def test_no_next_smaller_size_does_as_well_for_its_share(demo: Job, system: str) -> None:
    """What is proposed for all wires at once is as thin as each may be beside the others."""
    changes = resizes(demo, ask, system, failing_only=False)  # type: ignore[arg-type]
    assert len(changes) > 50
    asked = ask(resized(demo, changes))
    sizes = AWG_SIZES if system == "awg" else METRIC_SIZES
    for change in changes:
        least = smallest(asked[change.wire], system, share=True)  # type: ignore[arg-type]
        assert change.new in sizes
        assert least is None or area_mm2(least) >= area_mm2(change.new), change


def test_the_hottest_of_a_bundle_is_told_as_the_bundle_is() -> None:
    job = crowd()
    summary = bundle_summary(Analysis(job).network, "Main", {})
    assert summary is not None
    assert hot_c(job, summary.hottest) == pytest.approx(summary.hottest_c, abs=1)
