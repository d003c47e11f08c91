"""What a session's log holds: its throws and what each device said about them, as JSON."""

from __future__ import annotations

from typing import Any

from waxtwin.core.readings import LiveThrow, Reading

ARM_SENSOR = "arm sensor"  # a run of the log that holds what a sensor on the arm said, and no throws of its own


def throw_document(throw: LiveThrow, key: int | None) -> dict[str, Any]:
    """A logged throw as JSON."""
    return {
        "at": round(throw.at, 3),
        "delivery": key,
        "readings": [reading_document(one) for one in throw.readings.values()],
    }


def reading_document(one: Reading) -> dict[str, Any]:
    """What a device said as JSON."""
    value = None if one.value is None else round(one.value, 3)
    return {"device": one.device, "at": round(one.at, 3), "state": one.state, "value": value, "note": one.note}
