"""The repin sheet: every step in order, what becomes of the rest, both faces as they will be."""

from molvik.crossover.order import play
from molvik.crossover.plan import Plan, size_of
from molvik.model.geometry import Face, extent, places
from molvik.model.parts import Colour, Connector
from molvik.reference.colours import colour_name
from molvik.sheet import Dot, FaceDrawing, Sheet


def repin_sheet(plan: Plan) -> Sheet:
    """Return the repin sheet of a set."""
    rows = []
    for number, (step, op) in enumerate(zip(plan.moves, plan.ops, strict=True), start=1):
        one = plan.by_lead[op.lead]
        tint = (one.lead or one.want).colour if one.lead or one.want else None  # type: ignore[union-attr]
        rows.append(
            (
                str(number),
                one.function,
                op.begin or ("parked" if op.kind == "unpark" else "new"),
                op.end or ("park" if op.kind == "park" else one.action),
                _colour(tint),
                str(size_of(plan.repin, one) or ""),
                ", ".join(code for code, _ in one.lead.wires) if one.lead else "",
                " · ".join(step.ticks),
                _remark(one.reason, one.fit.why if one.fit else "", one.extend_why),
                f"{one.diagram} diagram" if one.diagram else "",
            )
        )
    for one in plan.happenings:
        if one.action in ("stays", "undecided"):
            lead = one.lead
            rows.append(
                (
                    "=" if one.action == "stays" else "?",
                    one.function,
                    one.place,
                    one.end or "",
                    _colour(lead.colour if lead else None),
                    str((lead.size if lead else None) or ""),
                    ", ".join(code for code, _ in lead.wires) if lead else "",
                    one.action,
                    one.reason,
                    f"{one.diagram} diagram" if one.diagram else "",
                )
            )
    target = plan.repin.target
    faces = tuple(_face(plan, target, face) for face in _FACES) if target else ()
    notes = [
        "Battery off. Open the secondary lock before the first terminal; close it after the last.",
        "Each terminal must click, then hold a tug. Never push into a full cavity.",
    ]
    for code, gaps in plan.empty.items():
        if gaps and target is not None and code == target.code:
            notes.append(f"Cavity plugs into {code}: {', '.join(gaps)}.")
    return Sheet(
        f"repin-{plan.set.code}",
        f"Repin sheet: {plan.set.name}",
        ("Step", "Function", "Now in", "Goes to", "Colour", "Size", "Wire", "Tick", "Why",
         "Described by"),
        (3, 13, 6, 6, 11, 5, 5, 14, 20, 7),
        tuple(rows),
        tuple(notes),
        faces,
    )  # fmt: skip


def back_sheet(plan: Plan) -> Sheet:
    """Return the way back to stock, once all of a set is done."""
    rows = []
    for number, op in enumerate(plan.back, start=1):
        # In this order a lead is known by where it sits once the repinning is done.
        was = plan.seated_after.get(op.lead.removeprefix("+"), "")
        one = plan.by_lead.get(was) or plan.by_lead.get(op.end)
        rows.append(
            (
                str(number),
                one.function if one else "",
                op.begin or ("parked" if op.kind == "unpark" else "stowed or spliced"),
                op.end or ("park" if op.kind == "park" else "out"),
            )
        )
    return Sheet(
        f"repin-{plan.set.code}-back",
        f"Back to stock: {plan.set.name}",
        ("Step", "Function", "Now in", "Goes to"),
        (4, 30, 14, 14),
        tuple(rows),
        ("From where everything is once the repinning is done. What was stowed or spliced comes "
         "back into its first cavity; new wires come out.",),
    )  # fmt: skip


_FACES: tuple[Face, ...] = ("wire side", "mating face")


def _colour(tint: Colour | None) -> str:
    return colour_name(tint.base, tint.tracer) if tint else ""


def _remark(*parts: str) -> str:
    return "; ".join(part for part in parts if part)


def _face(plan: Plan, target: Connector, face: Face) -> FaceDrawing:
    """Return the target as it is at the end, what was moved lit."""
    _, sits = play(plan.ops, [lead.place for lead in plan.repin.leads])
    arrived = {op.end for op in plan.ops}
    dots = []
    for place in places(target.grid, face):
        where = f"{target.code}/{place.cavity}"
        one = plan.by_lead.get(sits.get(where, ""))
        thing = (one.lead or one.want) if one else None
        tint = thing.colour if thing else None
        dots.append(
            Dot(place.cavity, place.column, place.row, tint.base if tint else "",
                tint.tracer if tint else "", where in arrived)
        )  # fmt: skip
    title = f"{target.code} {target.name}, {face}, as it will be; what was moved is ringed"
    return FaceDrawing(title, *extent(target.grid), tuple(dots))
