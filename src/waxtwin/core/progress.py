"""How an athlete gets on, in words: targets, shifts, and the three questions of the log. Knows no Qt."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from waxtwin.core.arm_sensor import ArmReading, by_day, kind_said, latest_kind
from waxtwin.core.before_after import CHANGED, UNCHANGED
from waxtwin.core.measures import MEASURES
from waxtwin.core.plan import SOURCES, Plan, Target, unit_of
from waxtwin.core.trend import SPEED, ArmNote, Outcome, Shift, said_state
from waxtwin.core.units import figure

YES, NO, OPEN = "yes", "no", "open"
_SIGNS = {YES: "●", NO: "▲", OPEN: "○"}


@dataclass(frozen=True, slots=True)
class Answer:
    """A question, how it is answered (`tone` YES, NO or OPEN), the answer in few words, and what it rests on."""

    question: str
    tone: str
    says: str
    because: tuple[str, ...]

    @property
    def signed(self) -> str:
        """The answer behind a sign that stands for its colour."""
        return f"{_SIGNS[self.tone]}  {self.says}"


def day(said: str | None, *, year: bool = False) -> str:
    """An ISO day as people say it: “14 Nov”."""
    try:
        when = date.fromisoformat(said or "")
    except ValueError:
        return said or "no date"
    return f"{when.day} {when:%b %Y}" if year else f"{when.day} {when:%b}"


def label_of(measure: str) -> str:
    """A measure's name; ball speed is one here."""
    return "Ball speed" if measure == SPEED else MEASURES[measure].label


def unit_of_measure(measure: str) -> str:
    """A measure's unit; ball speed is in m/s."""
    return "m/s" if measure == SPEED else MEASURES[measure].unit


def told_target(target: Target, imperial: bool) -> str:
    """From where to where, and why there: “from 14° to 8° (the twin's figure)”."""
    unit = unit_of(target)
    start = "" if target.start is None else f"from {figure(target.start, unit, imperial)} "
    return f"{start}to {figure(target.aim, unit, imperial)} ({SOURCES[target.source]})"


def told_shift(found: Shift, unit: str, imperial: bool) -> str:
    """What changed between two sessions, with what is resolved."""
    before, after = figure(found.before.value, unit, imperial), figure(found.after.value, unit, imperial)
    size = figure(found.difference, unit, imperial, signed=True)
    resolved = "" if found.resolution is None else f", margin ± {figure(found.resolution, unit, imperial)}"
    return f"{before} on {day(found.before.date)}, {after} on {day(found.after.date)}: {size}{resolved}"


def answers(found: Outcome, imperial: bool) -> tuple[Answer, Answer, Answer]:
    """Did it move, did the speed move, did the arm stay well."""
    return _moved(found, imperial), _speed(found, imperial), _arm(found)


def _moved(found: Outcome, imperial: bool) -> Answer:
    question = "Did it move?"
    lines, states = [], []
    for (focus, moved), toward in zip(found.moved, found.toward, strict=True):
        if focus.target is None:
            lines.append(f"{focus.title}: no target was set.")
            continue
        if moved is None:
            lines.append(f"{focus.title}: nothing to compare yet.")
            continue
        states.append((moved.state, toward))
        words = {True: "toward the target", False: "away from the target", None: said_state(moved.state)}[toward]
        lines.append(
            f"{label_of(focus.target.measure)}: {told_shift(moved, unit_of(focus.target), imperial)}; {words}."
        )
    if not states:
        return Answer(question, OPEN, "not known yet", tuple(lines or ["Nothing is in focus."]))
    toward_all = [toward for _, toward in states]
    if any(toward is False for toward in toward_all):
        return Answer(question, NO, "the wrong way", tuple(lines))
    if all(toward for toward in toward_all):
        return Answer(question, YES, "yes, it did", tuple(lines))
    if any(toward_all):
        return Answer(question, YES, "one of the two did", tuple(lines))
    if all(state == UNCHANGED for state, _ in states):
        return Answer(question, NO, "no, not yet", tuple(lines))
    return Answer(question, OPEN, "cannot be told", tuple(lines))


def _speed(found: Outcome, imperial: bool) -> Answer:
    question = "Did the speed move?"
    moved = found.speed
    if moved is None:
        return Answer(question, OPEN, "not known yet", ("There is no ball speed before and after the start.",))
    lines: tuple[str, ...] = (told_shift(moved, "m/s", imperial) + ".",)
    if moved.state == CHANGED:
        up = moved.difference > 0
        return Answer(question, YES if up else NO, "yes, it is up" if up else "it went down", lines)
    if moved.resolution is None:
        lines = (*lines, "One throw a session says nothing about a habit: three or more are needed.")
    says = "no, not yet" if moved.state == UNCHANGED else "cannot be told"
    return Answer(question, NO if moved.state == UNCHANGED else OPEN, says, lines)


def _arm(found: Outcome) -> Answer:
    question = "Did the arm stay well?"
    worst, sensed = found.worst, _sensed(found.sensed, found.since)
    if found.arm_well is None or worst is None:
        return Answer(question, OPEN, "nothing was noted", ("Note how the arm is after every session.", *sensed))
    if found.arm_well:
        return Answer(question, YES, "yes, as noted", (f"{len(found.arm)} notes, none sore.", *sensed))
    said = (f"Sorest on {day(worst.date)}: {told_note(worst)}.",
            "Pain or loss of range means stop and see a licensed clinician.", *sensed)  # fmt: skip
    return Answer(question, NO, f"sore, {worst.soreness} of 10", said)


def _sensed(readings: Sequence[ArmReading], since: str) -> tuple[str, ...]:
    """What the arm's sensor said last before a day and last after it, of the kind that was read last; or nothing."""
    kind = latest_kind(readings)
    if kind is None:
        return ()
    days = by_day(readings, kind)
    shown = [*[one for one in days if one.date <= since][-1:], *[one for one in days if one.date > since][-1:]]
    said = ", ".join(
        f"{one.mean:.3g} on {day(one.date)} ({one.count} read, {one.low:g} to {one.high:g})" for one in shown
    )
    return (f"Arm sensor ({kind_said(kind)}): {said}. What it means is not judged here.",)


def told_note(note: ArmNote) -> str:
    """An arm note in a few words."""
    parts = [f"{note.soreness} of 10" if note.soreness else "not sore"]
    if note.place:
        parts.append(note.place)
    if note.since:
        parts.append(f"since {day(note.since)}")
    if note.text:
        parts.append(note.text)
    return ", ".join(parts)


def told_version(plan: Plan) -> str:
    """A version in one line."""
    state = f"handed over {day(plan.sent, year=True)}" if plan.sent else "not handed over yet"
    what = "; ".join(focus.title for focus in plan.focus) or "nothing in focus"
    return f"Version {plan.version}, {state}: {what}"
