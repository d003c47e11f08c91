"""The chain ledger: the gap in ball speed shared out along pelvis, shoulder, elbow, wrist, hand and ball.

With gains g_i = v_(i+1) / v_i of peak speeds, ln(v_T / v_A) is the sum of ln(g_i,T / g_i,A) exactly; the gap in m/s
is shared in proportion. Body size and tempo are taken out first, else they read as a better pelvis. It is bookkeeping
along a list of peaks at different instants, not energy transfer.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from waxtwin.core.analysis import Analysis

CHAIN = ("pelvis", "throwing_shoulder", "throwing_elbow", "throwing_wrist", "throwing_hand")
LINKS: Mapping[str, str] = {
    "size": "Body size", "tempo": "Tempo", "pelvis": "Pelvis", "shoulder": "Shoulder", "elbow": "Elbow",
    "wrist": "Wrist", "hand": "Hand", "ball": "Ball",
}  # fmt: skip
_LINK_OF = dict(zip(CHAIN, ("pelvis", "shoulder", "elbow", "wrist", "hand"), strict=True))
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

    def told(self, say: Callable[[float], str]) -> str:
        """The story with its speeds as `say` words them."""
        return self.story.format(**{name: say(value) for name, value in self.figures.items()})

    @property
    def sentence(self) -> str:
        """The story in m/s."""
        return self.told(lambda value: f"{value:.1f} m/s")


def ledger(athlete: Analysis, twin: Analysis) -> Ledger | None:
    """The account of a pair, or None when a speed along the chain is missing on either side."""
    sides = []
    for side in (athlete, twin):
        peaks = [side.measures[f"peak_speed_{name}"].value for name in CHAIN]
        length = side.measures["landing_to_release"].value
        if length is None or length <= 0 or any(p is None or p <= 0 for p in peaks):
            return None
        sides.append((np.array(peaks, float)[:, None], np.array([length])))
    balls = (athlete.delivery.ball_speed, twin.delivery.ball_speed)
    with_ball = all(b is not None and b > 0 for b in balls)
    sizes = [_size(side, athlete, twin) for side in (athlete, twin)]
    terms = _terms(sides, sizes, balls if with_ball else None)[:, 0]
    ends = [float(b) if with_ball and b is not None else float(s[0][-1, 0]) for b, s in zip(balls, sides, strict=True)]
    # the logarithmic mean of the two speeds turns shares of the log ratio into m/s, equal speeds included
    mean = _log_mean(*ends)
    spread = _spread(athlete, twin, sizes, balls if with_ball else None)
    ids = list(LINKS) if with_ball else list(LINKS)[:-1]
    links, ratio = [], 1.0
    reach = {}
    for name, (a, b) in zip(CHAIN, zip(sides[0][0][:, 0], sides[1][0][:, 0], strict=True), strict=True):
        reach[_LINK_OF[name]] = a / b
    if with_ball:
        reach["ball"] = ends[0] / ends[1]
    for i, link_id in enumerate(ids):
        ratio = reach.get(link_id, 0.0)
        resolution = None if spread is None else 2 * mean * float(spread[i])
        links.append(Link(link_id, mean * float(terms[i]), resolution, ratio or None))
    gap = ends[1] - ends[0]
    basis = "ball" if with_ball else "hand"
    return Ledger(basis, ends[0], ends[1], gap, tuple(links), *_break(links, gap, basis))


def _size(side: Analysis, athlete: Analysis, twin: Analysis) -> float:
    """Arm span where both are known, else standing height, in metres."""
    spans = (athlete.delivery.span, twin.delivery.span)
    if all(spans) and side.delivery.span is not None:
        return side.delivery.span
    return side.motion.height


def _terms(sides: list, sizes: list[float], balls: tuple[float | None, float | None] | None) -> np.ndarray:
    """ln of twin over athlete per link: `(links, copies)`. Peaks `(chain, copies)`, lengths `(copies,)`."""
    (peaks_a, length_a), (peaks_t, length_t) = sides
    logs = np.log(peaks_t / peaks_a)
    size = np.full(logs.shape[1], np.log(sizes[1] / sizes[0]))
    tempo = np.broadcast_to(np.log(length_a / length_t), size.shape)
    rows = [size, tempo, logs[0] - size - tempo, *np.diff(logs, axis=0)]
    if balls is not None and balls[0] and balls[1]:
        rows.append(np.log(balls[1] / balls[0]) - logs[-1])
    return np.array(rows)


def _spread(
    athlete: Analysis, twin: Analysis, sizes: list[float], balls: tuple[float | None, float | None] | None
) -> np.ndarray | None:
    """Standard deviation of each link's log term over the copies, or None before they are worked through."""
    if not (athlete.resolved and twin.resolved):
        return None
    sides = []
    for side in (athlete, twin):
        peaks = np.array([side.copies[f"peak_speed_{name}"] for name in CHAIN])
        sides.append((peaks, np.maximum(side.copies["landing_to_release"], 1.0)))
    count = min(s[0].shape[1] for s in sides)
    sides = [(peaks[:, :count], length[:count]) for peaks, length in sides]
    return np.nanstd(_terms(sides, sizes, balls), axis=1)


def _log_mean(a: float, b: float) -> float:
    ratio = np.log(b / a)
    return a if abs(ratio) < _EQUAL else float((b - a) / ratio)


def _break(links: list[Link], gap: float, basis: str) -> tuple[str | None, str, dict[str, float]]:
    """The broken link, the story, and the story's figures in m/s."""
    if gap <= 0:
        return None, f"The athlete's {basis} speed is not below the twin's, so there is no loss to find.", {}
    total = sum(abs(link.contribution) for link in links)
    if total > 2 * gap:
        story = "The links give and take {total} for a gap of {gap}; that is too much to and fro to name one place."
        return None, story, {"total": total, "gap": gap}
    chain = [link for link in links if link.id not in ("size", "tempo")]
    for i, link in enumerate(chain):
        if link.contribution > (link.resolution or 0.0):
            start = "The loss starts at the bottom of the chain"
            if i:
                start = f"Up to the {LINKS[chain[i - 1].id].lower()} the athlete is level or ahead"
            story = f"{start}; at the {LINKS[link.id].lower()} {{loss}} of {{gap}} is lost."
            return link.id, story, {"loss": link.contribution, "gap": gap}
    return None, "No single link's loss is larger than what this footage can resolve.", {}
