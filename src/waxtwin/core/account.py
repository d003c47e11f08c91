"""The account in words: a paragraph from the figures, plain enough for a sixteen-year-old."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from waxtwin.core.borrowed import LABELS, Factor
from waxtwin.core.findings import Finding, Judgement
from waxtwin.core.rules import Case, Evidence

_MENTIONED = 0.12  # of the gap: smaller shares are not spoken of
_MOST = 3
_PLAIN = {
    "size": "body size, which nobody can change", "tempo": "how quickly the throw runs from landing on",
    "pelvis_path": "how the hips travel and are stopped", "pelvis_rotation": "how the hips turn",
    "trunk": "how the trunk moves on the hips", "turn": "how hips and trunk turn together", "arm": "the arm itself",
    "ball": "how the ball leaves the hand", "shoulder": "the shoulder", "elbow_hand": "the elbow and hand",
}  # fmt: skip


@dataclass(frozen=True)
class Words:
    """How figures are said: `speed` of m/s, `proof` of a line of evidence."""

    speed: Callable[[float], str] = lambda value: f"{value:.1f} m/s"
    proof: Callable[[Evidence], str] = lambda evidence: evidence.short


def in_words(case: Case, judgement: Judgement, athlete: str, twin: str, words: Words | None = None) -> str:
    """What was found, what to look at first, what is good already, and what is not certain."""
    words = words or Words()
    parts = [*_gap(case, athlete, twin, words), *_first(judgement, words), *_good(judgement), *_unsure(case)]
    return " ".join(part for part in parts if part)


def _gap(case: Case, athlete: str, twin: str, words: Words) -> list[str]:
    """Both speeds and what lies between them, whenever they are known; then how far that can be shared out."""
    account, ledger = case.borrowed, case.ledger
    balls = case.contrast.ball_speeds
    if balls is not None:
        what, (ours, theirs) = "ball", balls
    elif ledger is not None:
        what, ours, theirs = "hand", ledger.athlete, ledger.twin
    elif account is not None:
        what, ours, theirs = "hand", 0.0, account.gap
    else:
        return [f"How far {athlete} is behind {twin} in speed cannot be said: a speed is missing."]
    gap = theirs - ours
    if ours:
        said = [f"{athlete} gets the {what} to {words.speed(ours)}, {twin} to {words.speed(theirs)}."]
    else:
        said = [f"Between {athlete} and {twin} lie {words.speed(abs(gap))} of {what} speed."]
    if gap <= 0:
        return [*said, f"{athlete} is not slower, so there is no loss to explain; what follows are differences only."]
    if account is None and ledger is None:
        return [*said, f"{words.speed(gap)} lie between them; where they are lost this footage does not show."]
    if account is None:
        assert ledger is not None
        return [*said, ledger.told(words.speed)]
    loses = _spoken([f for f in account.factors if f.contribution > 0], gap)
    gains = _spoken([f for f in account.factors if f.contribution < 0], gap)
    if loses:
        said.append(f"Of the {words.speed(gap)} between them, {_listed([_lost(f, words) for f in loses])}.")
    if gains:
        said.append(f"{athlete} is ahead of {twin} {_listed([_gained(f, words) for f in gains])}.")
    return said


def _spoken(factors: list[Factor], gap: float) -> list[Factor]:
    large = [f for f in factors if f.resolved and abs(f.contribution) >= _MENTIONED * gap]
    return sorted(large, key=lambda f: -abs(f.contribution))[:_MOST]


def _listed(items: list[str]) -> str:
    return items[0] if len(items) == 1 else ", ".join(items[:-1]) + " and " + items[-1]


def _lost(factor: Factor, words: Words) -> str:
    about = f"about {words.speed(factor.contribution)}"
    if factor.id == "size":
        return f"{about} is {_PLAIN['size']}"
    return f"{about} lies in {_where(factor)}"


def _gained(factor: Factor, words: Words) -> str:
    where = "body size" if factor.id == "size" else _where(factor)
    return f"by about {words.speed(-factor.contribution)} in {where}"


def _where(factor: Factor) -> str:
    if factor.id != "unresolved":
        return _PLAIN[factor.id]
    return f"{_listed([LABELS[name].lower() for name in factor.parts])} together"


def _first(judgement: Judgement, words: Words) -> list[str]:
    focus = judgement.focus
    if not focus:
        if judgement.mostly_told:
            return ["Nothing stands out here that would have to change for now."]
        asked = len(judgement.told) + len(judgement.open)
        return [
            f"No single thing stands out in what this footage shows; but it answers only {len(judgement.told)} of "
            f"{asked} questions, so that says little."
        ]
    said = [f"Look at this first: {_told(focus[0], words)}"]
    if len(focus) > 1:
        said.append(f"Then: {_told(focus[1], words)}")
    return said


def _told(finding: Finding, words: Words) -> str:
    proof = words.proof(finding.proof[0]) if finding.proof else ""
    return f"{finding.rule.plain} ({proof}.)" if proof else finding.rule.plain


def _good(judgement: Judgement) -> list[str]:
    said = []
    alike = tuple(judgement.good.values())
    for opening, sentences in (("Known to be alike", alike), ("Ahead of the twin", judgement.ahead)):
        plain = [one.rstrip(".") for one in sentences[:2]]
        if plain:
            said.append(f"{opening}: {'; '.join(one[0].lower() + one[1:] for one in plain)}.")
    return said


def _unsure(case: Case) -> list[str]:
    account = case.borrowed
    if account is None and case.ledger is None:
        return []
    if account is None:
        return ["From one camera only the speeds along the chain are known, not what motion they come from."]
    vague = [f for f in account.factors if not f.resolved]
    said = []
    if vague:
        names = ", ".join(LABELS[name].lower() for f in vague for name in (f.parts or (f.id,)))
        few = "one throw a side" if max(account.throws) == 1 else "these throws"
        said.append(f"What {few} cannot tell apart: {names}.")
    said.append("All of this is arithmetic on two deliveries, not proof of cause.")
    return said
