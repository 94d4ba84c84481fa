"""How a loom lies in the vehicle, as far as the job knows: as traced, and by the places passed."""

import math

from molvik.model.job import Job
from molvik.netlist.placing import Lies


def lies_of(job: Job, loom: str) -> Lies:
    """Return which way the stretches of a loom lead, and which places they pass.

    A stretch that was traced on a photo leads as it does there. Places are counted in the order in
    which the job lists them; what lies nowhere in particular has none.
    """
    own = {joint.code for joint in job.routing.joints if joint.loom == loom}
    number = {zone.name: place for place, zone in enumerate(job.routing.zones)}
    runs = [run for run in job.routing.runs if run.start in own]
    return Lies(traced_deg(job), {run.code: number[run.zone] for run in runs if run.zone in number})


def traced_deg(job: Job) -> dict[str, float]:
    """Return which way each traced stretch leads on its photo, deg, from the right downwards."""
    found: dict[str, float] = {}
    for photo in job.photos:
        for mark in photo.marks:
            across = (mark.x2 - mark.x1) * photo.width
            down = (mark.y2 - mark.y1) * photo.height
            if mark.kind == "trace" and mark.text and (across or down):
                found[mark.text] = math.degrees(math.atan2(down, across))
    return found
