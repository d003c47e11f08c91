"""The explanation in the chosen units. Knows no Qt."""

from __future__ import annotations

from waxtwin.core.account import Words
from waxtwin.core.explain import Explanation
from waxtwin.core.findings import BODY, THEORY, Finding
from waxtwin.core.rules import Evidence
from waxtwin.core.standing import resolution
from waxtwin.core.units import converted, figure

_CLEAR = 1.5  # resolutions: a difference that is further out is not just beyond what is resolved


def words_for(imperial: bool) -> Words:
    """How speeds and evidence are said on screen."""

    def proof(evidence: Evidence) -> str:
        row = evidence.row
        if row is None or row.athlete is None or row.twin is None:
            return evidence.sentence
        unit = row.measure.unit
        return f"{row.measure.label} {figure(row.athlete, unit, imperial)} against {figure(row.twin, unit, imperial)}"

    return Words(lambda value: figure(value, "m/s", imperial), proof)


def told(found: Explanation, imperial: bool) -> str:
    """The account as a paragraph."""
    return found.in_words(words_for(imperial))


def firmness(found: Finding) -> str:
    """How firmly the figures behind a finding stand; nothing is said of how sure its cause is."""
    rows = [one.row for one in found.proof[: len(found.rule.when)] if one.row is not None]
    throws = [row.throws for row in rows if row.throws is not None and row.throws.of > 1]
    if throws:
        weakest = min(throws, key=lambda one: one.agree / one.of)
        return f"clear in {weakest.agree} of {weakest.of} throws"
    if any(abs(row.difference or 0.0) < _CLEAR * (row.resolution or 0.0) for row in rows):
        return "just beyond what the clip resolves"
    return "clear in this clip" if rows else "as far as the speeds are known"


def carried(found: Finding, imperial: bool) -> str:
    """How much of the gap a finding could carry, and how far that is known: “could carry 3.5 (2.4 to 4.6) m/s”."""
    if not found.weighed:
        return "how much speed it carries cannot be told"
    if found.carries <= 0:
        return "carries no speed here"
    number, name, digits = converted(found.carries, "m/s", imperial)
    least, most = (converted(end, "m/s", imperial)[0] for end in (found.least, found.most))
    digits = min(digits, 1)
    known = f" ({least:.{digits}f} to {most:.{digits}f})" if f"{least:.{digits}f}" != f"{most:.{digits}f}" else ""
    return f"could carry {number:.{digits}f}{known} {name}"


def told_proof(evidence: Evidence, imperial: bool) -> str:
    """One line of evidence with figures and resolution."""
    row = evidence.row
    if row is None:
        speed = "" if evidence.speed is None else f" {figure(evidence.speed, 'm/s', imperial, signed=True)}"
        return f"{evidence.line.label}{speed}"
    said = words_for(imperial).proof(evidence)
    if row.difference is None:
        return said
    more = "more" if row.difference > 0 else "less"
    size = figure(abs(row.difference), row.measure.unit, imperial)
    if size == figure(0.0, row.measure.unit, imperial):
        size, more = "no", "difference"
    resolved = f", margin ± {resolution(row, imperial)}" if row.resolution is not None else ""
    throws = f", in {row.throws.agree} of {row.throws.of} throws" if row.throws and row.throws.of > 1 else ""
    return f"{said}: {size} {more}{resolved}{throws}"


def weighed(found: Finding, schools: int, imperial: bool) -> str:
    """How firm, how much, how many schools: “clear in 5 of 5 throws · could carry 3.5 (2.4 to 4.6) m/s · 4 of 4 …”."""
    parts = [firmness(found), carried(found, imperial)]
    if found.rule.kind == THEORY:
        parts.append("a theory")
    if found.rule.kind == BODY:
        parts.append("not a fault")
    elif schools:
        parts.append(f"{len(found.acting)} of {schools} would act")
    return "  ·  ".join(parts)
