"""Eye checks: questions that no landmark answers, put to somebody who looks; what the answers speak for and against.

An answer is never a figure: it enters no measure, no share and no rank.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

UNSEEN = "unseen"  # the answer that says that it cannot be seen
FEWEST, MOST = 2, 4  # answers of a check


@dataclass(frozen=True, slots=True)
class Feed:
    """Answers of the athlete that speak for a finding, or `against` it."""

    finding: str
    answers: tuple[str, ...]
    against: bool = False


@dataclass(frozen=True)
class EyeCheck:
    """A question at a stop: `answers` {id: words}, one of them UNSEEN; `look` says where to look, `gauge` lights there.

    `schools` are ids of those that ask it; `own` for one that the user made or changed.
    """

    id: str
    at: str
    question: str
    answers: Mapping[str, str]
    look: str
    gauge: str = ""
    feeds: tuple[Feed, ...] = ()
    schools: tuple[str, ...] = ()
    own: bool = False

    def __post_init__(self) -> None:
        """Raises ValueError, one plain sentence."""
        if not FEWEST <= len(self.answers) <= MOST or UNSEEN not in self.answers:
            raise ValueError(f"eye check {self.id}: {FEWEST} to {MOST} answers, one of them “{UNSEEN}”")
        for feed in self.feeds:
            strange = [one for one in feed.answers if one not in self.answers]
            if strange:
                raise ValueError(f"eye check {self.id}: there is no answer named {strange[0]}")

    def following(self, answer: str | None) -> str | None:
        """The answer after one, none at last: what a key that is pressed again and again gives."""
        known = [None, *self.answers]
        return known[(known.index(answer if answer in self.answers else None) + 1) % len(known)]


@dataclass(frozen=True, slots=True)
class EyeAnswer:
    """An answer's id, who gave it, and when (ISO)."""

    answer: str
    by: str = ""
    at: str = ""


@dataclass(frozen=True)
class Looked:
    """What somebody saw: the checks there are, and the answers {check id: answer} for both sides."""

    checks: tuple[EyeCheck, ...]
    athlete: Mapping[str, EyeAnswer] = field(default_factory=dict)
    twin: Mapping[str, EyeAnswer] = field(default_factory=dict)

    def told(self, check: EyeCheck) -> str:
        """A check and its answers in a sentence; "" where the athlete was not looked at, or nothing could be seen."""
        mine, theirs = _given(check, self.athlete), _given(check, self.twin)
        if mine is None:
            return ""
        twin = "the twin was not looked at" if theirs is None else f"the twin: {check.answers[theirs.answer]}"
        who = f"; seen by {mine.by}" if mine.by else ""
        day = f", {mine.at[:10]}" if mine.at else ""
        return f"Seen by eye: {check.question} {check.answers[mine.answer].capitalize()}, {twin}{who}{day}."

    def answered(self) -> list[tuple[EyeCheck, str, str]]:
        """Every check that has an answer, with both sides' in words, "" where a side was not looked at, or in vain."""
        said = [(check, _words(check, self.athlete), _words(check, self.twin)) for check in self.checks]
        return [(check, mine, theirs) for check, mine, theirs in said if mine or theirs]

    def on(self, finding: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """What was seen that speaks for a finding, and what speaks against it."""
        speaks: list[str] = []
        against: list[str] = []
        for check in self.checks:
            mine, theirs = _given(check, self.athlete), _given(check, self.twin)
            for feed in (one for one in check.feeds if one.finding == finding):
                if mine is None or mine.answer not in feed.answers:
                    continue
                shared = theirs is not None and theirs.answer == mine.answer  # no difference between the two
                (against if feed.against or shared else speaks).append(self.told(check))
        return tuple(dict.fromkeys(speaks)), tuple(dict.fromkeys(against))


def _given(check: EyeCheck, answers: Mapping[str, EyeAnswer]) -> EyeAnswer | None:
    found = answers.get(check.id)
    return None if found is None or found.answer == UNSEEN or found.answer not in check.answers else found


def _words(check: EyeCheck, answers: Mapping[str, EyeAnswer]) -> str:
    given = _given(check, answers)
    return "" if given is None else check.answers[given.answer]


def asked_by(checks: Iterable[EyeCheck], school: str) -> list[EyeCheck]:
    """The checks that a school asks; all of them for "", and for a school that names none of its own."""
    every = list(checks)
    return [one for one in every if school in one.schools] or every
