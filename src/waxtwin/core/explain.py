"""The whole explanation of a pair: ledger, borrowed motion, findings, cautions, in one object."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from waxtwin.core.account import Words, in_words
from waxtwin.core.analysis import Analysis
from waxtwin.core.borrowed import NotBorrowable, borrow
from waxtwin.core.capacity import Capacity
from waxtwin.core.cautions import cautions_for, position_cautions
from waxtwin.core.contrast import Contrast
from waxtwin.core.eye import Looked
from waxtwin.core.findings import Judgement, Playbook, Rulings, judge
from waxtwin.core.ledger import ledger_of
from waxtwin.core.rules import Case
from waxtwin.core.schools import School
from waxtwin.core.steps import Steps, finish


@dataclass(frozen=True)
class Perspective:
    """From where a case is judged: the rules, the chosen school and the others, the athlete's body, what was ruled.

    `born` is the athlete's birthday in ISO form, where it is known; `looked` what was seen by eye.
    """

    playbook: Playbook
    school: School
    schools: tuple[School, ...]
    capacity: Capacity | None = None
    rulings: Rulings | None = None
    born: str | None = None
    looked: Looked | None = None

    @property
    def measures(self) -> frozenset[str]:
        """The measures that the findings this school acts on are read from."""
        rules = [rule for rule in self.playbook.rules if self.school.stance(rule.id).acts]
        lines = [line for rule in rules for line in (*rule.when, *rule.also, *rule.against)]
        return frozenset(line.subject for line in lines if line.kind == "measure")


@dataclass(frozen=True)
class Explanation:
    """What a pair's gap comes from, as far as the footage carries it; `unborrowed` says why motion was not borrowed."""

    case: Case
    judgement: Judgement
    cautions: tuple[str, ...]
    unborrowed: str
    perspective: Perspective

    def in_words(self, words: Words | None = None) -> str:
        """The account as a paragraph."""
        athlete, twin = (self.case.contrast.athlete.delivery.name, self.case.contrast.twin.delivery.name)
        if athlete == twin:  # one pitcher before and now
            athlete, twin = f"{athlete} now", f"{twin} before"
        return in_words(self.case, self.judgement, athlete, twin, words)

    def told_by(self, schools: Sequence[School]) -> dict[str, Judgement]:
        """What each school makes of the pair {id: Judgement}, all at the landing that is set now."""
        return {one.id: self.seen_from(replace(self.perspective, school=one)).judgement for one in schools}

    def seen_from(self, perspective: Perspective) -> Explanation:
        """The same arithmetic judged from elsewhere."""
        return _judged(self.case, self.unborrowed, perspective)


def throws_of(pair: Contrast) -> tuple[Sequence[Analysis], Sequence[Analysis]]:
    """The throws on both sides: whole sets, or one each."""
    if pair.sets is None:
        return (pair.athlete,), (pair.twin,)
    return pair.sets[0].throws, pair.sets[1].throws


def explain_steps(pair: Contrast, perspective: Perspective) -> Steps[Explanation]:
    """The explanation."""
    ours, theirs = throws_of(pair)
    case, reason = Case(pair, ledger_of(ours, theirs)), ""
    yield 0.05
    try:
        case = replace(case, borrowed=(yield from borrow(ours, theirs)))
    except NotBorrowable as why:
        reason = str(why)
    return _judged(case, reason, perspective)


def explain(pair: Contrast, perspective: Perspective) -> Explanation:
    """The explanation in one go."""
    return finish(explain_steps(pair, perspective))


def _judged(case: Case, reason: str, view: Perspective) -> Explanation:
    judgement = judge(
        case, view.playbook, view.school, view.schools, rulings=view.rulings, capacity=view.capacity, looked=view.looked
    )
    pain = view.capacity.pain if view.capacity else ""
    spoken = position_cautions(case.contrast)  # what a position says already need not be said by its finding
    cautions = dict.fromkeys([
        *(found.rule.caution for found in judgement.findings if found.rule.caution
          and not any(line.subject in spoken for line in found.rule.when)),
        *cautions_for(case.contrast, view.born, pain=pain),
    ])  # fmt: skip
    # what was reported comes before what was measured
    ordered = sorted(cautions, key=lambda words: not words.startswith("Pain was reported"))
    return Explanation(case, judgement, tuple(ordered), reason, view)
