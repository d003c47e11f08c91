"""Shapley values: a gain shared over its causes, fairly over every order in which they come in (Shapley 1953)."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache
from math import factorial

import numpy as np


@cache
def _orders(count: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """For each factor the subsets without it, those with it, and their Shapley weights, each `(count, 2^(count-1))`."""
    subsets = np.arange(2**count)
    sizes = np.array([bin(s).count("1") for s in subsets])
    without, with_, weights = [], [], []
    for i in range(count):
        bit = 1 << (count - 1 - i)  # the first factor is the first axis of the array
        rest = subsets[(subsets & bit) == 0]
        without.append(rest)
        with_.append(rest | bit)
        weights.append([factorial(s) * factorial(count - s - 1) / factorial(count) for s in sizes[rest]])
    return np.array(without), np.array(with_), np.array(weights)


def shapley(values: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Shares `(copies, factors)` of the step from nobody to everybody, and the least and largest over all orders.

    `values` `(copies, 2, 2, ..)` with an axis per factor. The shares sum to the step exactly (Shapley 1953).
    """
    count = values.ndim - 1
    flat = values.reshape(values.shape[0], -1)
    without, with_, weights = _orders(count)
    marginal = flat[:, with_] - flat[:, without]
    return (marginal * weights).sum(axis=2), marginal.min(axis=2), marginal.max(axis=2)


def joint_marginals(values: np.ndarray, members: Sequence[int]) -> tuple[np.ndarray, np.ndarray]:
    """Least and largest step, `(copies,)`, when several factors are borrowed at once, over everything else."""
    moved = np.moveaxis(values, [m + 1 for m in members], range(1, len(members) + 1))
    together = moved.reshape(values.shape[0], 2 ** len(members), -1)
    step = together[:, -1] - together[:, 0]
    return step.min(axis=1), step.max(axis=1)
