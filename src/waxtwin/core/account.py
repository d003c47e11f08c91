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
    parts = [*_gap(case, athlete, twin, words), *_first(judgement, words), *_good(judgement), *_unsure(case, words)]
    return " ".join(part for part in parts if part)


def _gap(case: Case, athlete: str, twin: str, words: Words) -> list[str]:
    account, ledger = case.borrowed, case.ledger
    if ledger is None and account is None:
        return [f"How far {athlete} is behind {twin} in speed cannot be said: a speed is missing."]
    gap = account.gap if account is not None else ledger.gap if ledger is not None else 0.0
    what = "ball" if (account or ledger).basis == "ball" else "hand"  # type: ignore[union-attr]
    if ledger is not None:
        said = [f"{athlete} gets the {what} to {words.speed(ledger.athlete)}, {twin} to {words.speed(ledger.twin)}."]
    else:
        said = [f"Between {athlete} and {twin} lie {words.speed(abs(gap))} of {what} speed."]
    if gap <= 0:
        return [*said, f"{athlete} is not slower, so there is no loss to explain; what follows are differences only."]
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
        return ["No single thing stands out that this footage can prove, so nothing has to be changed for now."]
    said = [f"Look at this first: {_told(focus[0], words)}"]
    if len(focus) > 1:
        said.append(f"Then: {_told(focus[1], words)}")
    return said


def _told(finding: Finding, words: Words) -> str:
    proof = words.proof(finding.proof[0]) if finding.proof else ""
    doubt = " It is not quite certain." if finding.confidence < 0.5 else ""
    return f"{finding.rule.plain} ({proof}.){doubt}" if proof else f"{finding.rule.plain}{doubt}"


def _good(judgement: Judgement) -> list[str]:
    best = [said for said, better in judgement.good if better][:2] or [said for said, _ in judgement.good][:2]
    if not best:
        return []
    plain = [one.rstrip(".") for one in best]
    return [f"Already as good as the twin's or better: {'; '.join(one[0].lower() + one[1:] for one in plain)}."]


def _unsure(case: Case, words: Words) -> list[str]:
    account = case.borrowed
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
