"""What the loom as found says of the job's wires."""

from molvik.model import edits
from molvik.model.job import Job
from molvik.model.loom import FoundWire
from molvik.survey.tree import LoomTree


def found_as(tree: LoomTree, code: str) -> FoundWire | None:
    """Return the wire as found that a wire of the job is linked to, None without one."""
    return next((found_wire for found_wire in tree.loom.wires if found_wire.wire == code), None)


def take_length(job: Job, tree: LoomTree, code: str) -> Job:
    """Give a wire its length along the loom as found. Raises EditError where it has none."""
    found = found_as(tree, code)
    if found is None:
        raise edits.EditError(
            f"{code} is linked to no wire as found: type its code into the column Wire of Survey's "
            "wires first."
        )
    if not (found.start and found.finish):
        raise edits.EditError(
            f"{found.code}, which is {code}, was cut off: what is left of it is not its length."
        )
    way = tree.ways[found.code]
    unknown = [
        stretch.segment for stretch in way if tree.segments[stretch.segment].length_m is None
    ]
    if not way or unknown:
        missing = f"no length of {', '.join(unknown)}" if unknown else "no route through the loom"
        raise edits.EditError(f"{found.code}, which is {code}, has {missing} yet.")
    length_m = round(tree.length_m(found.code), 3)
    return edits.change_wire(job, code, length_m=length_m, length_from="measured")
