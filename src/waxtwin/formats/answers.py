"""The JSON documents of the command line: a public contract, built from the core's results."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from waxtwin.core.analysis import SEQUENCE, Analysis
from waxtwin.core.cautions import CAUTIONS
from waxtwin.core.contrast import UNAVAILABLE, Contrast
from waxtwin.core.footing import footing
from waxtwin.core.ledger import LINKS, Ledger
from waxtwin.core.measures import MEASURES
from waxtwin.core.sets import Spread, ThrowSet


def rounded(value: float | None, digits: int = 4) -> float | None:
    """A finite number, rounded, or null."""
    return None if value is None or value != value else round(float(value), digits)


def events_document(file: str, analysis: Analysis) -> dict[str, Any]:
    """`waxtwin events`."""
    return {
        "file": file,
        "throws": analysis.delivery.throws,
        "events": _events(analysis),
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
            "kind": item.kind, "at": item.at, "planar": value.planar, "available": value.available,
            "reason": value.reason,
        }  # fmt: skip
        if len(throws.throws) > 1:
            measures[item.id]["throws"] = _spread(throws.spreads.get(item.id))
    for name in SEQUENCE:
        value = shown.measures[name]
        measures[name] = {
            "value": None if value.order is None else list(value.order), "unit": "ms" if "lags" in name else None,
            "sd": None, "bias": None, "kind": "T", "at": "release", "planar": False, "available": value.available,
            "reason": value.reason,
        }  # fmt: skip
    return {
        "file": file,
        "throws": shown.delivery.throws,
        "landing": shown.landing,
        "set": _set(throws),
        "events": _events(shown),
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


def contrast_document(files: tuple[str, str], pair: Contrast) -> dict[str, Any]:
    """`waxtwin contrast`."""
    rows: list[dict[str, Any]] = [
        {
            "id": row.measure.id, "athlete": rounded(row.athlete), "twin": rounded(row.twin),
            "difference": rounded(row.difference), "resolution": rounded(row.resolution), "verdict": row.verdict,
            "band": None if row.band is None else [row.band.low, row.band.high], "unit": row.measure.unit,
            "kind": row.measure.kind, "at": row.measure.at, "planar": row.planar, "reason": row.reason,
            "throws": row.throws and {
                "athlete": _spread(row.throws.athlete), "twin": _spread(row.throws.twin), "agree": row.throws.agree,
                "of": row.throws.of,
            },
        }
        for row in pair.rows
    ]  # fmt: skip
    for name in SEQUENCE:
        a, b = pair.athlete.measures[name].order, pair.twin.measures[name].order
        rows.append({
            "id": name, "athlete": a and list(a), "twin": b and list(b), "difference": None, "resolution": None,
            "verdict": "level" if a is not None and a == b else UNAVAILABLE, "band": None,
            "unit": "ms" if "lags" in name else None, "kind": "T", "at": "release", "planar": False,
            "reason": None if a is not None and a == b else "a list has no size to subtract",
        })  # fmt: skip
    return {
        "athlete": _side(files[0], pair.athlete),
        "twin": _side(files[1], pair.twin),
        "landing": pair.athlete.landing,
        "footing": asdict(footing(pair)),
        "sets": pair.sets and {side: _set(s) for side, s in zip(("athlete", "twin"), pair.sets, strict=True)},
        "rows": rows,
    }


def explain_document(files: tuple[str, str], pair: Contrast, account: Ledger | None) -> dict[str, Any]:
    """`waxtwin explain`; the factors and findings lists are empty until their parts of the account exist."""
    balls = {"athlete": pair.athlete.delivery.ball_speed, "twin": pair.twin.delivery.ball_speed}
    document: dict[str, Any] = {
        "athlete": _side(files[0], pair.athlete),
        "twin": _side(files[1], pair.twin),
        "basis": None, "ball_speed": {**balls, "gap": None}, "links": [], "break": None,
        "sentence": "A speed along the chain is missing on one side, so the gap cannot be shared out.",
        "factors": [], "findings": [], "cautions": list(CAUTIONS),
    }  # fmt: skip
    if account is None:
        return document
    speeds = {"athlete": account.athlete, "twin": account.twin, "gap": account.gap}
    document |= {
        "basis": account.basis,
        "ball_speed": speeds if account.basis == "ball" else {**balls, "gap": None},
        "hand_speed": None if account.basis == "ball" else speeds,
        "links": [
            {"id": link.id, "label": LINKS[link.id], "contribution": link.contribution,
             "resolution": rounded(link.resolution), "ratio": rounded(link.ratio)}
            for link in account.links
        ],
        "break": account.broken_at,
        "sentence": account.sentence,
    }  # fmt: skip
    return document


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
        "warnings": list(analysis.warnings),
    }
