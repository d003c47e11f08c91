"""Second-order recursive filters: the Butterworth low-pass, there and back, and what forgets exponentially.

The figures are those of SciPy's own filters, whose module brings its statistics along: over a second before the first
figures, at every start. A recursion is worked off in blocks of frames, each one product of matrices.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

_BLOCK = 64  # frames
_PAST = 2  # frames before a block that it hangs on


@dataclass(frozen=True, eq=False)
class Recursion:
    """y[n] = b0 x[n] + b1 x[n-1] + b2 x[n-2] - a1 y[n-1] - a2 y[n-2], a block of frames at a time: `fed` `(frames,
    frames + 2)` is what a block takes from x, `carried` `(frames, 2)` what it takes from y before it.
    """

    fed: np.ndarray
    carried: np.ndarray

    @classmethod
    def of(cls, b: tuple[float, float, float], a: tuple[float, float]) -> Recursion:
        """The filter with these coefficients."""
        feed = sum(b[k] * np.eye(_BLOCK, _BLOCK + _PAST, k=_PAST - k) for k in range(_PAST + 1))
        solved = np.linalg.inv(np.eye(_BLOCK) + a[0] * np.eye(_BLOCK, k=-1) + a[1] * np.eye(_BLOCK, k=-2))
        return cls(solved @ feed, solved[:, :_PAST] @ np.array([[-a[1], -a[0]], [0.0, -a[1]]]))

    def from_rest(self, values: np.ndarray) -> np.ndarray:
        """`(frames, columns)` filtered, with nothing before the first frame."""
        x = np.concatenate([np.zeros((_PAST, values.shape[1])), values])
        y = np.zeros_like(x)
        for start in range(_PAST, len(x), _BLOCK):
            count = min(_BLOCK, len(x) - start)
            past = slice(start - _PAST, start)
            y[start : start + count] = (
                self.fed[:count, : count + _PAST] @ x[start - _PAST : start + count] + self.carried[:count] @ y[past]
            )
        return y[_PAST:]

    def there_and_back(self, values: np.ndarray, pad: int) -> np.ndarray:
        """`(frames, columns)` filtered forwards and backwards by a filter that keeps what stands still: no delay.

        Both ends go on, turned over, for `pad` frames, fewer than there are, and stand still beyond.
        """
        first, last = values[:1], values[-1:]
        padded = np.concatenate([2 * first - values[pad:0:-1], values, 2 * last - values[-2 : -pad - 2 : -1]])
        back = self._settled(self._settled(padded)[::-1])[::-1]
        return back[pad : len(back) - pad]

    def _settled(self, values: np.ndarray) -> np.ndarray:
        """As if the first frame had stood for ever."""
        return np.asarray(values[:1] + self.from_rest(values - values[:1]))


def low_pass(cutoff: float, rate: float) -> Recursion:
    """The second-order Butterworth filter that halves the power at `cutoff` Hz, by the bilinear transform (Winter)."""
    warped = np.tan(np.pi * cutoff / rate)
    scale = 1.0 / (1.0 + np.sqrt(2.0) * warped + warped**2)
    b = float(warped**2 * scale)
    return Recursion.of(
        (b, 2 * b, b), (float(2 * (warped**2 - 1) * scale), float((1 - np.sqrt(2.0) * warped + warped**2) * scale))
    )


def forgetting(keep: float) -> Recursion:
    """What keeps a share of itself from frame to frame: y[n] = x[n] + keep y[n-1]."""
    return Recursion.of((1.0, 0.0, 0.0), (-keep, 0.0))
