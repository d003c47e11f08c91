"""The cautions that the program always carries. No school and no setting hides them."""

from __future__ import annotations

from datetime import date
from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    from waxtwin.core.contrast import Row

CAUTIONS = (
    "Video measures suggest; they do not diagnose.",
    "Pain or loss of range means stop and see a licensed clinician.",
    "Return to throwing follows the treating clinician's plan; pitch counts and rest days follow the local league.",
    "A delivery that works for one elite body may be wrong for another.",
)
_GROWN = 18  # years
# Arm positions that load the arm, by the athlete's own figure: measure, word, limit (the edge of its band).
_POSITIONS = (
    ("landing_elbow_height", "above", 10.0,
     "The elbow is above the shoulder line at landing, while the trunk begins to turn: this loads shoulder and elbow."),
    ("release_elbow_height", "above", 10.0,
     "The elbow is above the shoulder line at release: this loads the elbow."),
    ("landing_horizontal_adduction", "below", -35.0,
     "The elbow trails far behind the shoulders at landing: this loads the front of the shoulder."),
    ("layback_elbow_lag", "below", -20.0,
     "The elbow still trails behind the shoulders at layback: this loads the front of the shoulder."),
)  # fmt: skip


class Rows(Protocol):
    """Rows with an athlete's own figures: a contrast's, or those of a delivery on its own."""

    @property
    def rows(self) -> tuple[Row, ...]: ...


def cautions_for(pair: Rows, born: str | None = None, today: date | None = None, pain: str = "") -> list[str]:
    """What has to be said about this athlete, most pressing first, then the usual cautions.

    `born` is an ISO date; `pain` what the athlete reported.
    """
    said = []
    if pain.strip():
        said.append(
            f"Pain was reported ({' '.join(pain.split())[:120]}): no throwing on the strength of this program. "
            "See a licensed clinician first, and follow that plan."
        )
    said += position_cautions(pair).values()
    if is_minor(born, today or date.today()):
        said.append(
            "A growing athlete: growth plates may still be open. Keep to the league's limits for the age, "
            "and involve guardians."
        )
    return [*said, *CAUTIONS]


def position_cautions(pair: Rows) -> dict[str, str]:
    """What has to be said about the athlete's arm positions, by measure."""
    rows = {row.measure.id: row for row in pair.rows}
    return {
        measure: f"{words} Have it looked at by a qualified coach."
        for measure, word, limit, words in _POSITIONS
        if not rows[measure].planar and _beyond(rows[measure], word, limit)
    }


def _beyond(row: Row, word: str, limit: float) -> bool:
    if row.athlete is None:
        return False
    return row.athlete > limit if word == "above" else row.athlete < limit


def is_minor(born: str | None, today: date) -> bool | None:
    """Whether somebody born on an ISO date is under age today; None when the date is not known."""
    try:
        birth = date.fromisoformat(born or "")
    except ValueError:
        return None
    return (today.year - birth.year) - ((today.month, today.day) < (birth.month, birth.day)) < _GROWN
