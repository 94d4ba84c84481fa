"""What a wire may lose of the voltage on its path, and what it loses."""

from molvik.model.parts import WireSize
from molvik.sizes.hot import ohm_per_m
from molvik.sizes.sizing_case import Criterion, PathAsked, SizingCase

NOT_BLAMED = 0.05
"""A wire that loses less than this share of what its path may lose is not what is wrong with it
(our choice)."""


def drop_v(size: WireSize, requirements: SizingCase) -> float | None:
    """Return the voltage lost along the warm wire, V, where it counts most; None without a load."""
    if requirements.load_a is None or requirements.length_m is None:
        return None
    if not requirements.paths:
        return requirements.load_a * requirements.length_m * ohm_per_m(size, requirements)
    return max(
        _own_v(size, requirements, requirements.length_m, path_asked)
        for path_asked in requirements.paths
    )


def drop_criterion(
    size: WireSize, requirements: SizingCase, grown: SizingCase, length_m: float
) -> Criterion:
    """Judge a wire on the path where it has least in hand; alone, where no path is known.

    grown: with the currents that flow when the wire has this size.
    """
    found = [
        _on_path(size, requirements, grown, length_m, path_asked)
        for path_asked in requirements.paths
    ]
    return (
        min(found, key=lambda criterion: criterion.margin)
        if found
        else _alone(size, requirements, length_m)
    )


def draws_more(size: WireSize, requirements: SizingCase, length_m: float) -> float:
    """Return by which factor more flows when a wire loses less than the one that is there.

    What it no longer loses, a load that is a resistance gets, and takes more for it.
    """
    return max(
        (
            _draws_more(size, requirements, length_m, path_asked)
            for path_asked in requirements.paths
        ),
        default=1.0,
    )


def _draws_more(
    size: WireSize, requirements: SizingCase, length_m: float, path: PathAsked
) -> float:
    loss = path.loss
    saved = loss.own_v - loss.amps * length_m * _ohm_per_m(size, requirements, path)
    left = requirements.system_v - loss.lost_v
    return 1.0 + saved / left if left > 0 and saved > 1e-9 else 1.0


def _ohm_per_m(size: WireSize, requirements: SizingCase, path: PathAsked) -> float:
    return ohm_per_m(size, requirements, cranking=path.loss.state.shortly)


def to_its_share(requirements: SizingCase) -> SizingCase:
    """Return the case as if the others on each path had used up all but the wire's share."""
    paths = tuple(
        path_asked._replace(
            loss=path_asked.loss._replace(
                lost_v=path_asked.loss.own_v
                + _limit_v(requirements, path_asked) * (1 - path_asked.loss.share)
            )
        )
        for path_asked in requirements.paths
    )
    return requirements._replace(paths=paths)


def _limit_v(requirements: SizingCase, path: PathAsked) -> float:
    return path.use.drop_share * requirements.system_v


def _amps(requirements: SizingCase, path: PathAsked) -> float:
    """Return the current at which the drop on a path counts, A.

    What was typed, unless it is for cranking and the path is not, or the other way round.
    """
    if requirements.solved or path.loss.state.shortly != (requirements.use.code == "starter"):
        return path.loss.amps
    return max(requirements.load_a or 0.0, path.loss.amps)


def _own_v(size: WireSize, requirements: SizingCase, length_m: float, path: PathAsked) -> float:
    return _amps(requirements, path) * length_m * _ohm_per_m(size, requirements, path)


def _on_path(
    size: WireSize, requirements: SizingCase, grown: SizingCase, length_m: float, path: PathAsked
) -> Criterion:
    loss, use, limit = path.loss, path.use, _limit_v(requirements, path)
    more = _draws_more(size, requirements, length_m, path)
    own = _amps(requirements, path) * more * length_m * _ohm_per_m(size, grown, path)
    # Its share by length where that is more: it is not blamed for the others, nor for next to
    # nothing.
    allowed = max(limit - loss.rest_v * more, limit * max(loss.share, NOT_BLAMED))
    why = (
        f"The path to {loss.name} ({loss.device}) and back, {loss.state.name}, may drop "
        f"{limit:.2f} V, {use.drop_share:.1%} of {requirements.system_v:g} V for {use.name}. "
        f"Its rest drops {loss.rest_v:.3f} V."
    )
    if loss.rest_v > limit * (1 - loss.share):
        why += f" Most of it is in {loss.worst}, {loss.worst_v:.2f} V."
    return _criterion(own, allowed, why)


def _alone(size: WireSize, requirements: SizingCase, length_m: float) -> Criterion:
    """Judge a wire by half of the limit: a return loses as much."""
    own = (requirements.load_a or 0.0) * length_m * ohm_per_m(size, requirements)
    use = requirements.use
    why = (
        f"Half of {use.drop_share:.1%} of {requirements.system_v:g} V for {use.name}: no "
        "path from a battery is known, and the return drops as much."
    )
    return _criterion(own, requirements.use.drop_share * requirements.system_v / 2, why)


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
