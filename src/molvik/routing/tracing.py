"""Stretches of a loom to build, traced over a photo that has a measured length.

What is traced lies as flat as what was measured; a length that a hand gave stands against it.
"""

from molvik.model import photo_edits, routing_edits
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.photos import Mark
from molvik.model.routing import LoomNode, Run
from molvik.routing.measuring import BY_HAND
from molvik.survey.photo_lengths import lengths, scale_m

Spot = tuple[float, float]


def traced(job: Job, photo: str, loom: str = "") -> Job:
    """Return the job with a stretch for each leg traced on a photo, joined where legs meet; those
    made before get the lengths of today, unless a hand gave one. Raises EditError.
    """
    shown = photo_edits.find(job, photo)
    if scale_m(shown) is None:
        raise EditError(
            "No length on this photo was measured: drag one along something (L) and type how long "
            "it is."
        )
    legs = [(index, mark) for index, mark in enumerate(shown.marks) if mark.kind == "trace"]
    if not legs:
        raise EditError("Nothing is traced on this photo yet: choose Trace (T), click along it.")
    scaled = lengths(shown)
    job, loom = routing_edits.some_loom(job, loom)
    at: dict[Spot, str] = {}
    for _, mark in legs:
        run = _run_of(job, mark)
        if run is not None:
            at.setdefault((mark.x1, mark.y1), run.start)
            at.setdefault((mark.x2, mark.y2), run.finish)
    for index, mark in legs:
        length = round(scaled[index].length_m, 3)
        run = _run_of(job, mark)
        if run is not None:
            if run.length_from not in BY_HAND:
                job = routing_edits.change(job, run.code, length_m=length, length_from="scaled")
            continue
        ends = []
        for spot in ((mark.x1, mark.y1), (mark.x2, mark.y2)):
            if spot not in at:
                code = routing_edits.free_code(job, LoomNode)
                name = f"{photo} point {code.removeprefix('J')}"
                job = routing_edits.add(job, LoomNode(code, loom, name))
                at[spot] = code
            ends.append(at[spot])
        code = routing_edits.free_code(job, Run)
        job = routing_edits.add(job, Run(code, ends[0], ends[1], length, "scaled"))
        job = photo_edits.change_mark(job, photo, index, text=code)
    return job


def _run_of(job: Job, mark: Mark) -> Run | None:
    """Return the stretch that a leg was made, None for one that is none yet."""
    found = routing_edits.find(job.routing, mark.text) if mark.text else None
    return found if isinstance(found, Run) else None
