"""Filling short gaps, choosing cut-offs, low-pass filtering and derivatives.

All functions take a leading batch axis: `(copies, frames, landmarks, 3)`. Copies share their missing frames.
After Winter, Biomechanics and Motor Control of Human Movement: zero-phase Butterworth, 4th order overall,
residual analysis for the cut-off. Every cut-off is the effective one after the two-pass correction.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import lru_cache

import numpy as np

from waxtwin.core import butterworth
from waxtwin.core.butterworth import Recursion
from waxtwin.core.landmarks import INDEX, LANDMARKS

TWO_PASS = 0.802
GAP_SECONDS = 0.050
_EDGE_SECONDS = 0.030
_GROUPS: Mapping[str, tuple[tuple[float, float], tuple[str, ...]]] = {
    "hips_head": ((8, 14), ("head", "nose", "navel", "drive_hip", "lead_hip")),
    "trunk_legs": (
        (10, 20),
        ("throwing_shoulder", "glove_shoulder", "glove_elbow", "drive_knee", "lead_knee", "drive_ankle",
         "lead_ankle", "drive_heel", "lead_heel", "drive_toe", "lead_toe"),
    ),
    "elbow": ((14, 30), ("throwing_elbow",)),
    "hand": ((20, 40), ("throwing_wrist", "throwing_hand", "glove_wrist", "glove_hand", "ball")),
}  # fmt: skip


def fill_gaps(points: np.ndarray, rate: float, seconds: float = GAP_SECONDS) -> np.ndarray:
    """Fill gaps of at most `seconds` in `(frames, landmarks, axes)`; longer ones stay NaN.

    A least-squares cubic over 30 ms on either side: an interpolating one overshoots through noisy edge frames.
    """
    out = points.copy()
    longest = round(seconds * rate)
    edge = max(round(_EDGE_SECONDS * rate), 3)
    for j in range(points.shape[1]):
        for axis in range(points.shape[2]):
            column = out[:, j, axis]
            missing = np.isnan(column)
            if not missing.any() or missing.all():
                continue
            for start, stop in list(runs(missing)):
                if start == 0 or stop == column.size or stop - start > longest:
                    continue
                near = np.r_[max(start - edge, 0) : start, stop : min(stop + edge, column.size)]
                near = near[~np.isnan(points[near, j, axis])]
                if near.size < 4:
                    continue
                column[start:stop] = _cubic(near, points[near, j, axis], np.arange(start, stop))
    return out


def _cubic(known: np.ndarray, values: np.ndarray, asked: np.ndarray) -> np.ndarray:
    """A least-squares cubic through values at frames that are known, at frames that are asked for."""
    middle, reach = (known[0] + known[-1]) / 2, (known[-1] - known[0]) / 2
    basis, wanted = (np.vander((frames - middle) / reach, 4) for frames in (known, asked))
    return np.asarray(wanted @ np.linalg.lstsq(basis, values, rcond=None)[0])


def low_pass(points: np.ndarray, rate: float, cutoffs: np.ndarray) -> np.ndarray:
    """Smoothed copy of `(copies, frames, landmarks, 3)` with an effective cut-off (Hz) per landmark."""
    out = np.empty_like(points)
    for cutoff in np.unique(cutoffs):
        members = np.flatnonzero(cutoffs == cutoff)
        out[:, :, members] = filtered(points[:, :, members], rate, float(cutoff))
    return out


@lru_cache(maxsize=256)
def _design(cutoff: float, rate: float) -> Recursion:
    # the two-pass correction holds for the analogue frequency, so it is made before the bilinear warp, not after
    corrected = rate / np.pi * np.arctan(np.tan(np.pi * min(cutoff, 0.45 * rate) / rate) / TWO_PASS)
    return butterworth.low_pass(float(corrected), rate)


def filtered(values: np.ndarray, rate: float, cutoff: float) -> np.ndarray:
    """Zero-phase low-pass along axis 1 of `(copies, frames, ...)`; stretches between gaps are filtered apart."""
    design = _design(cutoff, rate)
    flat = values.reshape(values.shape[0], values.shape[1], -1)
    present = ~np.isnan(flat[0])
    whole = present.all(axis=0)
    # lean on a pad of two periods, so that a clip's edge does not bend the motion
    pad = max(int(2 * rate / cutoff), 12)

    def both_ways(piece: np.ndarray) -> np.ndarray:
        edge = min(pad, piece.shape[1] - 1)
        return np.stack([design.there_and_back(one, edge) for one in piece])  # copy by copy: each lies in the cache

    if whole.all():
        return both_ways(flat).reshape(values.shape)
    out = np.full_like(flat, np.nan)
    if whole.any():
        out[..., whole] = both_ways(flat[..., whole])
    for j in np.flatnonzero(~whole & present.any(axis=0)):
        for start, stop in runs(present[:, j]):
            if stop - start >= 12:
                out[:, start:stop, j] = both_ways(flat[:, start:stop, j : j + 1])[..., 0]
    return out.reshape(values.shape)


def choose_cutoffs(points: np.ndarray, rate: float) -> np.ndarray:
    """Effective cut-off (Hz) per landmark `(landmarks,)` by residual analysis within each group's range.

    The lowest candidate whose worst 0.1 s residual is explained by the noise that is left above the highest one.
    """
    cutoffs = np.full(len(LANDMARKS), 10.0)
    for (low, high), names in _GROUPS.values():
        members = [INDEX[n] for n in names]
        high = min(high, rate / 4)
        candidates = np.geomspace(min(low, high), high, 5)
        present = [j for j in members if not np.isnan(points[:, j]).all()]
        cutoffs[members] = _lowest_sufficient(points[:, present], rate, candidates) if present else high
    return cutoffs


def _lowest_sufficient(points: np.ndarray, rate: float, candidates: np.ndarray) -> float:
    top = float(candidates[-1])
    sigma = noise_level(points, filtered(points[None], rate, top)[0], rate, np.full(points.shape[1], top))
    window = max(int(0.1 * rate), 3)
    floor = 0.0004**2  # 0.4 mm: below what any marker system resolves

    def sufficient(cutoff: float) -> bool:
        residual = np.nan_to_num(points - filtered(points[None], rate, cutoff)[0]) ** 2
        so_far = np.cumsum(residual, axis=0)
        so_far[window:] -= so_far[:-window].copy()
        worst = so_far[min(window, len(points)) - 1 :].max(axis=0) / window
        expected = sigma[:, None] ** 2 * (1 - 2 * cutoff / rate)
        return bool((worst <= 2.2 * expected + floor).all())

    # what one cut-off keeps, every higher one keeps too: halve the candidates instead of trying all
    low, high = 0, len(candidates) - 1
    while low < high:
        middle = (low + high) // 2
        if sufficient(float(candidates[middle])):
            high = middle
        else:
            low = middle + 1
    return float(candidates[low])


def noise_level(points: np.ndarray, smoothed: np.ndarray, rate: float, cutoffs: np.ndarray) -> np.ndarray:
    """White-noise standard deviation (m) per landmark of `(frames, landmarks, 3)` and its smoothed copy.

    From the residual above the cut-offs (landmarks,) Hz, by its median so that fast moments do not count as noise.
    """
    residual = np.abs(points - smoothed)
    sigma = np.zeros(points.shape[1])
    for j in range(points.shape[1]):
        seen = residual[:, j][~np.isnan(residual[:, j])]
        if seen.size:
            kept = np.clip(1 - 2 * cutoffs[j] / rate, 0.1, 1.0)
            sigma[j] = np.median(seen) / 0.6745 / np.sqrt(kept)
    return sigma


def derivative(values: np.ndarray, rate: float) -> np.ndarray:
    """Time derivative along axis 1 of `(copies, frames, ...)`, five-point central differences (order four).

    Two-point where a neighbour is missing or at the clip's ends. At least three frames.
    """
    out = np.empty_like(values)
    out[:, 1:-1] = (values[:, 2:] - values[:, :-2]) * (rate / 2)
    out[:, 0] = (values[:, 1] - values[:, 0]) * rate
    out[:, -1] = (values[:, -1] - values[:, -2]) * rate
    if values.shape[1] > 4:
        near = out[:, 2:-2]
        inner = near * (4 / 3) - (values[:, 4:] - values[:, :-4]) * (rate / 12)
        np.copyto(near, inner, where=~np.isnan(inner))
    return out


def runs(flags: np.ndarray) -> Iterator[tuple[int, int]]:
    """(start, stop) of every run of True in a vector."""
    edges = np.flatnonzero(np.diff(np.r_[False, flags, False]))
    yield from zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True)
