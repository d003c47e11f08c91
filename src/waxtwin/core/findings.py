"""Findings: named patterns over measures, links and factors, ranked by what they could carry, how sure and how early.

A finding suggests where to look first. It is arithmetic on two deliveries and a rule in a data file, not proof of
cause. Rank is share of the gap x confidence x earliness x the school's weight.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from waxtwin.core.borrowed import GROUPS
from waxtwin.core.capacity import Capacity
from waxtwin.core.contrast import LEVEL, Row
from waxtwin.core.events import ORDER
from waxtwin.core.rules import Case, Evidence, Line
from waxtwin.core.schools import School

MOST_IN_FOCUS = 2
_EARLY = 0.045  # what a finding loses in rank per stop that it lies later
_FLOOR = 0.08  # share counted for a finding that feeds no link or factor that loses
_PLANAR = 0.7  # confidence of a figure seen in the picture only
_ALSO, _AGAINST = 0.07, 0.22  # what a line for or against adds to or takes from confidence
_SOFTENED = 0.7  # rank of a position that the athlete's build excuses in part
_SYMPTOM = 0.75  # rank of a finding that another one could explain


@dataclass(frozen=True)
class Rule:
    """A finding as data. `when` must all hold, `also` speak for it, `against` against it.

    `at` is its stop, `link` and `factors` what it feeds, `plain` one sentence to the athlete, `good` what is said when
    it is not so, `style` what excuses it, `caution` an arm caution, `explains` findings downstream, `tasks` what to
    practise; `kind` "technique" or "body".
    """

    id: str
    title: str
    at: str
    link: str
    factors: tuple[str, ...]
    when: tuple[Line, ...]
    also: tuple[Line, ...]
    against: tuple[Line, ...]
    plain: str
    good: str
    style: str
    caution: str
    explains: tuple[str, ...]
    tasks: tuple[str, ...]
    kind: str = "technique"


@dataclass(frozen=True, slots=True)
class Task:
    """A practice task: what it is for, how it goes, how much, what to beware of."""

    title: str
    purpose: str
    how: str
    dose: str
    caution: str = ""


@dataclass(frozen=True, slots=True)
class Compensation:
    """Something that is looked for when an athlete returns: its name, the line that asks for it, what it means."""

    title: str
    line: Line
    says: str


@dataclass(frozen=True)
class Playbook:
    """Everything that judgement works from: rules in file order, style measures {id: what it is}, tasks by id, and
    what is looked for on a return.
    """  # fmt: skip

    rules: tuple[Rule, ...]
    style: Mapping[str, str]
    tasks: Mapping[str, Task]
    compensations: tuple[Compensation, ...] = ()


@dataclass(frozen=True)
class Finding:
    """A rule that holds here. `carries` m/s of the gap it could carry at most, `share` that over the gap (0 to 1).

    `acting` are the schools that would act on it; `acts` says whether the chosen one does. `caused_by` and `leads_to`
    are other findings here, up and down the chain. `body` is what screening and build say about it. `set_aside` is the
    reason why somebody put it away.
    """

    rule: Rule
    proof: tuple[Evidence, ...]
    against: tuple[Evidence, ...]
    carries: float
    share: float
    confidence: float
    rank: float
    acts: bool
    acting: tuple[str, ...]
    reason: str
    caused_by: tuple[str, ...] = ()
    leads_to: tuple[str, ...] = ()
    body: tuple[str, ...] = ()
    in_focus: bool = False
    accepted: bool = False
    set_aside: str | None = None

    @property
    def id(self) -> str:
        """The rule's id."""
        return self.rule.id


@dataclass(frozen=True)
class Judgement:
    """What was found, best ranked first, at most two of them in focus; what is as good or better; what is style.

    `good` (sentence, whether it is better than the twin's); `style` rows that differ and are left alone.
    """

    findings: tuple[Finding, ...]
    good: tuple[tuple[str, bool], ...]
    style: tuple[tuple[str, Row], ...]

    @property
    def focus(self) -> tuple[Finding, ...]:
        """The one or two to work on."""
        return tuple(found for found in self.findings if found.in_focus)


@dataclass(frozen=True)
class Rulings:
    """What somebody said about findings: ids that were `accepted` into the focus, and `set_aside` {id: reason}."""

    accepted: frozenset[str] = frozenset()
    set_aside: Mapping[str, str] | None = None


def judge(
    case: Case, playbook: Playbook, school: School, schools: Sequence[School], *, rulings: Rulings | None = None,
    capacity: Capacity | None = None,
) -> Judgement:  # fmt: skip
    """Every finding of a case as a school sees it; `schools` are those that are asked for their stance as well."""
    rulings = rulings or Rulings()
    found = [one for rule in playbook.rules if (one := _find(rule, case, school, schools)) is not None]
    if capacity is not None:
        found = [_embodied(one, capacity) for one in found]
    ids = {one.id for one in found}
    chained = []
    for one in found:
        above = tuple(other.id for other in found if one.id in other.rule.explains)
        below = tuple(name for name in one.rule.explains if name in ids)
        rank = one.rank * (_SYMPTOM if above else 1.0)
        aside = (rulings.set_aside or {}).get(one.id)
        chained.append(replace(one, caused_by=above, leads_to=below, rank=rank, set_aside=aside,
                               accepted=one.id in rulings.accepted))  # fmt: skip
    ranked = sorted(chained, key=lambda one: (one.set_aside is not None, -one.rank))
    focus = _focus(ranked)
    ranked = [replace(one, in_focus=one.id in focus) for one in ranked]
    spoken = {line.subject for one in found for line in one.rule.when if line.kind == "measure"}
    return Judgement(tuple(ranked), tuple(_good(case, playbook.rules, ids)), tuple(_style(case, playbook, spoken)))


def _embodied(finding: Finding, capacity: Capacity) -> Finding:
    """A finding with what the athlete's body says about it: softened positions weigh less."""
    softer = capacity.softens(finding.id)
    said = (*([softer] if softer else []), *capacity.said_of(finding.id))
    return replace(finding, body=said, rank=finding.rank * (_SOFTENED if softer else 1.0))


def _focus(ranked: Iterable[Finding]) -> set[str]:
    """What was accepted first, then the best ranked that the school acts on; never two of one chain of causes."""
    open_ = [one for one in ranked if one.set_aside is None and one.rule.kind == "technique"]
    chosen: list[Finding] = []
    for one in [*(f for f in open_ if f.accepted), *(f for f in open_ if not f.accepted and f.acts)]:
        linked = any(one.id in c.leads_to or c.id in one.leads_to for c in chosen)
        if len(chosen) < MOST_IN_FOCUS and (one.accepted or not linked) and one not in chosen:
            chosen.append(one)
    return {one.id for one in chosen}


def _find(rule: Rule, case: Case, school: School, schools: Sequence[School]) -> Finding | None:
    when = [line.ask(case) for line in rule.when]
    if not when or not all(one.holds for one in when):
        return None
    also = [one for line in rule.also if (one := line.ask(case)).holds]
    against = tuple(one for line in rule.against if (one := line.ask(case)).holds)
    confidence = _confidence(when, len(also), len(against))
    carries = _carries(rule, case)
    gap = _gap(case)
    share = min(carries / gap, 1.0) if gap > 0 else 0.0
    stance = school.stance(rule.id)
    rank = (_FLOOR + share) * confidence * (1 - _EARLY * ORDER.index(_stop(rule.at))) * stance.weight
    acting = tuple(one.id for one in schools if one.stance(rule.id).acts)
    return Finding(rule, (*when, *also), against, carries, share, confidence, rank, stance.acts, acting, stance.reason)


def _stop(at: str) -> str:
    return "foot_contact" if at == "landing" else at


def _confidence(when: Sequence[Evidence], also: int, against: int) -> float:
    """0.05 to 1: how far beyond what is asked and resolved, in how many throws, seen in space or in the picture."""
    each = []
    for one in when:
        sure = min(0.45 + 0.35 * (one.strength - 1.0), 0.9)
        if one.row is not None and one.row.throws is not None and one.row.throws.of > 1:
            sure *= one.row.throws.agree / one.row.throws.of
        if one.row is not None and one.row.planar:
            sure *= _PLANAR
        each.append(sure)
    return float(min(max(min(each) + _ALSO * also - _AGAINST * against, 0.05), 1.0))


def _carries(rule: Rule, case: Case) -> float:
    """m/s: what the factors that a rule feeds lose together, or its link where motion could not be borrowed."""
    if case.borrowed is not None:
        names = list(rule.factors)
        for group, members in GROUPS.items():  # what cannot be told apart counts together
            if set(members) & set(names):
                singles = [case.borrowed.singles[name] for name in members]
                if set(members) <= set(names) or not all(one.resolved for one in singles):
                    names = [group, *(name for name in names if name not in members)]
        lost = sum(case.borrowed.singles[name].contribution for name in names)
        return float(min(max(lost, 0.0), max(case.borrowed.gap, 0.0)))
    if case.ledger is not None:
        link = next((one for one in case.ledger.links if one.id == rule.link), None)
        return min(max(link.contribution, 0.0), max(case.ledger.gap, 0.0)) if link else 0.0
    return 0.0


def _gap(case: Case) -> float:
    if case.borrowed is not None:
        return case.borrowed.gap
    return case.ledger.gap if case.ledger is not None else 0.0


def _good(case: Case, rules: Iterable[Rule], fired: set[str]) -> Iterable[tuple[str, bool]]:
    """What is as good as the twin's or better: rules that were asked, and do not hold."""
    for rule in rules:
        rows = [case.row(line.subject) for line in rule.when if line.kind == "measure"]
        if rule.id in fired or not rule.good or not rows or any(row.difference is None for row in rows):
            continue
        wrong = [row.verdict == line.word for line, row in zip(rule.when, rows, strict=True)]
        if not any(wrong):
            yield rule.good, all(row.verdict != LEVEL for row in rows)


def _style(case: Case, playbook: Playbook, spoken: set[str]) -> Iterable[tuple[str, Row]]:
    for measure, says in playbook.style.items():
        row = case.row(measure)
        if row.difference is not None and row.verdict != LEVEL and measure not in spoken:
            yield says, row
