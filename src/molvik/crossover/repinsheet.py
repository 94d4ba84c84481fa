"""The repin sheet: every step in order, what becomes of the rest, both faces as they will be."""

from molvik.crossover.order import play
from molvik.crossover.repinplan import RepinPlan, size_of
from molvik.drawing.face import Cavity, face_scene, face_size, frame_of
from molvik.model.geometry import Face, places
from molvik.model.parts import Colour, Connector
from molvik.model.refs import end_text
from molvik.reference.colours import colour_name
from molvik.sheet import Drawing, Sheet, Table, Ticks, notes


def repin_sheet(plan: RepinPlan) -> Sheet:
    """Return the repin sheet of a set."""
    target = plan.repin.target
    table = Table(
        (
            "Step",
            "Function",
            "Now in",
            "Goes to",
            "Colour",
            "Size",
            "Wire",
            "Tick",
            "Why",
            "Described by",
        ),
        (3, 13, 6, 6, 11, 5, 5, 14, 20, 7),
        (*_steps(plan), *_rest(plan)),
    )
    faces = tuple(_face(plan, target, face) for face in _FACES) if target else ()
    before = Ticks(("Battery off, the secondary lock open before the first terminal.",))
    plugs = [
        f"Cavity plugs into {code}: {', '.join(gaps)}."
        for code, gaps in plan.empty.items()
        if gaps and target is not None and code == target.code
    ]
    after = Ticks(("Each terminal clicked and held a tug.", *plugs, "The secondary lock closed."))
    below = notes("Never push a terminal into a full cavity.")
    title = f"Repin sheet: {plan.set.name}"
    return Sheet(f"repin-{plan.set.code}", title, (before, *faces, table, after, *below))


def _steps(plan: RepinPlan) -> list[tuple[str, ...]]:
    """Return a row for each step in its order."""
    rows: list[tuple[str, ...]] = []
    for number, (step, op) in enumerate(zip(plan.moves, plan.ops, strict=True), start=1):
        happening = plan.by_lead[op.lead]
        holder = happening.lead or happening.want
        tint = holder.colour if holder else None
        rows.append(
            (
                str(number),
                happening.function,
                op.begin or ("parked" if op.kind == "unpark" else "new"),
                op.end or ("park" if op.kind == "park" else happening.action),
                _colour(tint),
                str(size_of(plan.repin, happening) or ""),
                ", ".join(code for code, _ in happening.lead.wires) if happening.lead else "",
                " · ".join(step.ticks),
                _remark(
                    happening.reason,
                    happening.fit.why if happening.fit else "",
                    happening.extend_why,
                ),
                f"{happening.diagram} diagram" if happening.diagram else "",
            )
        )
    return rows


def _rest(plan: RepinPlan) -> list[tuple[str, ...]]:
    """Return a row for each lead that stays or is not decided."""
    rows: list[tuple[str, ...]] = []
    for happening in plan.happenings:
        if happening.action in ("stays", "undecided"):
            lead = happening.lead
            rows.append(
                (
                    "=" if happening.action == "stays" else "?",
                    happening.function,
                    happening.place,
                    happening.end or "",
                    _colour(lead.colour if lead else None),
                    str((lead.size if lead else None) or ""),
                    ", ".join(code for code, _ in lead.wires) if lead else "",
                    happening.action,
                    happening.reason,
                    f"{happening.diagram} diagram" if happening.diagram else "",
                )
            )
    return rows


def back_sheet(plan: RepinPlan) -> Sheet:
    """Return the way back to stock, once all of a set is done."""
    rows: list[tuple[str, ...]] = []
    for number, op in enumerate(plan.back, start=1):
        # In this order a lead is known by where it sits once the repinning is done.
        was = plan.seated_after.get(op.lead.removeprefix("+"), "")
        happening = plan.by_lead.get(was) or plan.by_lead.get(op.end)
        rows.append(
            (
                str(number),
                happening.function if happening else "",
                op.begin or ("parked" if op.kind == "unpark" else "capped or spliced"),
                op.end or ("park" if op.kind == "park" else "out"),
            )
        )
    table = Table(("Step", "Function", "Now in", "Goes to"), (4, 30, 14, 14), tuple(rows))
    below = notes(
        "From where everything is once the repinning is done. What was capped or spliced comes back"
        " into its first cavity; new wires come out."
    )
    title = f"Back to stock: {plan.set.name}"
    return Sheet(f"repin-{plan.set.code}-back", title, (table, *below))


STEP_ON_PAPER = 36.0
"""From cavity to cavity of a face on the repin sheet, pixels of the drawing."""

_FACES: tuple[Face, ...] = ("wire side", "mating face")


def _colour(tint: Colour | None) -> str:
    return colour_name(tint.base, tint.tracer) if tint else ""


def _remark(*parts: str) -> str:
    return "; ".join(part for part in parts if part)


def _face(plan: RepinPlan, target: Connector, face: Face) -> Drawing:
    """Return the target as it is at the end, what was moved lit."""
    _, sits = play(plan.ops, [lead.place for lead in plan.repin.leads])
    arrived = {op.end for op in plan.ops}
    cavities = []
    for place in places(target.grid, face):
        where = end_text(target.code, place.cavity)
        happening = plan.by_lead.get(sits.get(where, ""))
        thing = (happening.lead or happening.want) if happening else None
        cavities.append(
            Cavity(
                place,
                "wired",
                (thing.colour,),
                happening.function,
                "lit" if where in arrived else "",
            )
            if happening and thing
            else Cavity(place, "empty")
        )
    title = f"{target.code} {target.name}, {face}, as it will be; what was moved is ringed"
    frame = frame_of(target, *face_size(target, STEP_ON_PAPER), STEP_ON_PAPER)
    return Drawing(title, face_scene(target, tuple(cavities), face, frame))
