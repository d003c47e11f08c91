"""What somebody says about an athlete's findings, body and target, kept with a throw as one change each."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from waxtwin.library.judging import RULINGS
from waxtwin.library.store import Library
from waxtwin.library.throws import delivery_row


def keep_screening(library: Library, key: int, document: Mapping[str, Any], label: str) -> None:
    """Keep an athlete's screening with a throw, as one change."""
    with library.change(label) as session:
        row = delivery_row(session, key)
        row.screening = dict(document)


def rule_finding(library: Library, key: int, finding: str, ruling: str, label: str, reason: str = "") -> None:
    """Accept a finding into the focus, set it aside with a reason, or take a ruling back ("open"), as one change."""
    with library.change(label) as session:
        row = delivery_row(session, key)
        said = dict(row.extra.get(RULINGS) or {})
        accepted = [name for name in said.get("accepted", []) if name != finding]
        aside = {name: why for name, why in said.get("set_aside", {}).items() if name != finding}
        if ruling == "accept":
            accepted.append(finding)
        elif ruling == "set aside":
            aside[finding] = reason
        row.extra = {**row.extra, RULINGS: {"accepted": accepted, "set_aside": aside}}


def keep_target(library: Library, key: int, shares: Mapping[str, float], speed: float) -> None:
    """Keep what was chosen under what-if: shares of the twin's motion, and the speed (m/s) that they would give."""
    with library.change("Keep a target") as session:
        row = delivery_row(session, key)
        row.extra = {**row.extra, "target": {"shares": dict(shares), "speed_mps": round(speed, 3)}}
