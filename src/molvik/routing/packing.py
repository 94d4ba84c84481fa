"""Round wires packed in a round loom: where each lies, and how wide they are together.

Wires are strewn round the middle in several orders, and for wires alike on the hexagonal lattice.
From each beginning the circle round them is made as small as it goes while what overlaps is pushed
apart, harder and harder (a penalty method, by SciPy's L-BFGS); what still overlaps by a hair in the
end is drawn apart. What is found is a true packing, so never narrower than the best there is.
"""

import math
from functools import lru_cache
from typing import Any, NamedTuple

import numpy

FIRST, THEN = (3.0, 30.0), (300.0, 3000.0)
"""How hard overlaps are pushed apart, one after another, of the square of the mean radius: first
from every beginning, then from the best of them.
"""

BEST = 2
FEW, SOME = 24, 64
"""Up to so many wires are begun with in many ways; in a few. More are strewn once."""

SEED = 1
GOLDEN = math.pi * (3 - math.sqrt(5))
Array = Any


class Packed(NamedTuple):
    """Wires in a circle. across_mm: of the circle round them; centres_mm: of each wire from its
    middle, in the order they were given.
    """

    across_mm: float
    centres_mm: tuple[tuple[float, float], ...]


def pack(widths_mm: tuple[float, ...]) -> Packed:
    """Return wires of these outside diameters, mm, packed as tight as is found.

    A few wires are never wider than with one more of the thinnest, or two where all are alike: what
    is found for those serves them, too.
    """
    order = sorted(range(len(widths_mm)), key=lambda index: (-widths_mm[index], index))
    widths = tuple(round(widths_mm[index], 4) for index in order)
    found = _packed(widths)
    if 2 < len(widths) <= FEW:
        extras = (1, 2) if widths[0] == widths[-1] else (1,)
        more = (_packed((*widths, *widths[-1:] * extra)) for extra in extras)
        found = min(found, *more, key=lambda packed: packed.across_mm)
    places = dict(zip(order, found.centres_mm, strict=False))
    return Packed(found.across_mm, tuple(places[index] for index in range(len(widths_mm))))


@lru_cache(maxsize=4096)
def _packed(widths: tuple[float, ...]) -> Packed:
    """Pack wires that are given from the thickest on."""
    if len(widths) < 2:
        return Packed(sum(widths), ((0.0, 0.0),) * len(widths))
    if len(widths) == 2:
        one, other = widths[0] / 2, widths[1] / 2
        return Packed(sum(widths), ((-other, 0.0), (one, 0.0)))
    mean = sum(widths) / len(widths) / 2
    radii = numpy.array(widths) / 2 / mean
    many = len(radii) > SOME
    first, then = (FIRST[1:], THEN[:1]) if many else (FIRST, THEN)
    begun = [_drawn_in(start, radii, first) for start in _beginnings(radii)]
    begun.sort(key=lambda places: _freed(places, radii)[0])
    found = [_freed(_drawn_in(places, radii, then), radii) for places in begun[:BEST]]
    outer, places = min(found, key=lambda pair: pair[0])
    return Packed(2 * outer * mean, tuple((float(x) * mean, float(y) * mean) for x, y in places))


def _beginnings(radii: Array) -> list[Array]:
    """Return places to begin from; wires may overlap there."""
    count = len(radii)
    random = numpy.random.default_rng(SEED)
    found = [_strewn(radii), _strewn(radii[::-1])[::-1]]
    if count <= SOME:
        tries = 3 if count <= FEW else 1
        for _ in range(tries):
            order = random.permutation(count)
            found.append(_strewn(radii[order])[numpy.argsort(order)])
    else:
        found = found[:1]
    if radii[0] - radii[-1] < 1e-9:
        found += _lattices(count, float(radii[0]))
    return found


def _strewn(radii: Array) -> Array:
    """Return wires strewn round the middle in their order, as the seeds of a sunflower lie."""
    inside = numpy.cumsum(radii**2) - radii**2 / 2
    reach = numpy.sqrt(inside / 0.8)
    turn = numpy.arange(len(radii)) * GOLDEN
    return numpy.stack([reach * numpy.cos(turn), reach * numpy.sin(turn)], axis=1)


def _lattices(count: int, radius: float) -> list[Array]:
    """Return the nearest points of the hexagonal lattice round several middles."""
    size = int(math.sqrt(count)) + 3
    grid = numpy.array(
        [
            (2 * radius * (i + j / 2), 2 * radius * j * math.sqrt(3) / 2)
            for i in range(-2 * size, 2 * size + 1)
            for j in range(-size, size + 1)
        ]
    )
    middles = ((0.0, 0.0), (radius, 0.0), (radius, radius / math.sqrt(3)))
    found = []
    for middle in middles:
        moved = grid - numpy.array(middle)
        nearest = numpy.argsort(numpy.hypot(*moved.T).round(9), kind="stable")[:count]
        found.append(moved[nearest])
    return found


def _drawn_in(places: Array, radii: Array, harder: tuple[float, ...]) -> Array:
    """Return wires with the circle round them drawn in, overlaps pushed apart harder and harder."""
    from scipy.optimize import minimize

    count = len(radii)
    one, two = numpy.triu_indices(count, 1)
    touch = radii[one] + radii[two]
    outer = float((numpy.hypot(*places.T) + radii).max())
    state = numpy.concatenate([places.ravel(), [outer]])

    def cost(state: Array, hard: float) -> tuple[float, Array]:
        spots, outer = state[:-1].reshape(-1, 2), state[-1]
        step = spots[one] - spots[two]
        apart = numpy.sqrt((step * step).sum(axis=1)) + 1e-12
        lack = touch - apart
        hit = lack > 0
        lack, push = lack[hit], step[hit] * (lack[hit] / apart[hit])[:, None]
        away = numpy.sqrt((spots * spots).sum(axis=1)) + 1e-12
        out = numpy.maximum(away + radii - outer, 0.0)
        grad = 2 * hard * spots * (out / away)[:, None]
        first, second = one[hit], two[hit]
        for axis in (0, 1):
            pushed = numpy.bincount(second, push[:, axis], minlength=count)
            pushed -= numpy.bincount(first, push[:, axis], minlength=count)
            grad[:, axis] += 2 * hard * pushed
        total = outer * outer + hard * float((lack * lack).sum() + (out * out).sum())
        slope = 2 * outer - 2 * hard * float(out.sum())
        return total, numpy.concatenate([grad.ravel(), [slope]])

    most = 120 if count <= SOME else 18
    for hard in harder:
        state = minimize(
            cost, state, args=(hard,), jac=True, method="L-BFGS-B", options={"maxiter": most}
        ).x
    return state[:-1].reshape(-1, 2)


def _freed(places: Array, radii: Array) -> tuple[float, Array]:
    """Return wires drawn apart until none overlaps, and the radius of the circle round them."""
    one, two = numpy.triu_indices(len(radii), 1)
    apart = numpy.hypot(*(places[one] - places[two]).T)
    places = places * max(1.0, float(((radii[one] + radii[two]) / apart).max()))
    middle = _middle(places, radii)
    places = places - middle
    return float((numpy.hypot(*places.T) + radii).max()), places


def _middle(places: Array, radii: Array) -> Array:
    """Return the middle of the smallest circle round wires, by steps to what sticks out most."""
    middle, step = numpy.zeros(2), float(radii.max())
    outer = float((numpy.hypot(*(places - middle).T) + radii).max())
    while step > 1e-6:
        far = int((numpy.hypot(*(places - middle).T) + radii).argmax())
        way = places[far] - middle
        moved = middle + way * (step / max(1e-12, float(numpy.hypot(*way))))
        found = float((numpy.hypot(*(places - moved).T) + radii).max())
        if found < outer - 1e-9:
            middle, outer = moved, found
        else:
            step /= 2
    return middle
