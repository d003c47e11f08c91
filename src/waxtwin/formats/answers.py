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


def measure_document(file: str, analysis: Analysis) -> dict[str, Any]:
    """`waxtwin measure`."""
    measures: dict[str, Any] = {}
    for item in MEASURES.values():
        value = analysis.measures[item.id]
        measures[item.id] = {
            "value": rounded(value.value), "unit": item.unit, "sd": rounded(value.sd), "bias": rounded(value.bias),
            "kind": item.kind, "at": item.at, "planar": value.planar, "available": value.available,
            "reason": value.reason,
        }  # fmt: skip
    for name in SEQUENCE:
        value = analysis.measures[name]
        measures[name] = {
            "value": None if value.order is None else list(value.order), "unit": "ms" if "lags" in name else None,
            "sd": None, "bias": None, "kind": "T", "at": "release", "planar": False, "available": value.available,
            "reason": value.reason,
        }  # fmt: skip
    return {
        "file": file,
        "throws": analysis.delivery.throws,
        "landing": analysis.landing,
        "events": _events(analysis),
        "measures": measures,
        "warnings": list(analysis.warnings),
    }


def contrast_document(files: tuple[str, str], pair: Contrast) -> dict[str, Any]:
    """`waxtwin contrast`."""
    rows: list[dict[str, Any]] = [
        {
            "id": row.measure.id, "athlete": rounded(row.athlete), "twin": rounded(row.twin),
            "difference": rounded(row.difference), "resolution": rounded(row.resolution), "verdict": row.verdict,
            "band": None if row.band is None else [row.band.low, row.band.high], "unit": row.measure.unit,
            "kind": row.measure.kind, "at": row.measure.at, "planar": row.planar, "reason": row.reason,
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
