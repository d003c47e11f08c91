"""Findings: named patterns over measures, links and factors, ranked by what they could carry, how sure and how early.

A finding suggests where to look first. It is arithmetic on two deliveries and a rule in a data file, not proof of
cause. Rank is share of the gap x confidence x earliness x the school's weight.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from waxtwin.core.borrowed import GROUPS
from waxtwin.core.capacity import Capacity
from waxtwin.core.contrast import LEVEL, Row
from waxtwin.core.eye import Looked
from waxtwin.core.ledger import Link
from waxtwin.core.measures.registry import hindered
from waxtwin.core.rules import Case, Evidence, Line
from waxtwin.core.schools import School
from waxtwin.core.stops import ORDER

TECHNIQUE, THEORY, BODY = "technique", "theory", "body"
MOST_IN_FOCUS = 2
_EARLY = 0.045  # what a finding loses in rank per stop that it lies later
_FLOOR = 0.08  # share counted for a finding that feeds no link or factor that loses
_PLANAR = 0.7  # confidence of a figure seen in the picture only
_ALSO, _AGAINST = 0.07, 0.22  # what a line for or against adds to or takes from confidence
_SOFTENED = 0.7  # rank of a position that the athlete's build excuses in part
_ENOUGH = 2 / 3  # of the questions
_SYMPTOM = 0.75  # rank of a finding that another one could explain


@dataclass(frozen=True)
class Rule:
    """A finding as data. `when` must all hold, `also` speak for it, `against` against it.

    `at` is its stop, `link` and `factors` what it feeds, `plain` one sentence to the athlete, `good` what is said when
    both are known to be alike, `ahead` when the athlete is known to stand the other way and that is to the good, `asks`
    the question behind it, `style` what excuses it, `caution` an arm caution, `explains` findings downstream, `tasks`
    what to practise; `kind` is TECHNIQUE, THEORY (believed by some; only with what the body says about it is it worked
    on) or BODY; `topic` the question of schools that it belongs to, if any.
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
    kind: str = TECHNIQUE
    ahead: str = ""
    asks: str = ""
    topic: str = ""


@dataclass(frozen=True, slots=True)
class Task:
    """A practice task: what it is for, how it goes, how much, what to beware of.

    `loads_arm` when something is thrown; `used_by` and `shunned_by` are ids of schools; `shows` names the poses that
    draw it, from its beginning to its end; `picture` is a PNG file in their place, where somebody has one.
    """

    title: str
    purpose: str
    how: str
    dose: str
    caution: str = ""
    loads_arm: bool = True
    used_by: tuple[str, ...] = ()
    shunned_by: tuple[str, ...] = ()
    shows: tuple[str, ...] = ()
    picture: bytes = field(default=b"", repr=False)


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
    """A rule that holds here. `carries` m/s of the gap it could carry at most (between `least` and `most`, as far as
    that is known), `share` that over the gap (0 to 1); both mean nothing unless it is `weighed`: where neither the
    chain nor borrowed motion could be followed, nobody knows. `confidence` weighs in the rank and is never shown.

    `acting` are the schools that would act on it; `acts` says whether the chosen one does. `caused_by` and `leads_to`
    are other findings here, up and down the chain. `body` is what screening and build say about it. `set_aside` is the
    reason why somebody put it away. `seen` and `seen_against` were seen by eye: they count in nothing.
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
    least: float = 0.0
    most: float = 0.0
    weighed: bool = True
    seen: tuple[str, ...] = ()
    seen_against: tuple[str, ...] = ()

    @property
    def id(self) -> str:
        """The rule's id."""
        return self.rule.id

    @property
    def can_be_worked_on(self) -> bool:
        """Whether it may be in the focus: a body is what it is, and a theory needs figures of the body behind it."""
        return self.rule.kind == TECHNIQUE or (self.rule.kind == THEORY and bool(self.body))


@dataclass(frozen=True)
class Judgement:
    """What was found, best ranked first, at most two of them in focus; what is known to be alike, and what is style.

    `good` {rule id: sentence} where both are known to be alike, `ahead` where the athlete is known to be ahead; `style`
    rows that differ and are left alone; `told` and `open` {question: rows that it hangs on} are the questions behind
    the findings that the school acts on, answered by this footage or left open. `by_eye` {title: what was seen} are
    findings that no figure bears out here, and somebody saw.
    """

    findings: tuple[Finding, ...]
    good: Mapping[str, str]
    ahead: tuple[str, ...]
    style: tuple[tuple[str, Row], ...]
    told: tuple[str, ...] = ()
    open: Mapping[str, tuple[Row, ...]] = field(default_factory=dict)
    by_eye: Mapping[str, tuple[str, ...]] = field(default_factory=dict)

    @property
    def mostly_told(self) -> bool:
        """Whether the footage answers enough of the questions to say that nothing has to change."""
        return len(self.told) >= _ENOUGH * (len(self.told) + len(self.open))

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
    capacity: Capacity | None = None, looked: Looked | None = None,
) -> Judgement:  # fmt: skip
    """Every finding of a case as a school sees it; `schools` are those that are asked for their stance as well."""
    rulings = rulings or Rulings()
    held = [rule for rule in playbook.rules if rule.id not in school.rejects]
    found = [one for rule in held if (one := _find(rule, case, school, schools)) is not None]
    if capacity is not None:
        found = [_embodied(one, capacity) for one in found]
    looked = looked or Looked(())
    ids = {one.id for one in found}
    chained = []
    for one in found:
        above = tuple(other.id for other in found if one.id in other.rule.explains)
        below = tuple(name for name in one.rule.explains if name in ids)
        rank = max(_with_what_follows(one, found, school), one.rank) * (_SYMPTOM if above else 1.0)
        aside = (rulings.set_aside or {}).get(one.id)
        seen, unlike = looked.on(one.id)
        chained.append(replace(
            one, seen=seen, seen_against=unlike, caused_by=above, leads_to=below, rank=rank, set_aside=aside,
            accepted=one.id in rulings.accepted,
        ))  # fmt: skip
    ranked = sorted(chained, key=lambda one: (one.set_aside is not None, -one.rank))
    focus = _focus(ranked)
    ranked = [replace(one, in_focus=one.id in focus) for one in ranked]
    spoken = {line.subject for one in found for line in one.rule.when if line.kind == "measure"}
    good, ahead = _alike(case, held, ids)
    told, left = _questions(case, held, school)
    return Judgement(
        tuple(ranked), good, ahead, tuple(_style(case, playbook, spoken)), told, left,
        {rule.title: seen for rule in held if rule.id not in ids and (seen := looked.on(rule.id)[0])},
    )  # fmt: skip


def _with_what_follows(cause: Finding, found: Iterable[Finding], school: School) -> float:
    """The rank of a finding that counts what it leads to as its own, as far as it is as sure."""
    own = school.stance(cause.id).weight
    ranks = [
        one.rank / weight * min(cause.confidence / one.confidence, 1.0) * own
        for one in found if one.id in cause.rule.explains and (weight := school.stance(one.id).weight) > 0
    ]  # fmt: skip
    return max(ranks, default=0.0)


def _embodied(finding: Finding, capacity: Capacity) -> Finding:
    """A finding with what the athlete's body says about it: softened positions weigh less."""
    softer = capacity.softens(finding.id)
    said = (*([softer] if softer else []), *capacity.said_of(finding.id))
    return replace(finding, body=said, rank=finding.rank * (_SOFTENED if softer else 1.0))


def _focus(ranked: Iterable[Finding]) -> set[str]:
    """What was accepted first, then the best ranked that the school acts on; never two of one chain of causes."""
    open_ = [one for one in ranked if one.set_aside is None and one.can_be_worked_on]
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
    carries, least, most = _carries(rule, case)
    gap = _gap(case)
    share = min(carries / gap, 1.0) if gap > 0 else 0.0
    weighed = case.borrowed is not None or _link(rule, case) is not None
    stance = school.stance(rule.id)
    rank = (_FLOOR + share) * confidence * (1 - _EARLY * ORDER.index(_stop(rule.at))) * stance.weight
    acting = tuple(one.id for one in schools if one.stance(rule.id).acts)
    return Finding(rule, (*when, *also), against, carries, share, confidence, rank, stance.acts, acting, stance.reason,
                   least=least, most=most, weighed=weighed)  # fmt: skip


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


def _carries(rule: Rule, case: Case) -> tuple[float, float, float]:
    """m/s: what the factors that a rule feeds lose together, or its link where motion could not be borrowed; and from
    what to what, as far as that is known.
    """
    if case.borrowed is not None:
        names = list(rule.factors)
        for group, members in GROUPS.items():  # what cannot be told apart counts together
            if set(members) & set(names):
                singles = [case.borrowed.singles[name] for name in members]
                if set(members) <= set(names) or not all(one.resolved for one in singles):
                    names = [group, *(name for name in names if name not in members)]
        parts = [case.borrowed.singles[name] for name in names]
        below, above = (float(np.sqrt(sum((end - one.contribution) ** 2 for one, end in zip(parts, ends, strict=True))))
                        for ends in ([one.low for one in parts], [one.high for one in parts]))  # fmt: skip
        return _within_gap(sum(one.contribution for one in parts), below, above, case.borrowed.gap)
    link = _link(rule, case)
    if link is not None and case.ledger is not None:
        doubt = link.resolution or 0.0
        return _within_gap(link.contribution, doubt, doubt, case.ledger.gap)
    return 0.0, 0.0, 0.0


def _link(rule: Rule, case: Case) -> Link | None:
    """The link of the chain that a rule feeds, where the chain could be followed."""
    return None if case.ledger is None else next((one for one in case.ledger.links if one.id == rule.link), None)


def _within_gap(lost: float, below: float, above: float, gap: float) -> tuple[float, float, float]:
    """A share and its ends, none of them beyond the gap or a gain."""
    most = max(gap, 0.0)
    return tuple(float(min(max(one, 0.0), most)) for one in (lost, lost - below, lost + above))  # type: ignore[return-value]


def _gap(case: Case) -> float:
    if case.borrowed is not None:
        return case.borrowed.gap
    return case.ledger.gap if case.ledger is not None else 0.0


def _asked(rule: Rule, case: Case) -> list[Row]:
    """The rows of the measures that a rule asks for."""
    return [case.row(line.subject) for line in rule.when if line.kind == "measure"]


def _alike(case: Case, rules: Iterable[Rule], fired: set[str]) -> tuple[dict[str, str], tuple[str, ...]]:
    """What is known to be as the twin's is, and where the athlete is known to be ahead."""
    good: dict[str, str] = {}
    ahead = []
    for rule in rules:
        rows = _asked(rule, case)
        if rule.id in fired or not rows:
            continue
        if rule.good and rule.good not in good.values() and all(row.verdict == LEVEL for row in rows):
            good[rule.id] = rule.good
        lines = [line for line in rule.when if line.kind == "measure"]
        if rule.ahead and all(row.apart and not row.small and row.verdict != line.word
                              for line, row in zip(lines, rows, strict=True)):  # fmt: skip
            ahead.append(rule.ahead)
    return good, tuple(ahead)


def _questions(case: Case, rules: Iterable[Rule], school: School) -> tuple[tuple[str, ...], dict[str, tuple[Row, ...]]]:
    """The questions that the footage answers, and those it leaves open with the rows that would have to be told."""
    told: list[str] = []
    left: dict[str, tuple[Row, ...]] = {}
    for rule in rules:
        rows = _asked(rule, case)
        if not rule.asks or not rows or not school.stance(rule.id).acts:
            continue
        vague = tuple(row for row in rows if not row.told and (row.reason is None or hindered(row.reason)))
        if vague:
            left.setdefault(rule.asks, vague)
        else:
            told.append(rule.asks)
    answered = tuple(dict.fromkeys(told))
    return answered, {asks: rows for asks, rows in left.items() if asks not in answered}


def _style(case: Case, playbook: Playbook, spoken: set[str]) -> Iterable[tuple[str, Row]]:
    for measure, says in playbook.style.items():
        row = case.row(measure)
        if row.apart and not row.small and measure not in spoken:
            yield says, row
