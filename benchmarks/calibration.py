"""How often a verdict is right that says how sure it is: hidden faults of any size, kind and
number, a meter with its error, and readings that are slips.

    .venv/bin/python benchmarks/calibration.py --situations 400 --seed 1 [--powered] [--svg FILE]

Each situation begins with what a complaint or a plan shows, and goes on as is proposed, to the end.
The verdict counts by how likely it is said to be, and is right when all it names is really wrong.
"""

import argparse
import math
import random
import sys
from collections import defaultdict
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
sys.path.insert(0, str(Path(__file__).parent))

from diagnosis import random_loom
from molvik.demo import demo_job
from situations import Situation, follow
from test_diagnose import Hidden

BANDS = (0.5, 0.8, 0.9, 0.95, 0.99, 1.0001)


def svg(rows: list[tuple[float, float, int]]) -> str:
    """Return a plot: how sure it was said against how often it was right."""
    marks = "".join(
        f'<circle cx="{40 + 320 * said:.0f}" cy="{360 - 320 * right:.0f}" '
        f'r="{3 + math.sqrt(count) / 3:.1f}" fill="#b5651d"/>'
        for said, right, count in rows
    )
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" width="400" height="400" font-family="sans-serif" '
        'font-size="12"><rect width="400" height="400" fill="white"/><path d="M40 360 L360 40 M40 '
        '40 V360 H360" fill="none" stroke="#777"/><text x="150" y="390">said to be</text><text '
        f'x="12" y="30">right</text>{marks}</svg>'
    )


def main() -> None:
    """Print a table by how sure verdicts were, and by kind."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--situations", type=int, default=400)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--powered", action="store_true")
    parser.add_argument("--misses", action="store_true", help="print each wrong one")
    parser.add_argument("--svg", type=Path)
    words = parser.parse_args()
    jobs = [demo_job("marten"), demo_job("plover")]
    if not words.powered:
        jobs += [random_loom(words.seed + n) for n in range(2)]
    looms = [Hidden(job, words.seed + n) for n, job in enumerate(jobs)]
    chance = random.Random(words.seed)
    bands: dict[int, list[tuple[float, bool]]] = defaultdict(list)
    kinds: dict[str, list[bool]] = defaultdict(list)
    for _ in range(words.situations):
        situation = Situation(chance.choice(looms), chance, powered=words.powered)
        said = follow(situation, powered=words.powered)
        if said is None:
            continue
        share, right, verdict = said
        bands[next(n for n, top in enumerate(BANDS) if share < top)].append((share, right))
        if share >= 0.9:
            kinds[situation.kind].append(right)
        if not right and words.misses:
            faults = ", ".join(str(fault) for _, fault in situation.faults)
            print(f"   {share:.3f} {faults or 'sound'}: {verdict}")
    rows = []
    for number in sorted(bands):
        found = bands[number]
        mean, share_right = (sum(one[n] for one in found) / len(found) for n in (0, 1))
        rows.append((mean, share_right, len(found)))
        print(f"said {mean:6.1%}: right {share_right:6.1%} of {len(found)}")
    for kind, found_right in sorted(kinds.items()):
        print(f"  at 90 % and more, {kind}: {sum(found_right)} of {len(found_right)} right")
    if words.svg:
        words.svg.write_text(svg(rows))


if __name__ == "__main__":
    main()
