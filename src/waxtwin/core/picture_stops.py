"""Stops as one camera shows them: cues of the picture, put together by how far each is off.

How far a cue is off on average, and how much that varies, was found on simulated throws of many builds seen from the
side and end-on (docs/method.md); the instants themselves come from the picture alone.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from waxtwin.core.landmarks import INDEX
from waxtwin.core.motion import Motion
from waxtwin.core.search import Search
from waxtwin.core.stops import Event

_AS_HIGH = 0.06  # shares of height: so much less high than the arm's cocking, the hand may be at release
_BRIDGED = 0.045  # s: a longer gap is not gone over
_FINE = 480.0  # instants a second at which paths between frames are looked at
_SLOW_RATE = 150.0  # frames a second: below, smoothing would hide what the frames still show
_SIDE, _END_ON = 1, 0
_DISAGREE = 0.6  # of the cues' own scatter that goes into the interval
_THROW_HZ = 8.0  # of the copy on which the throw is found
# Heights a second on it: 32 throws, simulated and rendered, reach 7.8 and 5.4; without their release 5.7 and 3.3.
_THROWN = {_SIDE: 6.6, _END_ON: 4.3}
_TURNED = 60.0  # deg: further off no view is taken for one
_PACE_GUESSED = 1.6  # times, where nobody said how fast the clip was taken
_MISPLACED = 0.003  # s that a model's hand is early or late by itself
_STRONG = 0.55  # of the fastest: a hand that may be the throwing one
_OVER = 0.05  # shares of height, over which a hand counts as up
_REACH = 0.14  # s around its fastest that hold the release
_HELD_FOR = 0.3  # s before the lift in which the hands are together
_BREAK, _PARTED, _APART = 0.01, 0.15, 0.40  # m, for 1.80 m: the definition's, and two surely passed on the way
_TOGETHER = 0.06  # m: at most so far apart are wrists of hands that are held together
_FEW = 5  # frames
_FINISHED = {_SIDE: 0.145, _END_ON: 0.30}  # of the hand's peak speed: what is a fifth of it in space
# End-on: which parts of the front foot, how late each is at _FOOT_OVER (m, for 1.80 m) over its rest, and its doubt.
_FOOT_CUES = (("lead_ankle", 0.0, 0.010), ("lead_heel", 0.002, 0.014), ("lead_toe", 0.008, 0.014))
_FOOT_OVER, _STRIDE_ENDS = 0.036, 0.30
_LANDING_TO_RELEASE, _LANDING_VARIES = 0.142, 0.022  # s, usual
_HIDDEN_DOUBT = 0.16  # s, for a beginning that is hardly seen
_BREAK_LATE = 0.010  # s
_SOONEST_LANDING = 0.20  # s after the hands part
_COMES_FLAT, _FLAT_VARIES = 0.022, 0.015  # s from touching to taking weight, end-on
_RISES = (0.45, 1.4)  # s that a lift takes
_STIRRED, _RISEN = 0.04, 0.16  # m, for 1.80 m: how far the front knee is up, twice on its way
_FINISH_LATER, _FINISH_VARIES = 0.010, 0.022  # s
_UNSURE_BREAK = 0.10  # s
_LOAD_DOUBT, _NO_LOAD, _STILL_BENDING = 0.05, 0.14, 0.02  # s
_LOAD_ASIDE = 0.08  # s more where a model found the marks, or the camera stands off the side
_LOAD_BEHIND = 0.14  # s more where the front leg passes before the back one


@dataclass(frozen=True, slots=True)
class Cue:
    """An instant that the picture gives for a stop, and its standard deviation, both in seconds."""

    time: float
    doubt: float


def together(cues: Sequence[Cue | None]) -> Cue | None:
    """What several cues say, weighed by their doubts; where they disagree, the doubt is as wide as that."""
    known = [cue for cue in cues if cue is not None and np.isfinite(cue.time)]
    if not known:
        return None
    times, weight = np.array([cue.time for cue in known]), np.array([cue.doubt**-2 for cue in known])
    if len(known) > 2:  # one that stands alone is not believed
        far = np.abs(times - np.median(times)) > 4 * np.array([cue.doubt for cue in known])
        weight = np.where(far, weight * 0.05, weight)
    time = float(np.sum(weight * times) / weight.sum())
    scatter = float(np.sqrt(np.sum(weight * (times - time) ** 2) / weight.sum()))
    return Cue(time, float(np.hypot(weight.sum() ** -0.5, _DISAGREE * scatter)))


class Path:
    """A landmark's way between frames: `(instants, 3)` at `times`, the axis that is not seen as zero."""

    def __init__(self, s: Search, start: float, stop: float) -> None:
        self.s = s
        first, last = max(start, float(s.times[0])), min(stop, float(s.times[-1]))
        self.times = np.arange(first, last, 1.0 / _FINE)

    def __call__(self, name: str) -> np.ndarray:
        from scipy.interpolate import CubicSpline

        motion = self.s.motion
        body = motion.body if motion.rate >= _SLOW_RATE else motion.as_seen
        path = body.seen(body.at(name))[0]
        known = np.isfinite(path).all(axis=1)
        out = np.full((self.times.size, 3), np.nan)
        if known.sum() < 4:
            return out
        after = np.clip(np.searchsorted(self.s.times[known], self.times), 1, known.sum() - 1)
        near = np.diff(self.s.times[known])[after - 1] < _BRIDGED + 1.5 / motion.rate
        inside = near & (self.times >= self.s.times[known][0]) & (self.times <= self.s.times[known][-1])
        out[inside] = CubicSpline(self.s.times[known], path[known])(self.times[inside])
        return out

    def peak(self, curve: np.ndarray, slack: float = 0.0) -> float | None:
        """Instant of a curve's highest top, or of the last that comes within `slack` of it; None where it has none."""
        with np.errstate(invalid="ignore"):
            tops = np.flatnonzero((curve[1:-1] > curve[:-2]) & (curve[1:-1] >= curve[2:])) + 1
        if not tops.size:
            return None
        return float(self.times[tops[curve[tops] >= curve[tops].max() - slack][-1]])

    def rises_through(self, curve: np.ndarray, level: float) -> float | None:
        """The last instant at which a curve rises through a level."""
        with np.errstate(invalid="ignore"):
            at = np.flatnonzero((curve[:-1] < level) & (curve[1:] >= level))
        return float(self.times[at[-1]]) if at.size else None


def _cue(time: float | None, late_by: float, doubt: float) -> Cue | None:
    return None if time is None else Cue(time - late_by, doubt)


def release(s: Search) -> Event | None:
    """From the side the hand is fastest, passes the shoulder and has just been highest; end-on the arm is longest in
    the picture and the hand highest.
    """
    throw = _throw(s) if shows_throw(s.motion) else None
    if throw is None:
        return None
    path = Path(s, throw - _REACH, throw + _REACH)
    if path.times.size < 5:
        return None
    hand, shoulder = path("throwing_hand"), path("throwing_shoulder")
    frame = 1.0 / s.motion.rate
    highest = _cue(path.peak(hand[:, 2], _AS_HIGH * s.motion.height), -0.0045, float(np.hypot(0.0045, 0.15 * frame)))
    if s.motion.flat == _SIDE:
        speed = np.linalg.norm(np.gradient(hand, path.times, axis=0), axis=1)
        over = path.rises_through((hand - shoulder)[:, 0], 0.0)
        cues = [
            _cue(path.peak(speed), 0.0, float(np.hypot(0.002, 0.3 * frame))),
            _cue(over, 0.0, float(np.hypot(0.005, 0.1 * frame))),
            highest,
        ]
    else:
        longest = path.peak(np.linalg.norm(hand - shoulder, axis=1))
        cues = [_cue(longest, 0.002, float(np.hypot(0.0045, 0.2 * frame))), highest]
    found = together(cues)
    if found is None:
        return None
    doubt = float(np.hypot(found.doubt, _MISPLACED)) if s.motion.sight.by_model else found.doubt
    return s.event("release", found.time, 2 * doubt)


def shows_throw(motion: Motion) -> bool:
    """Whether a hand is anywhere as quick as one that throws: where a clip ends before release or begins after it, the
    quickest hand is one that swings up, or is flung out. A hand that blurs is lost just there; its wrist tells too. A
    camera that is turned sees it as much slower.
    """
    assert motion.flat is not None
    ends = [motion.slow_speed(name, _throw_hz(motion))[0] for name in ("throwing_hand", "throwing_wrist")]
    speed = np.stack(ends) / motion.height
    least = _THROWN[motion.flat] / (1.0 if motion.sight.paced else _PACE_GUESSED)
    turned = min(abs(motion.sight.yaw) + motion.sight.yaw_sd, _TURNED)
    return bool(np.nanmax(speed, initial=0.0) >= least * np.cos(np.radians(turned)))


def _throw_hz(motion: Motion) -> float:
    return float(min(_THROW_HZ, 0.2 * motion.rate))


def _throw(s: Search) -> float | None:
    """About when the ball is thrown: the hand is fastest on a slow copy, above the hips."""
    speed = s.motion.slow_speed("throwing_hand", _throw_hz(s.motion))[0]
    hand, pelvis = s.at("throwing_hand")[:, 2], s.at("pelvis")[:, 2]
    forward = speed
    if s.motion.flat == _SIDE:
        forward = np.gradient(s.motion.as_seen.at("throwing_hand")[0, :, 0], s.times)
        with np.errstate(invalid="ignore"):
            forward = np.where(forward > 0, np.minimum(speed, 1.5 * forward), 0.0)
    # a hand is thrown from over the shoulder; the glove arm, taken for it, is flung out below
    over = 1.0 / (1.0 + np.exp(-(hand - s.at("chest")[:, 2]) / (_OVER * s.motion.height)))
    with np.errstate(invalid="ignore"):
        curve = np.where(hand > pelvis, forward * over, np.nan)
    edge = max(int(0.05 * s.motion.rate), 2)
    frames = np.arange(edge, curve.size - edge)
    if not frames.size or np.isnan(curve[frames]).all():
        return None
    strong = curve[frames] >= _STRONG * np.nanmax(curve[frames])
    inner = np.nan_to_num(curve[frames], nan=-1.0)
    top = np.r_[True, inner[1:] >= inner[:-1]] & np.r_[inner[:-1] >= inner[1:], True]
    # the glove arm, taken for the other, is flung out before: the throw is the last time a hand is so quick up there
    return float(s.times[frames[np.flatnonzero(strong & top)[-1]]])


def foot_contact(s: Search) -> Event | None:
    """End-on the front ankle comes down to where it will rest; from the rear the back leg often hides it, and then only
    how long throws usually last from here to release is left, with the doubt that this has.
    """
    begun = s.time("release")
    if begun is None:
        return None
    k, frame = s.motion.scale, 1.0 / s.motion.rate
    cues = [Cue(begun - _LANDING_TO_RELEASE, _LANDING_VARIES)]
    window = s.frames(begun - _STRIDE_ENDS, begun - 0.02)
    resting = s.frames(begun - 0.06, begun - 0.01)
    for name, late, doubt in _FOOT_CUES:
        height = s.at(name)[:, 2]
        if not resting.size or np.isfinite(height[window]).sum() < 0.7 * window.size or np.isnan(height[resting]).all():
            continue
        rest = float(np.nanmedian(height[resting]))
        with np.errstate(invalid="ignore"):
            over = window[height[window] > rest + _FOOT_OVER * k]
        fallen = float(np.nanmax(height[window]) - rest)
        if over.size and over[-1] + 1 < height.size and fallen > 3 * _FOOT_OVER * k:
            time = s.crossing(height, rest + _FOOT_OVER * k, int(over[-1]) + 1)
            hidden = 1 + 2 * (1 - _trust(s, name, window))
            cues.append(Cue(time - late, float(np.hypot(hidden * doubt, 0.3 * frame))))
    found = together(cues)
    assert found is not None
    return s.event("foot_contact", found.time, 2 * found.doubt, trust=0.8 if len(cues) > 1 else 0.3)


def _trust(s: Search, name: str, frames: np.ndarray) -> float:
    """How far a landmark can be trusted on these frames, 0 to 1."""
    trust = s.motion.trust
    return 1.0 if trust is None or not frames.size else float(np.mean(trust[frames, INDEX[name]]))


def foot_plant(s: Search) -> Event | None:
    """End-on nothing shows when the foot comes flat: a little after it touches."""
    touched = s.found.get("foot_contact")
    begun = s.time("release")
    if touched is None or begun is None:
        return None
    spread = float(np.hypot(touched.interval / 1000.0, 2 * _FLAT_VARIES))
    return s.event("foot_plant", min(touched.time + _COMES_FLAT, begun), spread, trust=0.5)


def first_move(s: Search) -> Event | None:
    """End-on the front knee shows it first: two heights that it has surely passed lead back to where its rise began."""
    lift = s.time("peak_knee")
    if lift is None:
        return None
    height, k = s.at("lead_knee")[:, 2], s.motion.scale
    before = s.frames(s.times[0], lift)
    if np.isfinite(height[before]).sum() < _FEW:
        return None
    standing = float(np.nanpercentile(height[before], 10))
    passed = _traced_back(s, height, before, standing, (_STIRRED * k, _RISEN * k))
    if passed is None:
        return None
    start, first, _ = passed
    doubt = 0.02 + 0.25 * (first - start) + _HIDDEN_DOUBT * (1 - _trust(s, "lead_knee", before))
    if not _RISES[0] < lift - start < _RISES[1]:  # a knee that was hidden, or another one
        doubt = _HIDDEN_DOUBT
    return s.event("first_move", max(start, float(s.times[0])), 2 * doubt, trust=0.6)


def max_layback(s: Search) -> Event | None:
    """From the side the forearm is furthest back against the trunk a little before it is in space; end-on it points at
    the camera, so it is shortest in the picture.
    """
    contact, release_ = s.time("foot_contact"), s.time("release")
    if contact is None or release_ is None:
        return None
    frame = 1.0 / s.motion.rate
    usual = Cue(release_ - 0.032, 0.010)  # so long before release in most throws; it settles what is vague
    if s.motion.flat == _SIDE:
        curve = s.motion.layback(np.array([contact]))[0]
        top = s.top(curve, s.frames(contact, release_), 0.020)
        cue = None if top is None else Cue(top[0] + 0.008, float(np.hypot(0.007, 0.3 * frame)))
    else:
        path = Path(s, max(contact, release_ - 0.09), release_)
        length = np.linalg.norm(path("throwing_wrist") - path("throwing_elbow"), axis=1)
        cue = _cue(path.peak(-length), 0.004, float(np.hypot(0.006, 0.3 * frame)))
    found = together([cue, usual])
    if found is None:
        return None
    return s.event("max_layback", float(np.clip(found.time, contact, release_)), 2 * found.doubt, trust=0.7)


def hand_break(s: Search) -> Event | None:
    """The hands part with growing speed: their distance grows with the square of time, so two distances that they have
    surely passed lead back to the one at which they are said to part.

    Until then a wrist is often hidden by the glove or the other arm; the hand may stand in for it, and what is not seen
    between two frames is bridged and adds to the doubt.
    """
    lift, contact = s.time("peak_knee"), s.time("foot_contact")
    if lift is None or contact is None:
        return None
    k = s.motion.scale
    gap = _between_hands(s)
    seen = np.flatnonzero(np.isfinite(gap))
    if seen.size < _FEW:
        return None
    bridged = np.interp(np.arange(gap.size), seen, gap[seen])
    held = s.frames(lift - _HELD_FOR, lift)
    together_ = gap[held][np.isfinite(gap[held])]
    rest = min(float(np.median(together_)), _TOGETHER * k) if together_.size >= _FEW else _TOGETHER * k
    window = s.frames(max(s.times[0], lift - _HELD_FOR), contact)
    passed = _traced_back(s, bridged, window, rest, (_PARTED * k, _APART * k))
    if passed is None:
        return None
    start, first, second = passed
    time = start + (first - start) * np.sqrt(_BREAK / _PARTED)
    holes = [_hole(s.times[seen], instant) for instant in (first, second)]
    doubt = 0.012 + 0.15 * (second - first) + 0.3 * max(holes) + 0.3 / s.motion.rate
    if contact - time < _SOONEST_LANDING:  # not the hands' parting, but arms that were taken for each other
        doubt = _UNSURE_BREAK
    return s.event("hand_break", float(min(time - _BREAK_LATE, contact)), 2 * min(doubt, _UNSURE_BREAK), trust=0.8)


def _between_hands(s: Search) -> np.ndarray:
    """Distance of the hands in the picture `(frames,)` m: of the wrists, or of hand and glove wrist, or of both."""
    glove = s.at("glove_wrist")
    away = [s.motion.body.seen((s.at(name) - glove)[None])[0] for name in ("throwing_wrist", "throwing_hand")]
    gaps = np.stack([np.linalg.norm(one, axis=-1) for one in away])
    known = np.isfinite(gaps)
    return np.asarray(np.where(known.any(axis=0), np.nansum(gaps, axis=0) / np.maximum(known.sum(axis=0), 1), np.nan))


def _hole(seen: np.ndarray, time: float) -> float:
    """How long nothing is seen around an instant, s."""
    after = int(np.searchsorted(seen, time))
    if after == 0 or after == seen.size:
        return _UNSURE_BREAK
    return float(seen[after] - seen[after - 1])


def _traced_back(
    s: Search, curve: np.ndarray, window: np.ndarray, rest: float, over: tuple[float, float]
) -> tuple[float, float, float] | None:
    """When a curve that grows with the square of time began to leave its `rest`, and when it passed two heights over it
    for good; None where it does not pass both.
    """
    first, second = (_leaves(s, curve, window, rest + height) for height in over)
    if first is None or second is None or second <= first:
        return None
    near, far = np.sqrt(over[0]), np.sqrt(over[1])
    return first - (second - first) * near / (far - near), first, second


def _leaves(s: Search, curve: np.ndarray, window: np.ndarray, level: float) -> float | None:
    """The last instant in a window at which a curve is not yet over a level."""
    below = window[curve[window] < level]
    if not below.size or below[-1] + 1 >= curve.size:
        return None
    return s.crossing(curve, level, int(below[-1]) + 1)


def drive_start(s: Search) -> Event | None:
    """From the side: the way from hip to ankle tells the bend of the back knee, wherever the knee points."""
    lift, contact = s.time("peak_knee"), s.time("foot_contact")
    if lift is None or contact is None or s.motion.flat != _SIDE:
        return None
    seen = s.motion.body.seen
    chord = np.linalg.norm(seen(s.at("drive_hip")[None] - s.at("drive_ankle")[None])[0], axis=-1)
    window = s.frames(lift, contact)
    if window.size < 3 or np.isnan(chord[window]).all():
        return None
    leg = 0.247 * s.motion.height
    bend = np.degrees(2 * np.arccos(np.clip(chord / (2 * leg), -1, 1)))
    deepest = float(np.nanmax(bend[window]))
    with np.errstate(invalid="ignore"):
        deep = window[bend[window] > deepest - 1.5]
    time = s.crossing(bend, deepest - 1.5, int(deep[-1]) + 1)
    if contact - time < _STILL_BENDING:  # it never straightens before landing, so nothing marks the moment
        return s.event("drive_start", float(np.clip(time, lift, contact)), _NO_LOAD, trust=0.3)
    noise = np.degrees(s.motion.smoothed_noise("drive_hip") / (0.25 * s.motion.height))
    sight = s.motion.sight
    aside = _LOAD_ASIDE if sight.yaw else 0.6 * _LOAD_ASIDE if sight.by_model else 0.0
    if sight.by_model and sight.view == "closed side":
        aside = _LOAD_BEHIND
    doubt = float(np.hypot(_LOAD_DOUBT, aside)) + 0.01 * noise
    return s.event("drive_start", float(np.clip(time, lift, contact)), doubt, trust=0.6)


def finish(s: Search) -> Event | None:
    """The hand slower than what is a fifth of its peak in space, for 50 ms; the end of the clip where it never is."""
    begun = s.time("release")
    if begun is None or s.motion.flat is None:
        return None
    speed = s.speed("throwing_hand")
    peak = np.nanmax(speed[s.frames(begun - 0.04, begun + 0.04)], initial=0.0)
    time = s.settles(speed, _FINISHED[s.motion.flat] * peak, begun, 0.05)
    if time is None:
        return s.event("finish", s.times[-1], 0.05, trust=0.3)
    noise = s.motion.smoothed_noise("throwing_hand", 1)
    spread = _FINISH_VARIES + 0.7 / s.motion.rate + 1.5 * noise / max(s.slope(speed, time), 1.0)
    return s.event("finish", time + _FINISH_LATER, spread, trust=0.8)
