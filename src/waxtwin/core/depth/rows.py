"""Rows of a least-squares problem over a body's joints: what a term says, and how it changes with every joint."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np

from waxtwin.core.depth.skeleton import COUNT, KIND_NAMES

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix


@dataclass
class Rows:
    """Residuals in standard deviations, gathered term by term, with their slopes on joints and on segment lengths."""

    frames: int
    _off: list[np.ndarray] = field(default_factory=list)
    _at: list[np.ndarray] = field(default_factory=list)
    _slope: list[np.ndarray] = field(default_factory=list)
    _row: list[np.ndarray] = field(default_factory=list)
    _length_row: list[np.ndarray] = field(default_factory=list)
    _length_kind: list[np.ndarray] = field(default_factory=list)
    _length_slope: list[np.ndarray] = field(default_factory=list)
    count: int = 0

    def add(
        self, frame: np.ndarray, off: np.ndarray, joints: np.ndarray, slope: np.ndarray, sd: np.ndarray | float,
        kind: int | None = None, per_length: np.ndarray | float = 0.0,
    ) -> None:  # fmt: skip
        """Rows for the frames `frame` (n,): `off` (n,) from what is wanted, with standard deviation `sd`; `slope`
        (n, k, 3) is how `off` changes with the `joints` (k,), `per_length` with the length of a `kind` of segment.
        """
        if not frame.size:
            return
        per = 1.0 / np.broadcast_to(np.asarray(sd, float), off.shape)
        rows = self.count + np.arange(off.size)
        columns = (frame[:, None, None] * COUNT + joints[None, :, None]) * 3 + np.arange(3)
        self._off.append(off * per)
        self._at.append(columns.ravel())
        self._slope.append((slope * per[:, None, None]).ravel())
        self._row.append(np.repeat(rows, joints.size * 3))
        if kind is not None:
            self._length_row.append(rows)
            self._length_kind.append(np.full(off.size, kind))
            self._length_slope.append(np.broadcast_to(per_length, off.shape) * per)
        self.count += off.size

    @property
    def residuals(self) -> np.ndarray:
        """(rows,) in standard deviations."""
        return np.concatenate(self._off)

    def slopes(self) -> csr_matrix:
        """(rows, frames x joints x 3)."""
        from scipy.sparse import csr_matrix

        shape = (self.count, self.frames * COUNT * 3)
        return csr_matrix((np.concatenate(self._slope), (np.concatenate(self._row), np.concatenate(self._at))), shape)

    def length_slopes(self) -> csr_matrix:
        """(rows, kinds of segments)."""
        from scipy.sparse import csr_matrix

        data, row, kind = (np.concatenate(part) for part in (self._length_slope, self._length_row, self._length_kind))
        return csr_matrix((data, (row, kind)), (self.count, len(KIND_NAMES)))
