"""What a wire may lose of the voltage on its path, and what it loses."""

from molvik.model.parts import WireSize
from molvik.sizes.hot import ohm_per_m
from molvik.sizes.sizing_case import Criterion, PathAsked, SizingCase

NOT_BLAMED = 0.05
"""A wire that loses less than this share of what its path may lose is not what is wrong with it
(our choice)."""


def drop_v(size: WireSize, asked: SizingCase) -> float | None:
    """Return the voltage lost along the warm wire, V, where it counts most; None without a load."""
    if asked.load_a is None or asked.length_m is None:
        return None
    if not asked.paths:
        return asked.load_a * asked.length_m * ohm_per_m(size, asked)
    return max(_own_v(size, asked, asked.length_m, path_asked) for path_asked in asked.paths)


def drop_criterion(
    size: WireSize, asked: SizingCase, grown: SizingCase, length_m: float
) -> Criterion:
    """Judge a wire on the path where it has least in hand; alone, where no path is known.

    grown: with the currents that flow when the wire has this size.
    """
    found = [_on_path(size, asked, grown, length_m, path_asked) for path_asked in asked.paths]
    return (
        min(found, key=lambda criterion: criterion.margin)
        if found
        else _alone(size, asked, length_m)
    )


def draws_more(size: WireSize, asked: SizingCase, length_m: float) -> float:
    """Return how many times the current flows when a wire loses less than the one that is there.

    What it no longer loses, a load that is a resistance gets, and takes more for it.
    """
    return max(
        (_draws_more(size, asked, length_m, path_asked) for path_asked in asked.paths), default=1.0
    )


def _draws_more(size: WireSize, asked: SizingCase, length_m: float, path: PathAsked) -> float:
    loss = path.loss
    saved = loss.own_v - loss.amps * length_m * _ohm_per_m(size, asked, path)
    left = asked.system_v - loss.lost_v
    return 1.0 + saved / left if left > 0 and saved > 1e-9 else 1.0


def _ohm_per_m(size: WireSize, asked: SizingCase, path: PathAsked) -> float:
    return ohm_per_m(size, asked, cranking=path.loss.state.shortly)


def to_its_share(asked: SizingCase) -> SizingCase:
    """Return the case as if the others on each path had used up all but the wire's share."""
    paths = tuple(
        path_asked._replace(
            loss=path_asked.loss._replace(
                lost_v=path_asked.loss.own_v
                + _limit_v(asked, path_asked) * (1 - path_asked.loss.share)
            )
        )
        for path_asked in asked.paths
    )
    return asked._replace(paths=paths)


def _limit_v(asked: SizingCase, path: PathAsked) -> float:
    return path.use.drop_share * asked.system_v


def _amps(asked: SizingCase, path: PathAsked) -> float:
    """Return the current at which the drop on a path counts, A.

    What was typed, unless it is for cranking and the path is not, or the other way round.
    """
    if asked.solved or path.loss.state.shortly != (asked.use.code == "starter"):
        return path.loss.amps
    return max(asked.load_a or 0.0, path.loss.amps)


def _own_v(size: WireSize, asked: SizingCase, length_m: float, path: PathAsked) -> float:
    return _amps(asked, path) * length_m * _ohm_per_m(size, asked, path)


def _on_path(
    size: WireSize, asked: SizingCase, grown: SizingCase, length_m: float, path: PathAsked
) -> Criterion:
    loss, use, limit = path.loss, path.use, _limit_v(asked, path)
    more = _draws_more(size, asked, length_m, path)
    own = _amps(asked, path) * more * length_m * _ohm_per_m(size, grown, path)
    # Its share by length where that is more: it is not blamed for the others, nor for next to
    # nothing.
    allowed = max(limit - loss.rest_v * more, limit * max(loss.share, NOT_BLAMED))
    why = (
        f"The path to {loss.name} ({loss.device}) and back, {loss.state.name}, may drop "
        f"{limit:.2f} V, {use.drop_share:.1%} of {asked.system_v:g} V for {use.name}. Its rest "
        f"drops {loss.rest_v:.3f} V."
    )
    if loss.rest_v > limit * (1 - loss.share):
        why += f" Most of it is in {loss.worst}, {loss.worst_v:.2f} V."
    return _criterion(own, allowed, why)


def _alone(size: WireSize, asked: SizingCase, length_m: float) -> Criterion:
    """Judge a wire by half of the limit: a return loses as much."""
    own = (asked.load_a or 0.0) * length_m * ohm_per_m(size, asked)
    why = (
        f"Half of {asked.use.drop_share:.1%} of {asked.system_v:g} V for {asked.use.name}: no "
        "path from a battery is known, and the return drops as much."
    )
    return _criterion(own, asked.use.drop_share * asked.system_v / 2, why)


def _criterion(own: float, allowed: float, why: str) -> Criterion:
    return Criterion(
        "voltage drop",
        f"{own:.3f} V",
        f"{allowed:.3f} V",
        1 - own / allowed,
        f"{why} As warm as it gets; the limit is common practice.",
        own,
        allowed,
        "V",
    )
