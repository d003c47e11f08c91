"""The chain ledger: the gap in ball speed shared out along pelvis, shoulder, elbow, wrist, hand and ball.

With gains g_i = v_(i+1) / v_i of peak speeds, ln(v_T / v_A) is the sum of ln(g_i,T / g_i,A) exactly; the gap in m/s
is shared in proportion. Body size and tempo are taken out first, else they read as a better pelvis. It is bookkeeping
along a list of peaks at different instants, not energy transfer.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import accumulate

import numpy as np

from waxtwin.core.analysis import Analysis
from waxtwin.core.sets import student

CHAIN = ("pelvis", "throwing_shoulder", "throwing_elbow", "throwing_wrist", "throwing_hand")
LINKS: Mapping[str, str] = {
    "size": "Body size", "tempo": "Tempo", "pelvis": "Pelvis", "shoulder": "Shoulder", "elbow": "Elbow",
    "wrist": "Wrist", "hand": "Hand", "ball": "Ball",
}  # fmt: skip
_EQUAL = 1e-6


@dataclass(frozen=True, slots=True)
class Link:
    """A link's share of the gap, m/s; positive = the athlete loses here.

    `resolution` two standard deviations in m/s (None until the copies are worked through), `ratio` the athlete's
    share of the twin's speed up to and with this link (None for size and tempo).
    """

    id: str
    contribution: float
    resolution: float | None
    ratio: float | None

    @property
    def is_level(self) -> bool:
        """Whether its share is known to be no larger than what can be told apart."""
        return self.resolution is not None and abs(self.contribution) <= self.resolution


@dataclass(frozen=True)
class Ledger:
    """The account. `basis` is "ball" or "hand"; speeds and `gap` (twin less athlete) in m/s.

    `broken_at` is the link where the athlete falls behind after being level or ahead, or None. `story` says so, or why
    none is named, with the places of `figures` {name: m/s} in braces.
    """

    basis: str
    athlete: float
    twin: float
    gap: float
    links: tuple[Link, ...]
    broken_at: str | None
    story: str
    figures: Mapping[str, float]

    @property
    def levels(self) -> tuple[float, ...]:
        """The speeds from the athlete's to the twin's, one more than there are links."""
        return tuple(accumulate((link.contribution for link in self.links), initial=self.athlete))

    def told(self, say: Callable[[float], str]) -> str:
        """The story with its speeds as `say` words them."""
        return self.story.format(**{name: say(value) for name, value in self.figures.items()})

    @property
    def sentence(self) -> str:
        """The story in m/s."""
        return self.told(lambda value: f"{value:.1f} m/s")


def ledger(athlete: Analysis, twin: Analysis) -> Ledger | None:
    """The account of two throws, or None when a speed along the chain is missing on either side."""
    return ledger_of((athlete,), (twin,))


def ledger_of(athlete: Sequence[Analysis], twin: Sequence[Analysis]) -> Ledger | None:
    """The account of two sets of throws, from their mean speeds; see `ledger`."""
    with_ball = all(side.delivery.ball_speed for side in (*athlete, *twin))
    with_span = all(side.delivery.span for side in (*athlete, *twin))
    sides = [_side(throws, with_ball=with_ball, with_span=with_span) for throws in (athlete, twin)]
    if sides[0] is None or sides[1] is None:
        return None
    ours, theirs = sides[0], sides[1]
    terms = theirs.logs - ours.logs
    # the logarithmic mean of the two speeds turns shares of the log ratio into m/s, equal speeds included
    mean = _log_mean(ours.end, theirs.end)
    reach = np.exp(np.cumsum(ours.logs - theirs.logs))
    links = []
    for i, link_id in enumerate(LINKS if with_ball else list(LINKS)[:-1]):
        resolution = None
        if ours.spread is not None and theirs.spread is not None:
            resolution = 2 * mean * float(np.hypot(ours.spread[i], theirs.spread[i]))
        links.append(Link(link_id, mean * float(terms[i]), resolution, float(reach[i]) if i >= _OUTSIDE else None))
    gap = theirs.end - ours.end
    basis = "ball" if with_ball else "hand"
    return Ledger(basis, ours.end, theirs.end, gap, tuple(links), *_break(links, gap, basis))


_OUTSIDE = 2  # size and tempo come before the chain


@dataclass(frozen=True)
class _Side:
    """A side's chain: `logs` (links,) of gains, size and tempo first; `spread` their standard deviations, None while
    nothing is resolved; `end` the speed at the end of the chain, m/s.
    """  # fmt: skip

    logs: np.ndarray
    spread: np.ndarray | None
    end: float


def _side(throws: Sequence[Analysis], *, with_ball: bool, with_span: bool) -> _Side | None:
    speeds = np.array([[throw.measures[name].value or np.nan for name in _READ] for throw in throws])
    if not (speeds > 0).all():
        return None
    # arm span where all have one, else standing height
    size = float(np.mean([(with_span and throw.delivery.span) or throw.motion.height for throw in throws]))
    balls = np.array([throw.delivery.ball_speed or np.nan for throw in throws]) if with_ball else None
    mean_ball = None if balls is None else np.mean(balls, keepdims=True)
    logs = _logs(speeds.mean(axis=0, keepdims=True), size, mean_ball)[0]
    end = float(speeds[:, -2].mean() if balls is None else balls.mean())
    return _Side(logs, _spread(throws, speeds, size, balls), end)


_READ = (*(f"peak_speed_{name}" for name in CHAIN), "landing_to_release")


def _logs(speeds: np.ndarray, size: float, balls: np.ndarray | None) -> np.ndarray:
    """Logs of the links' gains, `(n, links)`, from `speeds` (n, chain + 1), the last column landing to release."""
    chain = np.log(speeds[:, :-1])
    length, body = np.log(speeds[:, -1]), np.full(speeds.shape[0], np.log(size))
    columns = [body, -length, chain[:, 0] - body + length, *np.diff(chain, axis=1).T]
    if balls is not None:
        columns.append(np.log(balls) - chain[:, -1])
    return np.stack(columns, axis=1)


def _spread(throws: Sequence[Analysis], speeds: np.ndarray, size: float, balls: np.ndarray | None) -> np.ndarray | None:
    """Standard deviation of each link's log gain: from throw to throw, or of one throw over its copies."""
    if len(throws) > 1:
        logs = _logs(speeds, size, balls)
        return np.asarray(student(len(throws)) * np.std(logs, axis=0, ddof=1) / np.sqrt(len(throws)))
    if not throws[0].resolved:
        return None
    copies = np.maximum(np.stack([throws[0].copies[name] for name in _READ], axis=1), 1e-6)
    repeated = None if balls is None else np.full(copies.shape[0], balls[0])
    return np.asarray(np.nanstd(_logs(copies, size, repeated), axis=0))


def _log_mean(a: float, b: float) -> float:
    ratio = np.log(b / a)
    return a if abs(ratio) < _EQUAL else float((b - a) / ratio)


def _break(links: list[Link], gap: float, basis: str) -> tuple[str | None, str, dict[str, float]]:
    """The broken link, the story, and the story's figures in m/s."""
    if gap <= 0:
        return None, f"The athlete's {basis} speed is not below the twin's, so there is no loss to find.", {}
    # size and tempo are taken out first, and what is not resolved is no to and fro
    chain = links[_OUTSIDE:]
    lost = max(gap, sum(link.contribution for link in chain))
    total = sum(abs(link.contribution) for link in chain if abs(link.contribution) > (link.resolution or 0.0))
    if total > 2 * lost:
        story = "The links give and take {total} where {lost} is lost; that is too much to and fro to name one place."
        return None, story, {"total": total, "lost": lost}
    for i, link in enumerate(chain):
        if link.contribution > (link.resolution or 0.0):
            start = "The loss starts at the bottom of the chain"
            if i:
                start = f"Up to the {LINKS[chain[i - 1].id].lower()} the athlete is level or ahead"
            story = f"{start}; at the {LINKS[link.id].lower()} {{loss}} of {{gap}} is lost."
            return link.id, story, {"loss": link.contribution, "gap": gap}
    return None, "No single link's loss is larger than what this footage can resolve.", {}
