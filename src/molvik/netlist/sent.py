"""Through which joints of a loom a wire is sent, and out of which it is kept, as text."""

import re

from molvik.model.job import Job
from molvik.model.parts import Wire


def sent_text(wire: Wire) -> str:
    """Write "J5, not J3"."""
    return ", ".join([*wire.through, *(f"not {code}" for code in wire.avoid)])


def read_sent(text: str, job: Job) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Read "J5, not J3", joints by code or name: through which, and which not. Raises ValueError
    for one that the job does not have.
    """
    known = {joint.code.upper(): joint.code for joint in job.routing.joints}
    known |= {joint.name.upper(): joint.code for joint in job.routing.joints}
    through: list[str] = []
    avoid: list[str] = []
    for word in filter(None, (part.strip() for part in re.split(r"[,;]", text))):
        no = re.match(r"(?:not|avoid)\s+", word, re.IGNORECASE)
        name = (word[no.end() :] if no else word).strip()
        if name.upper() not in known:
            raise ValueError(f"“{name}” is not a node of a loom. Type for example J5, not J3.")
        (avoid if no else through).append(known[name.upper()])
    return tuple(through), tuple(avoid)
