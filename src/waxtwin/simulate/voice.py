"""A made-up voice: tones that come and go like speech, with the pauses of somebody who thinks. Nobody said it."""

from __future__ import annotations

from functools import cache

import numpy as np

_SYLLABLE = 0.21  # s
_PHRASES = ((1.9, 0.35), (1.4, 1.1), (2.3, 0.4), (1.2, 1.3))  # s of a voice, s of silence
_PITCHES = (132.0, 148.0, 118.0, 141.0, 126.0)  # Hz
_LEVEL = 0.11


def made_up_voice(seconds: float, rate: int, start: float = 0.0) -> np.ndarray:
    """What it says from `start` on `(n,)`, -1 to 1, `rate` samples a second; one instant always sounds the same."""
    said = _round(rate)
    return said[np.arange(round(start * rate), round((start + seconds) * rate)) % len(said)]


@cache
def _round(rate: int) -> np.ndarray:
    """All it can say; it ends in silence, and begins again."""
    t = np.arange(round(float(np.sum(_PHRASES)) * rate)) / rate
    syllable = np.floor(t / _SYLLABLE).astype(int)
    pitch = np.array(_PITCHES)[syllable % len(_PITCHES)]
    within = t / _SYLLABLE - syllable
    phase = 2 * np.pi * pitch * (t - syllable * _SYLLABLE)
    tone = sum(np.sin(k * phase) / k for k in (1, 2, 3, 5))
    edges = np.cumsum(_PHRASES)  # ends of voices and silences by turns
    speaks = np.searchsorted(edges, t, side="right") % 2 == 0
    return np.asarray(_LEVEL * tone * np.sin(np.pi * within) ** 1.5 * speaks, np.float32)
