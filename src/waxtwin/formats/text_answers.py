"""The explanation as lines of text for the terminal."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from waxtwin.core.against_twins import Among
from waxtwin.core.borrowed import LABELS, Borrowed
from waxtwin.core.contrast import Row
from waxtwin.core.explain import Explanation
from waxtwin.core.findings import Finding
from waxtwin.core.ledger import LINKS, Ledger
from waxtwin.core.standing import resolution, verdict
from waxtwin.core.telling import carried, firmness
from waxtwin.core.units import figure


def contrast_line(row: Row, several: Among | None = None) -> str:
    """One measure of a pair, or among several twins."""
    if row.athlete is None or row.twin is None or row.difference is None:
        return f"{row.measure.label:38s} not available: {row.reason}"
    unit = row.measure.unit
    if several is not None:
        where = f"less than {several.short}, level with {several.level}, more than {several.beyond} of {several.of}"
        spread = f"{figure(several.low, unit)} to {figure(several.high, unit)}"
        return f"{row.measure.label:38s} {figure(row.athlete, unit):>12s} {spread:>28s}  {where}"
    margin = f"± {resolution(row, False)}" if row.resolution is not None else ""
    return (
        f"{row.measure.label:38s} {figure(row.athlete, unit):>12s} {figure(row.twin, unit):>12s} {margin:>14s}  "
        f"{verdict(row, False)}"
    )


def explain_lines(found: Explanation, support: Mapping[str, int] | None = None, twins: int = 1) -> list[str]:
    """Ledger, borrowed motion, findings, the account, cautions; `support` {finding: how many twins bear it out}."""
    out: list[str] = []
    if found.case.ledger is not None:
        out += _ledger(found.case.ledger)
    if found.case.borrowed is not None:
        out += _borrowed(found.case.borrowed)
    elif found.unborrowed:
        out.append(f"Motion could not be borrowed: {found.unborrowed}.")
    for one in found.judgement.findings:
        out += _finding(one)
        if support is not None:
            out.append(f"    {support.get(one.id, 0)} of {twins} twins bear it out")
    for title, seen in found.judgement.by_eye.items():
        out += [f"  {title}, which no figure here bears out", *(f"    {words}" for words in seen)]
    if found.judgement.open:
        out.append("Left open by this footage: " + " ".join(found.judgement.open))
    return [*out, found.in_words(), *found.cautions]


def _ledger(account: Ledger) -> Iterator[str]:
    yield f"{account.basis} speed {account.athlete:.2f} m/s against {account.twin:.2f} m/s: {account.gap:+.2f} m/s"
    for link in account.links:
        yield f"  {LINKS[link.id]:12s} {link.contribution:+6.2f} m/s  ± {link.resolution or 0:.2f}"
    yield account.sentence


def _borrowed(account: Borrowed) -> Iterator[str]:
    yield "Borrowed from the twin:"
    for one in account.factors:
        parts = ", ".join(LABELS[name].lower() for name in one.parts)
        notes = ("" if one.resolved else "  not resolved") + (f"  ({parts})" if parts else "")
        yield f"  {one.label:24s} {one.contribution:+6.2f} m/s  {one.low:+.2f} to {one.high:+.2f}{notes}"
    yield from account.warnings


def _finding(found: Finding) -> Iterator[str]:
    mark = "→" if found.in_focus else " "
    yield f"{mark} {found.rule.title} ({firmness(found)}; {carried(found, False)})"
    for proof in found.proof:
        yield f"    {proof.sentence}"
    for proof in found.against:
        yield f"    against it: {proof.sentence}"
    for words in found.body:
        yield f"    {words}"
