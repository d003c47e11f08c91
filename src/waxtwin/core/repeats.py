"""Frames that show the picture before them once more: a clip brought to a higher rate than it was taken at."""

from __future__ import annotations

import numpy as np

_REACH = 4  # frames on either side within which something must move; so many repeats in a row are seen
_LIVELY = 0.25  # share of a clip's strongest movement from which a stretch tells whether frames repeat
_STRONG = 97  # percentile that counts as strongest
_STANDS = 0.15  # share of the movement around below which a single frame repeats the one before
_HALF = 0.5  # the same in a rhythm: an encoder leaves something of a repeated picture, and many frames agree
_LONGEST = 10  # frames, the longest rhythm
_KEEPS = 0.9  # share of lively frames that must follow a rhythm
_FEWEST = 12  # lively frames from which a rhythm is believed


def repeated(change: np.ndarray) -> np.ndarray:
    """(frames,) whether each frame repeats the one before it, from how much it differs from it: `change` (frames,), of
    which the first counts for nothing.

    A frame repeats where it stands still while its neighbours on both sides move; nobody stops and goes on within two
    frames. Where such frames keep a rhythm (every other, two of five), it holds for still stretches too.
    """
    count = change.size
    if count < 2 * _REACH:
        return np.zeros(count, bool)
    padded = np.pad(np.r_[0.0, change[1:]], _REACH)
    windows = np.lib.stride_tricks.sliding_window_view(padded, _REACH)
    around = np.minimum(windows[:count].max(axis=1), windows[_REACH + 1 :].max(axis=1))
    lively = around > max(_LIVELY * float(np.percentile(change[1:], _STRONG)), 1e-6)
    share = padded[_REACH:-_REACH] / np.where(lively, around, 1.0)
    found = _rhythm(share, lively)
    if found is None:
        found = lively & (share < _STANDS)
    found[0] = False
    return found


def _rhythm(share: np.ndarray, lively: np.ndarray) -> np.ndarray | None:
    """(frames,) of the repeats by the shortest rhythm that lively frames keep; None where they keep none."""
    frames = np.flatnonzero(lively)
    if frames.size < _FEWEST:
        return None
    still = share[frames] < _HALF
    for period in range(2, _LONGEST + 1):
        repeats, seen = (np.bincount(one % period, minlength=period) for one in (frames[still], frames))
        beat = 2 * repeats > seen
        if beat.any() and (beat[frames % period] == still).mean() >= _KEEPS:
            return np.asarray(beat[np.arange(share.size) % period])
    return None
