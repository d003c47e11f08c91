"""The explanation in the chosen units. Knows no Qt."""

from __future__ import annotations

from waxtwin.core.account import Words
from waxtwin.core.explain import Explanation
from waxtwin.core.findings import Finding
from waxtwin.core.rules import Evidence
from waxtwin.core.units import figure, resolution


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
    resolved = f", ± {resolution(row, imperial)}" if row.resolution is not None else ""
    throws = f", in {row.throws.agree} of {row.throws.of} throws" if row.throws and row.throws.of > 1 else ""
    return f"{said}: {size} {more}{resolved}{throws}"


def weighed(found: Finding, schools: int, imperial: bool) -> str:
    """How sure, how much, how many schools: “92 % sure · could carry 3.3 m/s · 4 of 4 schools would act”."""
    parts = [f"{found.confidence:.0%} sure".replace("%", " %")]
    if found.carries > 0:
        parts.append(f"could carry {figure(found.carries, 'm/s', imperial)}")
    else:
        parts.append("carries no speed here")
    if found.rule.kind != "technique":
        parts.append("not a fault")
    elif schools:
        parts.append(f"{len(found.acting)} of {schools} would act")
    return "  ·  ".join(parts)
