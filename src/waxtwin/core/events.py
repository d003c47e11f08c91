"""The ten stops of a delivery: one declared detector each, found backwards from release.

Definitions, lengths and speeds are those of the measures page, for a standing height of 1.80 m and scaled with
height. Each event carries its source, a confidence and an interval: half of what the instant can be off, at least
half a frame.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from waxtwin.core import picture_stops
from waxtwin.core.landmarks import INDEX
from waxtwin.core.motion import Motion
from waxtwin.core.search import Search
from waxtwin.core.smoothing import runs
from waxtwin.core.stops import ACCEPTED, BY_HAND, ESTIMATED, ORDER, Event, StopsByHand

# frames, ms: how far off a moment is that somebody estimates from what is seen around it
_GUESSED_FRAMES, _GUESSED_MS = 3, 25.0
_OPENS_AT_MOST = 0.14  # s that the beginning is off, however much marks waver
_UNSEEN_OPENING = 0.20  # s
_KNEE_WAVERS = (0.025, 0.05)  # s that a model's marks of a lifted knee are highest early or late, and end-on
_FOOT_WAVERS = 0.008  # s that a model's marks of a foot come to rest early or late
_AS_HIGH, _HELD_UP = 0.004, 0.4  # shares of height; s
_BEGINS_DOWN = 0.05  # s after the track's beginning: a knee that is highest there was lifted before
_RESTED = 0.2  # s at rest, from which what comes after is the first move
_SAME = 5e-4  # s: a time set by hand that near to the detected one is the detected one, accepted


_THROW_HZ, _THROW_REACH = 8.0, 0.12  # the copy on which the throw is found, and s around it that hold the release

Detector = Callable[["Search"], "Event | None"]
_DETECTORS: dict[str, Detector] = {}
# Every detector may lean on those found before it; release depends on nothing.
_SEARCH_ORDER = ("release", "foot_contact", "foot_plant", "peak_knee", "first_move", "set", "hand_break",
                 "drive_start", "max_layback", "finish")  # fmt: skip


def _detector(event_id: str) -> Callable[[Detector], Detector]:
    def register(function: Detector) -> Detector:
        if event_id in _DETECTORS:
            raise ValueError(f"two detectors for {event_id}")
        _DETECTORS[event_id] = function
        return function

    return register


def find_events(motion: Motion, by_hand: StopsByHand | None = None) -> dict[str, Event]:
    """All events that can be found, in order; `core.withheld` says which of them may be used.

    What was set by hand wins over detection, and later detectors lean on it; where it says what detection says, the
    event counts as accepted and keeps its interval. Rejected events are not in this footage, whatever is detected.
    """
    said = by_hand or StopsByHand()
    search = Search(motion)
    for event_id in _SEARCH_ORDER:
        event = None if motion.is_bare else _DETECTORS[event_id](search)
        if event_id in said.times:
            guessed = event_id in said.estimated
            search.found[event_id] = _confirmed(event_id, float(said.times[event_id]), event, motion.rate, guessed)
        elif event is not None and event_id not in said.rejected:
            search.found[event_id] = event
    return {event_id: search.found[event_id] for event_id in ORDER if event_id in search.found}


def _confirmed(event_id: str, time: float, proposed: Event | None, rate: float, guessed: bool) -> Event:
    """An event that somebody vouches for: moved by hand, or the proposal accepted as it is; or estimates."""
    if guessed:
        return Event(event_id, time, ESTIMATED, 0.5, max(1000.0 * _GUESSED_FRAMES / rate, _GUESSED_MS))
    if proposed is not None and abs(proposed.time - time) < _SAME:
        return Event(event_id, time, ACCEPTED, 1.0, proposed.interval)
    return Event(event_id, time, BY_HAND, 1.0, 500.0 / rate)


@_detector("release")
def _release(s: Search) -> Event | None:
    """Peak speed of the throwing hand."""
    if s.motion.flat is not None:
        return picture_stops.release(s)
    speed = s.speed("throwing_hand")
    edge = max(int(0.05 * s.motion.rate), 2)
    frames = np.arange(edge, speed.size - edge)
    # a hand that is misplaced for a moment is as fast as a throw, but not for as long: find the throw on a slow copy
    slow = s.motion.slow_speed("throwing_hand", _THROW_HZ)[0]
    if frames.size and not np.isnan(slow[frames]).all():
        throw = s.times[frames[np.nanargmax(slow[frames])]]
        near = s.frames(throw - _THROW_REACH, throw + _THROW_REACH)
        near = near[(near >= edge) & (near < speed.size - edge)]
        frames = near if not np.isnan(speed[near]).all() else frames
    top = s.top(speed, frames, 0.013)
    if top is None:
        return None
    time, bend = top
    noise = s.motion.smoothed_noise("throwing_hand", 2)
    # besides noise, smoothing moves a lopsided peak by up to a sixth of the cut-off's period
    lean = 0.16 / float(s.motion.cutoffs[INDEX["throwing_hand"]])
    return s.event("release", time, np.hypot(2 * noise / bend, lean) if bend > 0 else 0.01)


@_detector("foot_contact")
def _foot_contact(s: Search) -> Event | None:
    """Two-height rule on the lower of heel and toe; the ankle slower than 1.5 m/s where that fails."""
    if s.motion.flat == 0:
        return picture_stops.foot_contact(s)
    release = s.time("release")
    if release is None:
        return None
    k = s.motion.scale
    planted = _planted_heights(s, release)
    before = s.frames(release - 0.6, release)
    if planted is not None:
        heel, toe, rest = planted
        # a landed foot may seem to lift again in a loud track: what follows the ankle's coming to rest is no flight
        before = s.frames(release - 0.6, min(rest + 0.02, release))
        over = np.minimum(s.at("lead_heel")[:, 2] - heel, s.at("lead_toe")[:, 2] - toe)
        marks = []
        for level in (0.06 * k, 0.02 * k):
            above = before[over[before] > level]
            if above.size and above[-1] + 1 < over.size:
                marks.append(s.crossing(over, level, int(above[-1]) + 1))
        if len(marks) == 2 and marks[1] <= release:
            # what wavers does so alike in the fall and just after it, where the planted heights come from
            noise = 6 * s.motion.white_noise("lead_heel") + 1.5 * s.motion.waver("lead_heel")
            fall = max(0.04 * k / max(marks[1] - marks[0], 1e-4), 0.1)
            return s.event("foot_contact", min(marks[1] + 0.5 * (marks[1] - marks[0]), release), noise / fall)
    speed = s.speed("lead_ankle")
    fast = before[speed[before] > 1.5 * k]
    if fast.size and fast[-1] + 1 < speed.size:
        return s.event("foot_contact", s.crossing(speed, 1.5 * k, int(fast[-1]) + 1), 0.012, trust=0.6)
    return None


def _planted_heights(s: Search, release: float) -> tuple[float, float, float] | None:
    """Heights (m) at which heel and toe of the front foot rest, and the instant from which its ankle does.

    None when the foot is not seen to rest.
    """
    ankle = s.speed("lead_ankle")
    swing = s.frames(release - 0.6, release)
    if swing.size < 4 or np.isnan(ankle[swing]).all():
        return None
    peak = int(swing[np.nanargmax(ankle[swing])])
    slow = np.flatnonzero(ankle[peak:] < 0.5 * s.motion.scale)
    if not slow.size:
        return None
    rest = s.times[peak + slow[0]]
    window = s.frames(rest + 0.05, min(rest + 0.10, release))
    if window.size < 3:
        window = s.frames(max(rest, release - 0.03), release)
    heel, toe = s.at("lead_heel")[window, 2], s.at("lead_toe")[window, 2]
    if window.size == 0 or np.isnan(heel).all() or np.isnan(toe).all():
        return None
    return float(np.nanmedian(heel)), float(np.nanmedian(toe)), float(rest)


@_detector("foot_plant")
def _foot_plant(s: Search) -> Event | None:
    """First rest of ankle, heel and toe after contact; the ankle alone where heel or toe is missing."""
    if s.motion.flat == 0:
        return picture_stops.foot_plant(s)
    contact, release = s.time("foot_contact"), s.time("release")
    if contact is None or release is None:
        return None
    k = s.motion.scale
    slow = s.motion.slow_speed("lead_ankle", 12.0)[0] < 0.5 * k
    planted = _planted_heights(s, release)
    trust = 1.0
    if planted is None:
        trust = 0.6
    else:
        for part, rest in zip(("lead_heel", "lead_toe"), planted[:2], strict=True):
            tolerance = 0.01 * k + 2 * s.motion.smoothed_noise(part)
            slow &= np.abs(s.at(part)[:, 2] - rest) < tolerance
    hold = max(round(0.02 * s.motion.rate), 1)
    for i in s.frames(contact, release):
        if slow[i : i + hold].all():
            wavers = _FOOT_WAVERS if s.motion.sight.by_model else 0.0
            return s.event("foot_plant", max(s.times[i], contact), np.hypot(1.5 / s.motion.rate, wavers), trust)
    return s.event("foot_plant", release, 0.02, trust=0.2)


@_detector("peak_knee")
def _peak_knee(s: Search) -> Event | None:
    """Highest front knee in the 2.5 s before contact; none where it falls from the track's beginning on."""
    contact = s.time("foot_contact")
    if contact is None:
        return None
    top = s.top(s.at("lead_knee")[:, 2], s.frames(contact - 2.5, contact), 0.075)
    if top is None or top[0] < s.times[0] + _BEGINS_DOWN:
        return None
    time, bend = top
    noise = s.motion.smoothed_noise("lead_knee", 1)
    bend = max(bend, s.arch(s.at("lead_knee")[:, 2], time, 0.15))  # a knee held up for a moment is flat at its top
    spread = 2 * noise / bend if bend > 0 else 0.05
    if s.motion.flat is not None or s.motion.sight.by_model:
        spread = max(
            spread, _as_high(s, time, contact), _KNEE_WAVERS[s.motion.flat == 0] if s.motion.sight.by_model else 0,
            _unseen_beside(s, time),
        )  # fmt: skip
    return s.event("peak_knee", time, spread)


def _as_high(s: Search, time: float, contact: float) -> float:
    """How far (s) from the top the knee is all but as high: held up, or lifted twice, its marks do not tell which."""
    height = s.at("lead_knee")[:, 2]
    near = s.frames(max(contact - 2.5, time - _HELD_UP), min(time + _HELD_UP, contact))
    with np.errstate(invalid="ignore"):
        level = np.nanmax(height[near]) - _AS_HIGH * s.motion.height
        high = near[height[near] > level]
    return float(np.abs(s.times[high] - time).max()) if high.size else 0.0


def _unseen_beside(s: Search, top: float) -> float:
    """How far (s) from the highest that was seen of the knee it may have been higher while something hid it, as the
    body does from the closed side: where it is still as high when it goes out of sight.
    """
    height = s.at("lead_knee")[:, 2]
    at = int(np.clip(round((top - s.times[0]) * s.motion.rate), 0, height.size - 1))
    far = 0
    for way in (height[at::-1], height[at:]):
        hidden = np.flatnonzero(np.isnan(way))
        if hidden.size and (hidden[0] == 0 or way[hidden[0] - 1] > np.nanmax(height) - _AS_HIGH * s.motion.height):
            again = np.flatnonzero(np.isfinite(way[hidden[0] :]))
            far = max(far, int(hidden[0] + (again[0] if again.size else way.size - hidden[0])))
    return far / s.motion.rate


def _opening_speed(s: Search) -> np.ndarray:
    return np.asarray(np.fmax(s.motion.slow_speed("pelvis", 6.0)[0], s.motion.slow_speed("lead_ankle", 6.0)[0]))


def _slow_noise(s: Search) -> tuple[float, float]:
    """What is white and what wavers (m/s, standard deviations) in the speed of the 6 Hz copy."""
    return s.motion.stirs(("lead_ankle", "drive_hip"), 6.0)


def _rest_level(s: Search) -> float:
    """m/s on the 6 Hz copy, below which a body rests; marks that waver are never as slow."""
    return float(max(0.10 * s.motion.scale, 2 * np.hypot(*_slow_noise(s))))


@_detector("first_move")
def _first_move(s: Search) -> Event | None:
    """Pelvis or front ankle beyond 0.25 m/s for 100 ms, on a 6 Hz copy, the first time after the last rest before the
    lift: a windup that rocks and comes to a stop has not begun.
    """
    if s.motion.flat == 0 and (seen := picture_stops.first_move(s)) is not None:
        return seen
    lift = s.time("peak_knee")
    if lift is None:
        return None
    noise, waver = _slow_noise(s)
    plain = 0.25 * s.motion.scale
    # marks that waver are faster than that while the body stands: what stands out is traced back to where it rose
    level = max(plain, 3 * np.hypot(noise, waver))
    speed = _opening_speed(s)
    hold = max(round(0.1 * s.motion.rate), 1)
    fast = speed > level
    before = s.frames(s.times[0], lift)
    begins = [i for i in before if fast[i : i + hold].all()]
    rests = [stop for start, stop in runs(speed[before] < _rest_level(s)) if stop - start >= _RESTED * s.motion.rate]
    # a rest that nothing follows is one at the top of the lift
    rested = max((stop for stop in rests if begins and stop <= begins[-1]), default=0)
    begun = next((i for i in begins if i >= rested), 0)
    if begun:
        below = np.flatnonzero(speed[:begun] <= plain)
        time = s.crossing(speed, plain, int(below[-1]) + 1) if below.size else float(s.times[0])
        spread = min(0.003 + (4 * noise + 3 * waver) / max(s.slope(speed, time), 0.1), _OPENS_AT_MOST)
        spread = max(spread, _unseen_beside(s, lift))  # a lift that was not seen may have begun long before
        return s.event("first_move", time, _UNSEEN_OPENING if s.motion.flat == 0 else spread)
    return s.event("first_move", s.times[0], _UNSEEN_OPENING if s.motion.flat == 0 else 0.05, trust=0.3)


@_detector("set")
def _set(s: Search) -> Event | None:
    """Last instant before the first move with pelvis and front ankle below 0.10 m/s, on a 6 Hz copy."""
    move = s.time("first_move")
    if move is None:
        return None
    noise, waver = _slow_noise(s)
    level = _rest_level(s)
    speed = _opening_speed(s)
    still = [i for i in s.frames(s.times[0], move) if speed[i] < level]
    if not still:
        return s.event("set", min(s.times[0], move), _UNSEEN_OPENING if s.motion.flat == 0 else 0.05, trust=0.3)
    time = min(s.crossing(speed, level, still[-1] + 1), move)
    # how steeply the speed rises from here to the first move: at the instant itself the curve is all but flat
    rise = max(s.slope(speed, time), (0.25 * s.motion.scale - level) / max(move - time, 0.02), 0.1)
    spread = min(0.01 + (8 * noise + 2.5 * waver) / rise, _OPENS_AT_MOST)
    # where something is hidden, the beginning is no surer than the move that ends it
    moved, lift = s.found["first_move"].interval / 1000.0, s.time("peak_knee")
    hidden = s.motion.flat == 0 or (lift is not None and _unseen_beside(s, lift) > 0)
    return s.event("set", time, max(spread, moved) if hidden else spread)


@_detector("hand_break")
def _hand_break(s: Search) -> Event | None:
    """Last instant before contact at which the wrists are still at their held distance."""
    if s.motion.flat is not None or s.motion.sight.by_model:  # a model loses the wrists behind the glove
        return picture_stops.hand_break(s)
    lift, contact = s.time("peak_knee"), s.time("foot_contact")
    if lift is None or contact is None:
        return None
    gap = np.linalg.norm(s.motion.body.seen(s.at("throwing_wrist")[None] - s.at("glove_wrist")[None])[0], axis=-1)
    held = s.frames(lift - 0.3, lift)
    if held.size == 0 or np.isnan(gap[held]).all():
        return None
    noise = np.hypot(s.motion.smoothed_noise("throwing_wrist"), s.motion.smoothed_noise("glove_wrist"))
    margin = max(0.01, 3 * noise)
    level = float(np.nanmedian(gap[held])) + margin
    window = s.frames(s.times[0], contact)
    closed = window[gap[window] < level]
    if not closed.size or closed[-1] + 1 >= gap.size:
        return None
    time = s.crossing(gap, level, int(closed[-1]) + 1)
    # a margin widened by noise is passed later than the plain one: that delay is part of what is not known
    doubt = 4 * noise + 2 * (margin - 0.01)
    return s.event("hand_break", min(time, contact), doubt / max(s.slope(gap, time), 0.05))


@_detector("drive_start")
def _drive_start(s: Search) -> Event | None:
    """Last instant between lift and contact with the back knee within 1 deg of its deepest bend."""
    if s.motion.flat is not None:
        return picture_stops.drive_start(s)
    lift, contact = s.time("peak_knee"), s.time("foot_contact")
    if lift is None or contact is None:
        return None
    bend = s.motion.body.knee_flexion("drive")[0]
    window = s.frames(lift, contact)
    if window.size < 3 or np.isnan(bend[window]).all():
        return None
    deepest = float(np.nanmax(bend[window]))
    deep = window[bend[window] > deepest - 1.0]
    i = int(deep[-1]) + 1
    time = s.crossing(bend, deepest - 1.0, i) if i < bend.size else float(s.times[-1])
    time = float(np.clip(time, lift, contact))
    # one landmark's noise turns a shank or thigh of a quarter of the height by so many degrees
    noise = np.degrees(s.motion.smoothed_noise("drive_knee") * 2.4 / (0.25 * s.motion.height))
    top = s.top(bend, window, 0.08)
    curvature = max(top[1] if top else 0.0, 20.0)
    spread = np.sqrt(2 * (1.0 + 2 * noise) / curvature) - np.sqrt(2 * max(1.0 - 2 * noise, 0) / curvature) + 0.004
    near = window[bend[window] > deepest - 2.0]
    runs = np.split(near, np.flatnonzero(np.diff(near) > 1) + 1)
    if len(runs) > 1:
        spread = max(spread, (s.times[near[-1]] - s.times[near[0]]) / 2)
        return s.event("drive_start", time, spread, trust=0.5)
    return s.event("drive_start", time, spread)


@_detector("max_layback")
def _max_layback(s: Search) -> Event | None:
    """Largest layback between contact and release."""
    if s.motion.flat is not None:
        return picture_stops.max_layback(s)
    contact, release = s.time("foot_contact"), s.time("release")
    if contact is None or release is None:
        return None
    curve = s.motion.layback(np.array([contact]))[0]
    top = s.top(curve, s.frames(contact, release), 0.020)
    if top is None:
        return None
    time, bend = top
    noise = np.degrees(s.motion.smoothed_noise("throwing_wrist", 1) * 1.5 / (0.14 * s.motion.height))
    return s.event("max_layback", min(time, release), 2 * noise / bend if bend > 0 else 0.01)


@_detector("finish")
def _finish(s: Search) -> Event | None:
    """The hand slower than a fifth of its peak for 50 ms; the end of the clip where it never is."""
    if s.motion.flat is not None:
        return picture_stops.finish(s)
    release = s.time("release")
    if release is None:
        return None
    speed = s.speed("throwing_hand")
    peak = np.nanmax(speed[s.frames(release - 0.03, release + 0.03)], initial=0.0)
    time = s.settles(speed, 0.2 * peak, release, 0.05)
    if time is not None:
        noise = s.motion.smoothed_noise("throwing_hand", 1)
        return s.event("finish", time, 0.002 + 3 * noise / max(s.slope(speed, time), 1.0))
    return s.event("finish", s.times[-1], 0.05, trust=0.3)
