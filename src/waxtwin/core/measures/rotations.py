"""Separation, and the turning of pelvis and trunk."""

from __future__ import annotations

import numpy as np

from waxtwin.core.measures.registry import HIPS, SHOULDERS, TRUNK, Reading, measure

_STODDEN = "Stodden et al. 2001 (J Appl Biomech)"


@measure(
    "landing_pelvis_rotation",
    "Hips open at landing",
    unit="deg",
    kind="S",
    at="landing",
    view="3D",
    needs=HIPS,
    usual="pelvis rotation at foot contact",
    text="How far the hips have turned toward the plate.",
    formula="pelvis rotation",
    sign="0 sideways, 90 facing the plate",
    gauge="hip_line",
    reference=_STODDEN,
    curve="pelvis_rotation",
)
def landing_pelvis_rotation(r: Reading) -> np.ndarray:
    return r.value(r.motion.pelvis_rotation(), "landing")


@measure(
    "landing_trunk_rotation",
    "Shoulders open at landing",
    unit="deg",
    kind="S",
    at="landing",
    view="3D",
    needs=SHOULDERS,
    usual="upper trunk rotation at foot contact",
    text="How far the shoulders have turned toward the plate.",
    formula="trunk rotation",
    sign="0 sideways, 90 facing the plate",
    gauge="shoulder_line",
    reference=_STODDEN,
    curve="trunk_rotation",
)
def landing_trunk_rotation(r: Reading) -> np.ndarray:
    return r.value(r.motion.trunk_rotation(), "landing")


@measure(
    "landing_separation",
    "Separation at landing",
    unit="deg",
    kind="S",
    at="landing",
    view="3D",
    needs=TRUNK,
    usual="hip-shoulder separation at foot contact",
    text="How far the hips are turned ahead of the shoulders.",
    formula="separation",
    sign="+ hips ahead",
    gauge="separation",
    reference=_STODDEN,
    curve="separation",
)
def landing_separation(r: Reading) -> np.ndarray:
    return r.value(r.motion.separation(), "landing")


def _peak_separation(r: Reading) -> tuple[np.ndarray, np.ndarray]:
    return r.peak(r.motion.separation(), r.stop("drive_start"), r.stop("release"))


@measure(
    "peak_separation",
    "Largest separation",
    unit="deg",
    kind="S",
    at="landing",
    view="3D",
    needs=TRUNK,
    stops=("drive_start", "release"),
    usual="maximum hip-shoulder separation",
    text="The most that the hips are turned ahead of the shoulders.",
    formula="largest separation",
    sign="+ hips ahead",
    gauge="separation",
    reference=_STODDEN,
    curve="separation",
)
def peak_separation(r: Reading) -> np.ndarray:
    return _peak_separation(r)[0]


@measure(
    "peak_separation_time",
    "Largest separation, when",
    unit="ms",
    kind="S",
    at="landing",
    view="3D",
    needs=TRUNK,
    stops=("drive_start", "release"),
    text="When the separation is largest, from landing.",
    formula="t(peak separation) - t(landing), ms",
    sign="- before landing",
    gauge="separation",
    curve="separation",
)
def peak_separation_time(r: Reading) -> np.ndarray:
    return r.after_landing(_peak_separation(r)[1])


@measure(
    "pelvis_open_time",
    "Hips pass a third of the turn",
    unit="ms",
    kind="T",
    at="landing",
    view="3D",
    needs=HIPS,
    stops=("release",),
    text="When the hips pass 30 degrees for good, from landing.",
    formula="t(pelvis rotation passes 30 for good) - t(landing), ms",
    sign="- before landing",
    gauge="hip_line",
    curve="pelvis_rotation",
)
def pelvis_open_time(r: Reading) -> np.ndarray:
    return r.after_landing(r.passes(r.motion.pelvis_rotation(), 30.0))


@measure(
    "trunk_open_time",
    "Shoulders pass a third of the turn",
    unit="ms",
    kind="T",
    at="landing",
    view="3D",
    needs=SHOULDERS,
    stops=("release",),
    text="When the shoulders pass 30 degrees for good, from landing.",
    formula="t(trunk rotation passes 30 for good) - t(landing), ms",
    sign="- before landing",
    gauge="shoulder_line",
    curve="trunk_rotation",
)
def trunk_open_time(r: Reading) -> np.ndarray:
    return r.after_landing(r.passes(r.motion.trunk_rotation(), 30.0))
