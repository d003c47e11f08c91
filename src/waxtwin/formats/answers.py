"""The JSON documents of the command line: a public contract, built from the core's results."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from math import isfinite
from typing import Any

from waxtwin.core.against_twins import Among, among
from waxtwin.core.analysis import SEQUENCE, Analysis
from waxtwin.core.before_after import changes, compensations
from waxtwin.core.borrowed import ARM, UNRESOLVED, Borrowed, Factor
from waxtwin.core.contrast import UNAVAILABLE, Contrast, Row
from waxtwin.core.explain import Explanation
from waxtwin.core.findings import Finding
from waxtwin.core.footing import footing
from waxtwin.core.ledger import LINKS
from waxtwin.core.measures import MEASURES
from waxtwin.core.remedies import helps
from waxtwin.core.rules import Evidence
from waxtwin.core.sets import Spread, ThrowSet
from waxtwin.core.telling import firmness
from waxtwin.core.twins import Candidate


def rounded(value: float | None, digits: int = 4) -> float | None:
    """A finite number, rounded, or null."""
    return None if value is None or not isfinite(value) else round(float(value), digits)


def events_document(file: str, analysis: Analysis) -> dict[str, Any]:
    """`waxtwin events`."""
    return {
        "file": file,
        "throws": analysis.delivery.throws,
        "events": _events(analysis),
        "withheld": _withheld(analysis),
        "warnings": list(analysis.warnings),
    }


def measure_document(file: str, throws: ThrowSet) -> dict[str, Any]:
    """`waxtwin measure`; of several throws the values are means, and `set` says how they scatter."""
    shown, values = throws.throws[throws.typical], throws.values()
    measures: dict[str, Any] = {}
    for item in MEASURES.values():
        value = values[item.id]
        measures[item.id] = {
            "value": rounded(value.value), "unit": item.unit, "sd": rounded(value.sd), "bias": rounded(value.bias),
            "kind": item.kind, "at": item.at, "planar": value.planar,
            "depth": value.depth, "available": value.available,
            "reason": value.reason,
        }  # fmt: skip
        if len(throws.throws) > 1:
            measures[item.id]["throws"] = _spread(throws.spreads.get(item.id))
    for name in SEQUENCE:
        value = shown.measures[name]
        measures[name] = {
            "value": None if value.order is None else list(value.order), "unit": "ms" if "lags" in name else None,
            "sd": None, "bias": None, "kind": "T", "at": "release", "planar": False, "depth": "measured",
            "available": value.available, "reason": value.reason,
        }  # fmt: skip
    return {
        "file": file,
        "throws": shown.delivery.throws,
        "landing": shown.landing,
        "set": _set(throws),
        "events": _events(shown),
        "withheld": _withheld(shown),
        "measures": measures,
        "warnings": list(shown.warnings),
    }


def _set(throws: ThrowSet) -> dict[str, Any] | None:
    """How many throws, which one is typical and which odd (counted from 0), and in what; null for a single throw."""
    if len(throws.throws) == 1:
        return None
    return {
        "count": len(throws.throws), "typical": throws.typical, "odd": throws.odd, "odd_in": list(throws.odd_in()),
        "ball_speeds_mps": [throw.delivery.ball_speed for throw in throws.throws],
    }  # fmt: skip


def _spread(spread: Spread | None) -> dict[str, Any] | None:
    if spread is None:
        return None
    return {
        "mean": rounded(spread.mean), "sd": rounded(spread.sd), "count": spread.count,
        "figures": [rounded(figure) for figure in spread.figures],
    }  # fmt: skip


def contrast_document(files: Sequence[str], pairs: Sequence[Contrast]) -> dict[str, Any]:
    """`waxtwin contrast`; with several twins `twins` and each row's `among` hold all of them, the rest the first."""
    pair = pairs[0]
    several = among(pairs) if len(pairs) > 1 else {}
    rows: list[dict[str, Any]] = [
        {
            "id": row.measure.id, "athlete": rounded(row.athlete), "twin": rounded(row.twin),
            "difference": rounded(row.difference), "resolution": rounded(row.resolution), "verdict": row.verdict,
            "small": row.small, "depth": row.depth,
            "band": None if row.band is None else [row.band.low, row.band.high], "unit": row.measure.unit,
            "kind": row.measure.kind, "at": row.measure.at, "planar": row.planar, "reason": row.reason,
            "throws": row.throws and {
                "athlete": _spread(row.throws.athlete), "twin": _spread(row.throws.twin), "agree": row.throws.agree,
                "of": row.throws.of,
            },
            "among": _among(several.get(row.measure.id)),
        }
        for row in pair.rows
    ]  # fmt: skip
    for name in SEQUENCE:
        a, b = pair.athlete.measures[name].order, pair.twin.measures[name].order
        rows.append({
            "id": name, "athlete": a and list(a), "twin": b and list(b), "difference": None, "resolution": None,
            "verdict": "level" if a is not None and a == b else UNAVAILABLE, "small": False, "depth": "measured",
            "band": None, "unit": "ms" if "lags" in name else None, "kind": "T", "at": "release", "planar": False,
            "reason": None if a is not None and a == b else "a list has no size to subtract",
        })  # fmt: skip
    return {
        "athlete": _side(files[0], pair.athlete),
        "twin": _side(files[1], pair.twin),
        "twins": [_side(file, one.twin) for file, one in zip(files[1:], pairs, strict=True)],
        "landing": pair.athlete.landing,
        "footing": asdict(footing(pair)),
        "sets": pair.sets and {side: _set(s) for side, s in zip(("athlete", "twin"), pair.sets, strict=True)},
        "rows": rows,
    }


def _among(found: Among | None) -> dict[str, Any] | None:
    """One measure among several twins."""
    if found is None:
        return None
    return {
        "figures": [rounded(figure) for figure in found.figures],
        "low": rounded(found.low), "high": rounded(found.high), "short": found.short, "beyond": found.beyond,
        "level": found.level, "untold": found.untold, "verdict": found.verdict,
    }  # fmt: skip


def explain_document(
    files: tuple[str, str], found: Explanation, support: Mapping[str, int] | None = None, twins: int = 1
) -> dict[str, Any]:
    """`waxtwin explain`: ledger, borrowed motion, findings, cautions, and the account in words.

    `support` {finding: how many of the `twins` bear it out} where there are several.
    """
    pair, account, borrowed = found.case.contrast, found.case.ledger, found.case.borrowed
    speeds = pair.ball_speeds
    balls = {"athlete": pair.athlete.delivery.ball_speed, "twin": pair.twin.delivery.ball_speed, "gap": None}
    if speeds is not None:
        balls = {"athlete": speeds[0], "twin": speeds[1], "gap": speeds[1] - speeds[0]}
    document: dict[str, Any] = {
        "athlete": _side(files[0], pair.athlete),
        "twin": _side(files[1], pair.twin),
        "sets": pair.sets and {side: _set(s) for side, s in zip(("athlete", "twin"), pair.sets, strict=True)},
        "basis": None, "ball_speed": balls, "links": [], "break": None,
        "sentence": "A speed along the chain is missing on one side, so the gap cannot be shared out.",
    }  # fmt: skip
    if account is not None:
        explained = {"athlete": account.athlete, "twin": account.twin, "gap": account.gap}
        document |= {
            "basis": account.basis,
            "ball_speed": explained if account.basis == "ball" else balls,
            "hand_speed": None if account.basis == "ball" else explained,
            "links": [
                {"id": link.id, "label": LINKS[link.id], "contribution": link.contribution,
                 "resolution": rounded(link.resolution), "ratio": rounded(link.ratio)}
                for link in account.links
            ],
            "break": account.broken_at,
            "sentence": account.sentence,
        }  # fmt: skip
    view = found.perspective
    return document | {
        "factors": [] if borrowed is None else [_factor(one, borrowed) for one in borrowed.factors],
        "factors_reason": found.unborrowed or None,
        "factors_warnings": [] if borrowed is None else list(borrowed.warnings),
        "school": {"id": view.school.id, "label": view.school.label},
        "schools": [{"id": one.id, "label": one.label} for one in view.schools],
        "findings": [
            _finding(one) | ({} if support is None else {"twins": support.get(one.id, 0), "of_twins": twins})
            for one in found.judgement.findings
        ],
        "by_eye": [{"title": title, "seen": list(seen)} for title, seen in found.judgement.by_eye.items()],
        "good": [{"finding": name, "text": text} for name, text in found.judgement.good.items()],
        "ahead": list(found.judgement.ahead),
        "questions": {
            "told": list(found.judgement.told),
            "open": [_open(asks, rows, pair) for asks, rows in found.judgement.open.items()],
        },
        "style": [{"text": text, "measure": row.measure.id} for text, row in found.judgement.style],
        "past": _past(found) if pair.athlete.delivery.name == pair.twin.delivery.name else None,
        "text": found.in_words(),
        "cautions": list(found.cautions),
    }


def _past(found: Explanation) -> dict[str, Any]:
    """One athlete before (twin) and now (athlete): what changed, and what is looked for on a return."""
    states = {one.row.measure.id: one.state for one in changes(found.case.contrast)}
    return {
        "changes": states,
        "compensations": [
            {"title": one.title, "says": one.says, "present": one.present, **_evidence(one.evidence)}
            for one in compensations(found.case, found.perspective.playbook)
        ],
    }


def twins_document(file: str, found: Sequence[Candidate]) -> dict[str, Any]:
    """`waxtwin twins`: candidates, best first, own throws last."""
    return {
        "file": file,
        "twins": [
            {
                "id": one.profile.key, "name": one.profile.name, "score": rounded(one.score), "own": one.own,
                "closeness": {name: rounded(close) for name, close in one.closeness.items()},
                "reasons": list(one.reasons), "warnings": list(one.warnings), "throws": one.profile.throws,
                "height_m": one.profile.height, "ball_speed_mps": one.profile.ball_speed, "pitch": one.profile.pitch,
                "recorded": one.profile.recorded,
            }
            for one in found
        ],
    }  # fmt: skip


def _factor(factor: Factor, account: Borrowed) -> dict[str, Any]:
    """A bar of the account; the arm's two parts stand under it. What is known only together carries its members' ids,
    what is not even known together is `unresolved` with its ids.
    """
    merged = bool(factor.parts) and factor.id != ARM
    together = merged and (factor.id != UNRESOLVED or factor.resolved)
    document: dict[str, Any] = {
        "id": "+".join(factor.parts) if together else factor.id, "label": factor.label,
        "contribution": factor.contribution,
        "low": factor.low, "high": factor.high, "sd": rounded(factor.sd), "resolved": factor.resolved,
    }  # fmt: skip
    if merged:
        document["ids"] = list(factor.parts)
    elif factor.parts:
        document["parts"] = [_factor(account.singles[name], account) for name in factor.parts]
    return document


def _finding(finding: Finding) -> dict[str, Any]:
    rule = finding.rule
    amounts = (finding.share, finding.carries, finding.least, finding.most)
    share, carries, least, most = map(rounded, amounts if finding.weighed else (None,) * 4)
    return {
        "id": finding.id, "title": rule.title, "at": rule.at, "link": rule.link, "factors": list(rule.factors),
        "kind": rule.kind, "says": rule.plain, "evidence": [_evidence(one) for one in finding.proof],
        "against": [_evidence(one) for one in finding.against], "share": share,
        "carries": carries, "carries_low": least, "carries_high": most, "stands": firmness(finding),
        "rank": rounded(finding.rank), "focus": finding.in_focus, "acts": finding.acts,
        "schools": list(finding.acting), "reason": finding.reason or None, "style": rule.style or None,
        "body": list(finding.body), "caused_by": list(finding.caused_by), "leads_to": list(finding.leads_to),
        "caution": rule.caution or None, "tasks": list(rule.tasks), "set_aside": finding.set_aside,
        "seen_by_eye": list(finding.seen), "seen_against": list(finding.seen_against),
    }  # fmt: skip


def _evidence(evidence: Evidence) -> dict[str, Any]:
    line, row = evidence.line, evidence.row
    document: dict[str, Any] = {line.kind: line.subject, "stands": line.word, "text": evidence.sentence}
    if row is not None:
        document |= {
            "athlete": rounded(row.athlete), "twin": rounded(row.twin), "difference": rounded(row.difference),
            "resolution": rounded(row.resolution), "unit": row.measure.unit, "verdict": row.verdict,
        }  # fmt: skip
    return document


def _open(asks: str, rows: Sequence[Row], pair: Contrast) -> dict[str, Any]:
    """A question that the footage leaves open: what it hangs on, what a difference must exceed, what helps."""
    return {
        "asks": asks,
        "measures": [
            {"id": row.measure.id, "verdict": row.verdict, "exceeds": rounded(row.resolution)} for row in rows
        ],
        "helps": list(dict.fromkeys(one.words for row in rows for one in helps(row, pair))),
    }


def _withheld(analysis: Analysis) -> dict[str, Any]:
    """Stops that were found and are not used."""
    return {
        name: {"time": rounded(one.event.time), "interval_ms": rounded(one.event.interval, 2), "why": one.why}
        for name, one in analysis.withheld.items()
    }


def _events(analysis: Analysis) -> dict[str, Any]:
    motion = analysis.motion
    return {
        event.id: {
            "time": rounded(event.time), "frame": rounded((event.time - motion.times[0]) * motion.rate, 2),
            "source": event.source, "confidence": rounded(event.confidence, 3),
            "interval_ms": rounded(event.interval, 2),
        }
        for event in analysis.events.values()
    }  # fmt: skip


def _side(file: str, analysis: Analysis) -> dict[str, Any]:
    return {
        "file": file,
        "name": analysis.delivery.name,
        "throws": analysis.delivery.throws,
        "height_m": rounded(analysis.motion.height),
        "ball_speed_mps": analysis.delivery.ball_speed,
        "events": _events(analysis),
        "withheld": _withheld(analysis),
        "warnings": list(analysis.warnings),
    }
