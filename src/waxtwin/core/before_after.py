"""One athlete before and now: what changed, what did not, what this footage cannot say; and what to look for on return.

A change counts only when it is resolved. It is called unchanged only when both are known to be alike.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from waxtwin.core.contrast import BEYOND, LEVEL, SHORT, UNTOLD, Contrast, Row
from waxtwin.core.findings import Playbook
from waxtwin.core.rules import Case, Evidence

CHANGED, UNCHANGED, UNRESOLVABLE = "changed", "unchanged", "cannot be told"
STATES: Mapping[str, str] = {SHORT: CHANGED, BEYOND: CHANGED, LEVEL: UNCHANGED, UNTOLD: UNRESOLVABLE}


@dataclass(frozen=True, slots=True)
class Change:
    """One measure before and now: `state` CHANGED, UNCHANGED or UNRESOLVABLE; None where it is not available."""

    row: Row
    state: str | None


def change_of(row: Row) -> str | None:
    """Whether a measure changed between before (the twin's side) and now (the athlete's)."""
    if row.difference is None or row.resolution is None:
        return None
    return STATES[row.verdict]


def changes(pair: Contrast) -> tuple[Change, ...]:
    """Every measure of a pair of one athlete's throws."""
    return tuple(Change(row, change_of(row)) for row in pair.rows)


@dataclass(frozen=True, slots=True)
class Check:
    """A compensation that is looked for after a lay-off or injury: `present` True, False, or None (cannot be told)."""

    title: str
    says: str
    present: bool | None
    evidence: Evidence


def compensations(case: Case, playbook: Playbook) -> tuple[Check, ...]:
    """The check list of a return: looked for during the return, not after it, and never instead of a clinician."""
    found = []
    for one in playbook.compensations:
        evidence = one.line.ask(case)
        row = evidence.row
        seen = evidence.holds
        if not seen and row is not None and row.resolution is not None and row.resolution > one.line.size:
            seen = None  # what is looked for is smaller than what is resolved
        found.append(Check(one.title, one.says, seen, evidence))
    return tuple(found)
