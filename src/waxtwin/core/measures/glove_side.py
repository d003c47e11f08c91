"""The glove side: how high it is, when it is drawn in, and whether the chest goes to it."""

from __future__ import annotations

import numpy as np

from waxtwin.core.body import dot, unit
from waxtwin.core.measures.registry import MISSED, SHOULDERS, Reading, measure

_NEEDS = ("glove_hand", *SHOULDERS)
_LEAST = 0.05  # of standing height: where chest and glove hardly come together, no share is told


@measure(
    "glove_height_at_landing",
    "Glove height at landing",
    unit="%",
    kind="P",
    at="landing",
    view="any",
    needs=_NEEDS,
    text="How high the glove is against the chest when the front foot is down.",
    formula="glove_hand.z - C.z, % height",
    sign="+ over the shoulders' middle",
    gauge="glove",
)
def glove_height_at_landing(r: Reading) -> np.ndarray:
    body = r.pose("landing")
    return r.percent((body.at("glove_hand") - body.at("chest"))[:, 2])


def _away(r: Reading) -> np.ndarray:
    body = r.motion.body
    return np.asarray(np.linalg.norm(body.seen(body.at("glove_hand") - body.at("chest")), axis=-1))


@measure(
    "glove_pull_time",
    "Glove drawn in, when",
    unit="ms",
    kind="T",
    at="release",
    view="3D",
    needs=_NEEDS,
    stops=("hand_break", "landing"),
    usual="early front side",
    text="When the glove has come half way in to the chest for good, from landing.",
    formula="t(|glove_hand - C| passes for good half way from its largest to its smallest, hand break to release) - "
    "t(landing)",
    sign="- before landing",
    gauge="glove",
    why=lambda r: "the glove is not drawn in before release" if np.isfinite(_away(r)).any() else MISSED,
)
def glove_pull_time(r: Reading) -> np.ndarray:
    away, start, stop = _away(r), r.stop("hand_break"), r.stop("release")
    far, near = r.peak(away, start, stop)[0], -r.peak(-away, start, stop)[0]
    level = ((far + near) / 2)[:, None]
    inside = np.where(r.within(start, stop), away, np.nan)
    drawn = r.passes(level - inside, 0.0)
    return r.after_landing(np.where(far - near >= _LEAST * r.motion.height, drawn, np.nan))


@measure(
    "chest_to_glove",
    "Chest goes to the glove",
    unit="%",
    kind="P",
    at="release",
    view="side",
    needs=_NEEDS,
    stops=("landing",),
    relative=True,
    text="How much of their coming together is the chest's, and how much the glove's.",
    formula="share of the shrinking distance C to glove_hand that C's own motion makes, landing to release, %",
    sign="100 the chest goes to the glove, 0 the glove is drawn in",
    gauge="glove",
    why=lambda r: "chest and glove do not come together" if np.isfinite(_away(r)).any() else MISSED,
)
def chest_to_glove(r: Reading) -> np.ndarray:
    motion, body = r.motion, r.motion.body
    between = unit(body.seen(body.at("glove_hand") - body.at("chest")))
    inside = r.within(r.stop("landing"), r.stop("release"))
    by_chest, by_glove = (
        np.sum(np.where(inside, way * dot(motion.velocity(name), between), 0.0), axis=1) / motion.rate
        for name, way in (("chest", 1.0), ("glove_hand", -1.0))
    )
    together = by_chest + by_glove
    known = together >= _LEAST * motion.height
    return np.where(known, 100.0 * by_chest / np.where(known, together, 1.0), np.nan)
