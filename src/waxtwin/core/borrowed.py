"""Borrowed motion: the hand speed of bodies that keep everything and borrow some things from the twin.

Every subset of factors gives a body (a chimera) whose hand speed follows by forward kinematics; the exact Shapley value
(Shapley 1953) shares the gap over the factors, so that it does not hang on the order in which they are borrowed. It is
arithmetic on two motions, not proof of cause.

Each factor is one joint or length of the linked body. Both clocks are mapped onto each other through the lift, landing,
release and a tail that scales with landing to release: monotone, with a continuous first derivative. Layback is no
knot: it lies so close to release that a millisecond of it bends the clock.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from waxtwin.core.analysis import Analysis, jittered
from waxtwin.core.linked import Linked, angle_apart, linked, matrices
from waxtwin.core.sets import student
from waxtwin.core.shapley import joint_marginals, shapley
from waxtwin.core.steps import Steps

FACTORS: Mapping[str, str] = {
    "size": "Body size", "tempo": "Tempo", "pelvis_path": "Drive and brace", "pelvis_rotation": "Hip turn",
    "trunk": "Trunk on the hips", "shoulder": "Shoulder", "elbow_hand": "Elbow and hand", "ball": "Ball off the hand",
}  # fmt: skip
_BODY = tuple(FACTORS)[:-1]  # what the hand's speed hangs on
_TAIL = 0.35  # of landing to release: where the clock's last knot lies after release
_REACH = 0.15  # of landing to release: the hand's peak is looked for so far around release
_EDGE = 0.02  # of landing to release: beyond the reach, so that derivatives have neighbours
_STEP = 0.0006  # s, between samples
_APART = 120.0  # degrees: two rotations further apart than this are not mixed
_REBUILT = 0.02  # of the hand's speed: how well a body must reproduce its own throw


class NotBorrowable(ValueError):  # noqa: N818 - a state of the footage, not a fault
    """The two motions cannot be put together; the text says why in plain words."""


@dataclass(frozen=True)
class Side:
    """A pitcher's linked body with the knots of its clock: `knots` (copies, 4) seconds, in each copy its own."""

    body: Linked
    knots: np.ndarray

    @property
    def release(self) -> np.ndarray:
        """Seconds, `(copies,)`."""
        return self.knots[:, 2]

    @property
    def drive(self) -> np.ndarray:
        """Landing to release in seconds, `(copies,)`."""
        return np.asarray(self.knots[:, 2] - self.knots[:, 1])


def side_of(analysis: Analysis, who: str, count: int = 0, seed: int = 0, *, from_lift: bool = False) -> Side:
    """The linked body of a throw, or of `count` jittered copies of it, from landing or from the lift on.

    Raises NotBorrowable.
    """
    motion = analysis.motion
    if motion.flat is not None:
        raise NotBorrowable("borrowing motion needs both throws in space; one camera does not see depth")
    needed = ("peak_knee", "landing", "release")
    if any(analysis.time(stop) is None for stop in needed):
        raise NotBorrowable(f"the {who}'s lift, landing or release is not known")
    if count:
        rng = np.random.default_rng(seed)
        motion = motion.copies(count, rng)
        stops = jittered(analysis, count, rng)
        moments = [stops[analysis.landing_stop if stop == "landing" else stop] for stop in needed]
    else:
        moments = [np.array([analysis.time(stop)], float) for stop in needed]
    lift, landing, release = moments
    knots = np.stack([lift, landing, release, release + _TAIL * (release - landing)], axis=1)
    if (np.diff(knots, axis=1) < 1e-3).any():
        raise NotBorrowable(f"the {who}'s stops are not in order")
    start = float(knots[:, 0 if from_lift else 1].min()) - 0.05
    body = linked(motion, start, float(knots[:, 3].max()) + 0.02)
    if body is None:
        raise NotBorrowable(f"the {who}'s hips, shoulders or throwing arm are not seen throughout from landing on")
    return Side(body, knots)


# values of subsets ----------------------------------------------------------------------------------------------------
def hand_speeds(athlete: Side, twin: Side) -> tuple[np.ndarray, np.ndarray]:
    """Peak hand speed of every chimera and its speed at release: both `(copies, 2, 2, 2, 2, 2, 2, 2)` m/s.

    Axes after the copies are the factors in the order of FACTORS without the ball; 0 the athlete's, 1 the twin's.
    """
    peaks, releases = [], []
    for owner in (athlete, twin):  # whose tempo
        offsets = sample_offsets(owner.drive)
        times = owner.release[:, None] + offsets * owner.drive[:, None]
        pair = [side.body.at(_mapped(owner, side, times)) for side in (athlete, twin)]
        peak, at_release = peak_speed(_all_hands(pair), times, offsets)
        peaks.append(peak)
        releases.append(at_release)
    # tempo becomes the second factor's axis
    return tuple(np.stack(found, axis=2) for found in (peaks, releases))  # type: ignore[return-value]


def sample_offsets(drive: np.ndarray) -> np.ndarray:
    """Sample instants around release, as shares of landing to release, which takes `drive` (copies,) seconds."""
    reach = _REACH + _EDGE
    count = 2 * int(np.ceil(reach * float(drive.mean()) / _STEP)) + 1
    return np.linspace(-reach, reach, count)


def peak_speed(positions: np.ndarray, times: np.ndarray, offsets: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Peak speed near release, and speed at release: `(copies, ..)` m/s.

    `positions` (copies, .., samples, 3) metres at `times` (copies, samples) seconds, which are `offsets` from release.
    """
    step = np.gradient(times, axis=1).reshape(times.shape[0], *[1] * (positions.ndim - 3), times.shape[1], 1)
    speed = np.linalg.norm(np.gradient(positions, axis=-2) / step, axis=-1)
    return _top(speed[..., np.abs(offsets) <= _REACH]), speed[..., int(np.argmin(np.abs(offsets)))]


def _mapped(owner: Side, side: Side, times: np.ndarray) -> np.ndarray:
    """Instants of the owner's clock on a side's clock, copy by copy."""
    return times if side is owner else on_clock(owner.knots, side.knots, times)


def on_clock(knots: np.ndarray, others: np.ndarray, times: np.ndarray) -> np.ndarray:
    """Instants `(copies, samples)` of the clock with `knots` (copies, 4) on the clock with the `others`."""
    from scipy.interpolate import PchipInterpolator

    return np.stack([PchipInterpolator(a, b)(t) for a, b, t in zip(knots, others, times, strict=True)])


def _all_hands(pair: Sequence[Linked]) -> np.ndarray:
    """Hand positions `(copies, size, path, turn, trunk, shoulder, elbow, samples, 3)` of all chimeras on one clock."""

    def both(name: str, axis: int) -> np.ndarray:
        """A part of both bodies, `(copies, 1.., 2 at the factor's axis, ..1, samples, n)`."""
        stacked = np.stack([getattr(body, name) for body in pair], axis=1)
        shape = [1] * 6
        shape[axis] = 2
        return stacked.reshape(stacked.shape[0], *shape, *stacked.shape[2:])

    heights = np.array([body.height for body in pair]).reshape(1, 2, *[1] * 7)
    lengths = np.stack([body.lengths for body in pair], axis=1)
    lengths = lengths.reshape(lengths.shape[0], 2, *[1] * 6, 3)
    # from the hand inward, so that each step works on as few combinations as can be
    forearm, upper = both("forearm", 5), matrices(both("upper", 4))
    along = np.zeros(3)
    along[0] = 1.0
    third = np.broadcast_to(np.array([0.0, 0.0, 1.0]), forearm.shape)
    across = third - forearm[..., 2:3] * forearm
    across = across / np.linalg.norm(across, axis=-1, keepdims=True)
    hand = both("hand", 5)
    tip = hand[..., :1] * forearm + hand[..., 1:2] * np.cross(across, forearm) + hand[..., 2:3] * across
    arm = along * lengths[..., :1] + forearm * lengths[..., 1:2] + tip * lengths[..., 2:3]
    in_trunk = _turned(upper, arm) + both("shoulder", 3) * heights
    in_pelvis = _turned(matrices(both("trunk", 3)), in_trunk)
    return np.asarray(_turned(matrices(both("turn", 2)), in_pelvis) + both("pelvis", 1) * heights)


def _turned(axes: np.ndarray, vector: np.ndarray) -> np.ndarray:
    return np.asarray(np.einsum("...ij,...j->...i", axes, vector))


def _top(speed: np.ndarray) -> np.ndarray:
    """Largest value along the last axis, refined between samples."""
    i = np.clip(np.argmax(speed, axis=-1), 1, speed.shape[-1] - 2)
    a, b, c = (np.take_along_axis(speed, (i + k)[..., None], axis=-1)[..., 0] for k in (-1, 0, 1))
    bend = a - 2 * b + c
    shift = np.where(bend < 0, 0.5 * (a - c) / np.where(bend < 0, bend, 1.0), 0.0)
    return np.asarray(np.where(np.abs(shift) <= 1, b - 0.25 * (a - c) * shift, np.max(speed, axis=-1)))


# what borrowing is worth ----------------------------------------------------------------------------------------------
@dataclass(frozen=True)
class Worth:
    """A pair of throws put together: `values` (copies, 2 x 8) m/s of ball (or hand) speed, and what was noticed.

    `rebuilt` is each side's own hand speed out of its linked body, over the measured one.
    """

    values: np.ndarray
    rebuilt: tuple[float, float]
    warnings: tuple[str, ...]


def worth(athlete: Analysis, twin: Analysis, ends: tuple[float, float], count: int = 0, seed: int = 0) -> Worth:
    """Ball speeds of all chimeras; `ends` are the two speeds that are to be explained. Raises NotBorrowable.

    The ball's factor is what the ends are of the bodies' hand speeds, so that the account closes on the ends exactly.
    """
    ours, theirs = side_of(athlete, "athlete", count, seed), side_of(twin, "twin", count, seed + 1)
    hands, at_release = hand_speeds(ours, theirs)
    copies = hands.shape[0]
    own = (hands.reshape(copies, -1)[:, 0], hands.reshape(copies, -1)[:, -1])
    ratios = np.stack([end / hand for end, hand in zip(ends, own, strict=True)], axis=1)
    values = hands[..., None] * ratios.reshape(copies, *[1] * len(_BODY), 2)
    rebuilt = tuple(
        float(np.mean(hand)) / measured for hand, measured in zip(own, _measured(athlete, twin), strict=True)
    )
    return Worth(values, rebuilt, tuple(_noticed(ours, theirs, rebuilt, hands, at_release)))  # type: ignore[arg-type]


def _measured(*sides: Analysis) -> list[float]:
    """Each side's own peak speed of the hand, m/s. Raises NotBorrowable."""
    found = [side.measures["peak_speed_throwing_hand"].value for side in sides]
    if any(not one for one in found):
        raise NotBorrowable("a hand speed is not known")
    return [float(one) for one in found if one is not None]


def _noticed(
    ours: Side, theirs: Side, rebuilt: Sequence[float], hands: np.ndarray, at_release: np.ndarray
) -> list[str]:
    """What speaks against the account, in plain words."""
    said = [
        f"The {who}'s linked body throws {abs(share - 1):.0%} {'slower' if share < 1 else 'faster'} than the "
        f"{who} does: what is borrowed is only as true as that."
        for who, share in zip(("athlete", "twin"), rebuilt, strict=True)
        if abs(share - 1) > _REBUILT
    ]
    off = np.abs(at_release / hands - 1).mean(axis=0)
    if float(np.median(off)) > 0.05:
        said.append("With borrowed parts the hand peaks away from release by more than 5 % of its speed.")
    far = far_apart(ours, theirs)
    if far:
        said.append(f"At the same moment the two {far} are turned more than {_APART:.0f}° apart: not to be mixed.")
    return said


def far_apart(ours: Side, theirs: Side) -> str:
    """The joint at which the two are turned too far apart to be mixed, in words, or nothing."""
    times = ours.release[:, None] + np.linspace(-1.0, _REACH, 40) * ours.drive[:, None]
    a, b = ours.body.at(times), theirs.body.at(_mapped(ours, theirs, times))
    for name, words in (("turn", "pelvises"), ("trunk", "trunks"), ("upper", "upper arms")):
        if float(angle_apart(getattr(a, name), getattr(b, name)).max()) > _APART:
            return words
    return ""


# the account ----------------------------------------------------------------------------------------------------------
ARM = "arm"
UNRESOLVED = "unresolved"
GROUPS: Mapping[str, tuple[str, ...]] = {ARM: ("shoulder", "elbow_hand"), "turn": ("pelvis_rotation", "trunk")}
LABELS: Mapping[str, str] = {
    **FACTORS, ARM: "Arm", "turn": "Hips and trunk together", UNRESOLVED: "Not to be told apart",
}  # fmt: skip
_INDEX = {name: i for i, name in enumerate(FACTORS)}
_SUMS = tuple((name,) for name in FACTORS) + tuple(GROUPS.values())
COPIES = 24  # jittered copies of a pair for the spread of its shares
_SMALL = 0.15  # of the gap: a share known to within this is resolved even if it may be nothing


@dataclass(frozen=True, slots=True)
class Factor:
    """A share of the gap, m/s; positive = the athlete loses here against the twin.

    `low` and `high` hold the spread over the orders of borrowing and what is resolved (`sd`, one standard deviation,
    None when not worked out). `resolved` says whether the figure may be shown by itself; `parts` are the factors that
    it holds, if it is a sum.
    """

    id: str
    contribution: float
    low: float
    high: float
    sd: float | None
    resolved: bool
    parts: tuple[str, ...] = ()

    @property
    def label(self) -> str:
        """Its name on screen."""
        return LABELS[self.id]


@dataclass(frozen=True)
class Borrowed:
    """The gap shared out over what could be borrowed. `basis` "ball" or "hand"; `gap` twin less athlete, m/s.

    `factors` add up to the gap: the arm as one, what cannot be told apart as one. `singles` {id: Factor} are all
    factors and groups by themselves, resolved or not. `throws` how many of each side went into it.
    """

    basis: str
    gap: float
    factors: tuple[Factor, ...]
    singles: Mapping[str, Factor]
    warnings: tuple[str, ...]
    throws: tuple[int, int]


def borrow(athlete: Sequence[Analysis], twin: Sequence[Analysis]) -> Steps[Borrowed]:
    """The account of every pair of throws together. Raises NotBorrowable.

    One throw on each side: the spread comes from jittered copies. Several: from throw to throw, with Student's factor.
    """
    with_ball = all(side.delivery.ball_speed for side in (*athlete, *twin))
    grid = [[_shares(a, t, with_ball=with_ball) for t in twin] for a in athlete[:1]]
    yield 0.3
    for a in athlete[1:]:
        grid.append([_shares(a, t, with_ball=with_ball) for t in twin])
        yield 0.3 + 0.5 * len(grid) / len(athlete)
    shares = np.array([[one.shares for one in row] for row in grid])
    spreads = [(shares.mean(axis=1 - axis), student(shares.shape[axis]) / np.sqrt(shares.shape[axis]))
               for axis in (0, 1) if shares.shape[axis] > 1]  # fmt: skip
    if min(shares.shape[:2]) == 1:
        # where one side has several throws, its part of the copies' spread is counted twice: on the safe side
        ends = _ends(athlete[0], twin[0], with_ball=with_ball)
        spreads.append((shapley(worth(athlete[0], twin[0], ends, COPIES).values)[0], 1.0))
    yield 0.95
    orders = {group: np.mean([[one.orders[group] for one in row] for row in grid], axis=(0, 1)) for group in _SUMS}
    mean = shares.mean(axis=(0, 1))
    gap = float(mean.sum())

    def factor(name: str, members: Sequence[str]) -> Factor:
        columns = [_INDEX[one] for one in members]
        sd = float(np.sqrt(sum((w * np.std(each[:, columns].sum(axis=1), ddof=1)) ** 2 for each, w in spreads)))
        share = float(mean[columns].sum())
        low, high = orders.get(tuple(members), (share, share))
        reach = np.hypot(share - low, 2 * sd), np.hypot(high - share, 2 * sd)
        resolved = 2 * sd <= max(abs(share), _SMALL * abs(gap))
        parts = tuple(members) if len(members) > 1 else ()
        return Factor(name, share, float(share - reach[0]), float(share + reach[1]), sd, bool(resolved), parts)

    singles = {name: factor(name, (name,)) for name in FACTORS} | {
        name: factor(name, members) for name, members in GROUPS.items()
    }
    warnings = dict.fromkeys(words for row in grid for one in row for words in one.warnings)
    shown = _shown(singles, factor)
    return Borrowed("ball" if with_ball else "hand", gap, shown, singles, tuple(warnings), shares.shape[:2])


def _shown(singles: Mapping[str, Factor], factor: Callable[[str, Sequence[str]], Factor]) -> tuple[Factor, ...]:
    """What may be shown: the arm as one; hips and trunk as one where they cannot be told apart; the rest as one."""
    found = [singles[name] for name in ("size", "tempo", "pelvis_path")]
    turn = [singles["pelvis_rotation"], singles["trunk"]]
    found += turn if all(one.resolved for one in turn) else [singles["turn"]]
    found += [singles[ARM], singles["ball"]]
    vague = [one for one in found if not one.resolved]
    if len(vague) < 2:
        return tuple(found)
    members = [part for one in vague for part in (one.parts or (one.id,))]
    return (*(one for one in found if one.resolved), factor(UNRESOLVED, members))


@dataclass(frozen=True)
class _Shares:
    """One pair of throws: `shares` (factors,), `orders` {members: (least, largest step)}, what was noticed."""

    shares: np.ndarray
    orders: Mapping[tuple[str, ...], tuple[float, float]]
    warnings: tuple[str, ...]


def _shares(athlete: Analysis, twin: Analysis, *, with_ball: bool) -> _Shares:
    found = worth(athlete, twin, _ends(athlete, twin, with_ball=with_ball))
    shares, low, high = shapley(found.values)
    orders: dict[tuple[str, ...], tuple[float, float]] = {
        (name,): (float(low[0, i]), float(high[0, i])) for name, i in _INDEX.items()
    }
    for members in GROUPS.values():
        least, largest = joint_marginals(found.values, [_INDEX[name] for name in members])
        orders[members] = (float(least[0]), float(largest[0]))
    return _Shares(shares[0], orders, found.warnings)


def _ends(athlete: Analysis, twin: Analysis, *, with_ball: bool) -> tuple[float, float]:
    if with_ball:
        return float(athlete.delivery.ball_speed or 0.0), float(twin.delivery.ball_speed or 0.0)
    ours, theirs = _measured(athlete, twin)
    return ours, theirs
