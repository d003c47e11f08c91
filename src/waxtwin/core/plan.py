"""A plan: one or two things to change, each with a measured target, what to practise, and when to look again."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from waxtwin.core.contrast import Band, Contrast, Row
from waxtwin.core.findings import MOST_IN_FOCUS, Finding, Judgement, Playbook, Rule, Task
from waxtwin.core.measures import MEASURES
from waxtwin.core.schools import School

SOURCES: Mapping[str, str] = {
    "twin": "the twin's figure", "band": "the nearer end of the band", "school": "the school's target",
    "what-if": "as far as the what-if went", "own": "chosen by hand",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Target:
    """Where a measure stands (None when it was not seen) and where it should go, in the measure's own unit.

    `source` is a key of SOURCES. `error` is the standard deviation of the start, where it was resolved.
    """

    measure: str
    start: float | None
    aim: float
    source: str
    error: float | None = None

    @property
    def direction(self) -> int:
        """+1 when the figure should grow, -1 when it should shrink, 0 when it is there."""
        away = 0.0 if self.start is None else self.aim - self.start
        return (away > 0) - (away < 0)


@dataclass(frozen=True)
class Focus:
    """One thing to work on: the finding it came from ("" for one's own), what it is, its target, tasks by key."""

    finding: str
    title: str
    plain: str
    target: Target | None
    tasks: tuple[str, ...] = ()


@dataclass(frozen=True)
class Plan:
    """One version of an athlete's plan; dates are ISO days. What was handed over (`sent`) is not changed any more."""

    version: int
    focus: tuple[Focus, ...]
    start: str | None = None
    next_look: str | None = None
    speed_aim: float | None = None
    notes: str = ""
    sent: str | None = None
    made: str = ""

    def with_focus(self, at: int, focus: Focus | None) -> Plan:
        """With another focus in a place, one more at the end, or without the one there (None). Never more than two."""
        kept = list(self.focus)
        if focus is None:
            del kept[at]
        elif at < len(kept):
            kept[at] = focus
        elif len(kept) < MOST_IN_FOCUS:
            kept.append(focus)
        return replace(self, focus=tuple(kept))


def running(plans: Sequence[Plan]) -> Plan | None:
    """The version that is being worked on: the latest one handed over, else the latest one with a start."""
    sent = [plan for plan in plans if plan.sent and plan.start]
    return sent[-1] if sent else next((plan for plan in reversed(plans) if plan.start), None)


@dataclass(frozen=True, slots=True)
class Aim:
    """What was kept under what-if: `shares` of the twin's motion by factor, and the speed (m/s) they would give."""

    shares: Mapping[str, float]
    speed: float


def measures_of(rule: Rule) -> tuple[str, ...]:
    """The measures that a finding is about, those it asks for first."""
    lines = [line for line in (*rule.when, *rule.also) if line.kind == "measure"]
    return tuple(dict.fromkeys(line.subject for line in lines))


def targets_for(row: Row, rule: Rule | None, school: School, aim: Aim | None = None) -> tuple[Target, ...]:
    """The targets that can be set for a measure, the first one proposed.

    The school's own target comes first, then the twin's figure, the nearer end of a band that the athlete is outside
    of, and how far a kept what-if went.
    """
    if row.athlete is None:
        return ()
    error = None if row.resolution is None else row.resolution / 2
    found = [(end, "school") for end in _nearer(row.athlete, school.targets.get(row.measure.id))]
    if row.twin is not None:
        found.append((row.twin, "twin"))
        share = _share(rule, aim)
        if share:
            found.append((row.athlete + share * (row.twin - row.athlete), "what-if"))
    found += [(end, "band") for end in _nearer(row.athlete, _ends(row.band))]
    return tuple(Target(row.measure.id, row.athlete, end, source, error) for end, source in found)


def _ends(band: Band | None) -> tuple[float, float] | None:
    return None if band is None else (band.low, band.high)


def _nearer(value: float, ends: tuple[float, float] | None) -> Iterator[float]:
    if ends is not None and not ends[0] <= value <= ends[1]:
        yield ends[0] if value < ends[0] else ends[1]


def _share(rule: Rule | None, aim: Aim | None) -> float:
    """How far the what-if went in what a finding feeds: the largest share of its factors."""
    if rule is None or aim is None:
        return 0.0
    return max((aim.shares.get(factor, 0.0) for factor in rule.factors), default=0.0)


def proposed(
    judgement: Judgement, pair: Contrast, school: School, tasks: Mapping[str, Task], aim: Aim | None = None
) -> tuple[Focus, ...]:
    """The focus as the account proposes it: at most two, each with its first target and the tasks that the school does
    not shun.
    """
    return tuple(_focus(found, pair, school, tasks, aim) for found in judgement.focus)


def seen_by_eye(judgement: Judgement, school: School, playbook: Playbook) -> tuple[Focus, ...]:
    """What could be worked on because somebody saw it, though no figure bears it out: to be chosen by hand alone."""
    return tuple(
        Focus(rule.id, rule.title, rule.plain, None, _used(rule, school, playbook.tasks))
        for rule in playbook.rules if rule.title in judgement.by_eye
    )  # fmt: skip


def _used(rule: Rule, school: School, tasks: Mapping[str, Task]) -> tuple[str, ...]:
    return tuple(key for key in rule.tasks if key not in tasks or school.id not in tasks[key].shunned_by)


def _focus(found: Finding, pair: Contrast, school: School, tasks: Mapping[str, Task], aim: Aim | None) -> Focus:
    rule = found.rule
    used = _used(rule, school, tasks)
    for name in measures_of(rule):
        row = pair.row(name)
        targets = targets_for(row, rule, school, aim)
        if targets and row.apart:
            return Focus(rule.id, rule.title, rule.plain, targets[0], used)
    return Focus(rule.id, rule.title, rule.plain, None, used)


def tasks_of(plan: Plan, catalogue: Mapping[str, Task]) -> tuple[Task, ...]:
    """The practice tasks of a plan, each once; one that is in the catalogue no more is left out."""
    keys = dict.fromkeys(key for focus in plan.focus for key in focus.tasks)
    return tuple(catalogue[key] for key in keys if key in catalogue)


def rule_of(playbook: Playbook, finding: str) -> Rule | None:
    """The rule behind a focus, if it is a shipped finding's."""
    return next((rule for rule in playbook.rules if rule.id == finding), None)


def unit_of(target: Target) -> str:
    """The unit of a target's measure."""
    return MEASURES[target.measure].unit
