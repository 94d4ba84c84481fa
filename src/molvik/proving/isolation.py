"""Whether nets touch that should not: all against all in about as many measurements as the number
of nets has binary digits, never each against each.

First what is to stay off everything, earth and screens, against all the rest. Then the nets are
tied together in two groups, by a digit of their numbers, and the groups measured against each
other: two nets differ in at least one digit. Numbered as they lie beside each other, neighbours
differ in the lowest, so that the likely touch is found first. What touches is closed in on by
halves, and is then tied together, and all goes on until everything passes.
"""

from collections.abc import Generator, Sequence
from typing import NamedTuple


class Groups(NamedTuple):
    """A measurement: all of one side tied together, against all of the other. why: for what."""

    one: tuple[int, ...]
    other: tuple[int, ...]
    why: str


Group = tuple[int, ...]
Run = Generator[Groups, bool, None]


class Isolation:
    """Isolation of some nets, step by step. nets: their numbers, neighbours beside each other.
    first: those that are measured against all others at the start.
    """

    def __init__(self, nets: Sequence[int], first: Sequence[int] = ()) -> None:
        self._first = tuple(first)
        self._rest = tuple(net for net in nets if net not in set(first))
        self.touching: list[tuple[int, int]] = []
        """The pairs that touch."""
        self.measured = 0
        self._tied: dict[int, int] = {}
        self._steps = self._run()
        self.now: Groups | None = next(self._steps, None)
        """What is measured next, None when all is known."""

    def answer(self, touches: bool) -> None:
        """Take up whether the groups that are measured now touch."""
        self.measured += 1
        try:
            self.now = self._steps.send(touches)
        except StopIteration:
            self.now = None

    def _run(self) -> Run:
        rest = self._rest
        if self._first and rest:
            yield from self._apart(self._first, rest, {}, "earth and screens against all others")
        for digit in range(max(0, len(rest) - 1).bit_length()):
            one = tuple(net for at, net in enumerate(rest) if at >> digit & 1)
            other = tuple(net for at, net in enumerate(rest) if not at >> digit & 1)
            # What passed for the lower digits differs in none of them.
            alike = {net: at & ((1 << digit) - 1) for at, net in enumerate(rest)}
            words = "neighbours against each other" if digit == 0 else f"by digit {digit + 1}"
            yield from self._apart(one, other, alike, words)

    def _apart(self, one: Group, other: Group, alike: dict[int, int], why: str) -> Run:
        """Measure two groups, and find what touches between them until nothing new does."""
        while True:
            left, right = self._without_tied(one, other)
            if not left or not right or not (yield Groups(left, right, why)):
                return
            pair = yield from self._closed_in(left, right, {} if self._tied else alike)
            self.touching.append(pair)
            self._tied[self._top(pair[0])] = self._top(pair[1])

    def _closed_in(
        self, one: Group, other: Group, alike: dict[int, int]
    ) -> Generator[Groups, bool, tuple[int, int]]:
        """Close in on what touches by halves. alike: a touch is between two of one kind."""
        kinds = sorted({alike[net] for net in one} & {alike[net] for net in other}) if alike else []
        while len(kinds) > 1:
            half = set(kinds[: len(kinds) // 2])
            touches = yield Groups(_of(one, alike, half), _of(other, alike, half), "closing in")
            kinds = [kind for kind in kinds if (kind in half) == touches]
        if kinds:
            one, other = _of(one, alike, set(kinds)), _of(other, alike, set(kinds))
        while len(one) > 1 or len(other) > 1:
            if len(one) >= len(other):
                some = one[: len(one) // 2]
                touches = yield Groups(some, other, "closing in")
                one = some if touches else one[len(one) // 2 :]
            else:
                some = other[: len(other) // 2]
                touches = yield Groups(one, some, "closing in")
                other = some if touches else other[len(other) // 2 :]
        return one[0], other[0]

    def _top(self, net: int) -> int:
        while net in self._tied:
            net = self._tied[net]
        return net

    def _without_tied(self, one: Group, other: Group) -> tuple[Group, Group]:
        """Return two groups without the nets of the second that are known to touch one of the
        first: they are measured with it from now on.
        """
        tops = {self._top(net) for net in one}
        return one, tuple(net for net in other if self._top(net) not in tops)


def _of(group: Group, alike: dict[int, int], kinds: set[int]) -> Group:
    return tuple(net for net in group if alike[net] in kinds)
