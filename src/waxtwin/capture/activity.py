"""Bursts of motion in a long clip: where the throws are."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from waxtwin.capture.clip import ClipReader
from waxtwin.core.bursts import bursts
from waxtwin.core.steps import Steps

_LOOKS_PER_SECOND = 25.0
_WIDTH = 160


def find_bursts(clip: Path) -> Steps[list[tuple[float, float]]]:
    """The stretches (first, last) in seconds of the clip. Raises ClipError."""
    import cv2

    with ClipReader(clip) as reader:
        rate = reader.facts.rate or 30.0
        chosen = np.arange(0, reader.times.size, max(round(rate / _LOOKS_PER_SECOND), 1))
        height = max(round(_WIDTH * reader.size[1] / reader.size[0]), 16)
        before: np.ndarray | None = None
        activity = np.zeros(chosen.size)
        for n, i in enumerate(chosen):
            small = cv2.resize(reader.read(int(i)), (_WIDTH, height), interpolation=cv2.INTER_AREA)
            grey = cv2.cvtColor(small, cv2.COLOR_BGRA2GRAY).astype(np.float32)
            if before is not None:
                # a change of light moves every pixel alike; a body moves few of them much
                difference = grey - before
                activity[n] = float(np.abs(difference - np.median(difference)).mean())
            before = grey
            if n % 10 == 0:
                yield n / chosen.size
        return bursts(reader.times[chosen], activity)
