"""What a report says, before it is a page: the athlete's part first, then the evidence, then method and cautions."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from waxtwin.core.account import in_words
from waxtwin.core.borrowed import LABELS
from waxtwin.core.contrast import LEVEL, UNAVAILABLE, UNTOLD, Contrast
from waxtwin.core.explain import Explanation
from waxtwin.core.findings import Judgement
from waxtwin.core.footing import footing
from waxtwin.core.ledger import LINKS
from waxtwin.core.measures.registry import KINDS
from waxtwin.core.plan import Focus, Plan, measures_of, proposed, tasks_of
from waxtwin.core.progress import answers, day, told_target
from waxtwin.core.remedies import advice
from waxtwin.core.standing import resolution, verdict
from waxtwin.core.stops import EVENTS, LANDING, ORDER
from waxtwin.core.telling import told_proof, weighed, words_for
from waxtwin.core.units import figure
from waxtwin.report.by_eye import method_by_eye, seen_at, seen_of
from waxtwin.report.parts import (
    Bar,
    Material,
    Picture,
    Report,
    Section,
    Table,
    Thing,
    Wish,
    said_at,
)

_GOOD = 5  # sentences about what is good already: more of them are not read
_FINDINGS = 6
_APART = 6
_FROM_THE_SIDE = ("side", "any")


def compose(material: Material, wish: Wish, made: date) -> Report:
    """The report as wished for."""
    athlete, twin = (said or own for said, own in zip((wish.athlete, wish.twin), material.names, strict=True))
    wanted = wish.parts
    found, pair = material.explanation, material.pair
    seen = seen_of(found.perspective.looked)
    things = _things(material, wish) if "todo" in wanted else ()
    stops = [stop for stop in wish.stops if _at(pair, stop)] if "pictures" in wanted else []
    return Report(
        title=wish.wording.get("title") or "Your delivery beside its twin",
        athlete=athlete, twin=twin, made=day(made.isoformat(), year=True),
        opening=wish.wording.get("opening") or _opening(len(things), found.judgement, pair),
        closing=wish.wording.get("closing", ""),
        things=things,
        good=_good(material, wish, things) if "good" in wanted else (),
        open=advice(found.judgement.open, material.pair),
        answers=answers(material.outcome, wish.imperial) if "log" in wanted and material.outcome else (),
        pictures=tuple(seen_at(seen, stop) if pair.bare else _evidence(pair, stop) for stop in stops),
        account=in_words(found.case, found.judgement, athlete, twin, words_for(wish.imperial))
        if "account" in wanted and not pair.bare else "",
        chain=_chain(found, wish.imperial) if "account" in wanted else (),
        shares=_shares(found, wish.imperial) if "account" in wanted else (),
        findings=_findings(found, wish.imperial) if "findings" in wanted else (),
        tables=tuple(_tables(pair, (athlete, twin), wish.imperial)) if "table" in wanted else (),
        method=tuple(_method(material, named=not (wish.athlete or wish.twin))),
        cautions=found.cautions, imperial=wish.imperial,
        apart=_apart(pair, wish.imperial) if "todo" in wanted and (pair.bare or not things) else (),
        seen=seen if "eye" in wanted else (), measured=not pair.bare,
    )  # fmt: skip


def _opening(count: int, found: Judgement, pair: Contrast) -> str:
    """What is to come. That nothing has to change is said only where most questions are answered."""
    told, left = len(found.told), len(found.open)
    if count:
        todo = {1: "one thing to work on", 2: "two things to work on"}[count] + (", chosen by eye" if pair.bare else "")
    elif pair.bare:
        todo = "looked at by eye and not measured, so what to change first is left open"
    elif found.mostly_told:
        todo = "nothing that has to change for now"
    else:
        todo = f"this footage answers only {told} of {told + left} questions, so what to change first is left open"
    keep = ", and what is alike already" if found.good and (count or found.mostly_told) else ""
    return f"This is what your throws and the twin's show side by side: {todo}{keep}."


# the athlete's page ---------------------------------------------------------------------------------------------------
def _things(material: Material, wish: Wish) -> tuple[Thing, ...]:
    """What is in the plan, or what the account proposes where there is none."""
    found = material.explanation
    plan = material.plan
    if plan is None or not plan.focus:
        view = found.perspective
        plan = Plan(1, proposed(found.judgement, material.pair, view.school, view.playbook.tasks))
    out = []
    for focus, key in zip(plan.focus, ("first", "second"), strict=False):
        target = (
            ""
            if focus.target is None
            else f"{_label(material.pair, focus.target.measure)}: {told_target(focus.target, wish.imperial)}"
        )
        tasks = tasks_of(Plan(1, (focus,)), material.tasks)
        picture = None if focus.target is None else _picture_of(material.pair, focus.target.measure, wish.imperial)
        plain = wish.wording.get(key) or focus.plain
        out.append(Thing(focus.title, plain, target, tasks, picture, _stands(material, focus, wish.imperial)))
    return tuple(out)


def _stands(material: Material, focus: Focus, imperial: bool) -> str:
    """A thing of the plan that this pair shows otherwise: level by now, the other way round, or not to be told."""
    found = material.explanation.judgement
    if any(one.id == focus.finding for one in found.findings) or focus.target is None:
        return ""
    row = material.pair.row(focus.target.measure)
    if row.verdict == LEVEL:
        return "These throws now show it level with the twin's."
    if row.verdict == UNTOLD:
        return f"In these throws it cannot be told: a difference would have to exceed {resolution(row, imperial)}."
    return "" if row.verdict == UNAVAILABLE else f"In these throws: {verdict(row, imperial)} than the twin's."


def _label(pair: Contrast, measure: str) -> str:
    return pair.row(measure).measure.label


def _picture_of(pair: Contrast, measure: str, imperial: bool) -> Picture | None:
    row = pair.row(measure)
    stop = LANDING[pair.athlete.landing] if row.measure.at == "landing" else row.measure.at
    if not _at(pair, stop) or row.difference is None:
        return None
    unit = row.measure.unit
    said = f"{row.measure.label}: {figure(row.athlete, unit, imperial)} against {figure(row.twin, unit, imperial)}"
    return Picture(stop, (measure,), f"{EVENTS[stop].label}. {said}.")


def _at(pair: Contrast, stop: str) -> bool:
    return pair.athlete.time(stop) is not None and pair.twin.time(stop) is not None


def _apart(pair: Contrast, imperial: bool) -> tuple[str, ...]:
    """What differs most beyond the margin."""
    return tuple(
        f"{said_at(row.measure, pair.athlete.landing)}: {figure(row.athlete, row.measure.unit, imperial)} against "
        f"{figure(row.twin, row.measure.unit, imperial)}, {verdict(row, imperial)} (margin {resolution(row, imperial)})"
        for row in pair.differing[:_APART]
    )


def _good(material: Material, wish: Wish, things: Sequence[Thing]) -> tuple[str, ...]:
    """What is known to be alike; nothing that a thing to do speaks of."""
    own = wish.wording.get("good")
    if own:
        return tuple(line.strip() for line in own.splitlines() if line.strip())
    found = material.explanation
    rules = {rule.id: rule for rule in found.perspective.playbook.rules}
    titles = {thing.title for thing in things}
    worked_on = {name for rule in rules.values() if rule.title in titles for name in measures_of(rule)}
    if material.plan is not None:
        worked_on |= {focus.target.measure for focus in material.plan.focus if focus.target is not None}
    said = [words for name, words in found.judgement.good.items() if not worked_on & set(measures_of(rules[name])[:1])]
    return tuple(said[:_GOOD])


# the evidence ---------------------------------------------------------------------------------------------------------
def _evidence(pair: Contrast, stop: str) -> Picture:
    """Both at a stop, with the gauges of what differs most there."""
    landing = LANDING[pair.athlete.landing]
    here = [row for row in pair.rows
            if (landing if row.measure.at == "landing" else row.measure.at) == stop and row.measure.kind in "PS"
            and row.measure.gauge]  # fmt: skip
    here = [row for row in here if row.measure.view in _FROM_THE_SIDE] or here  # one picture is seen from one side
    differ = sorted((row for row in here if row.apart), key=lambda row: -row.clearness)
    lit: dict[str, str] = {}
    for row in differ:
        lit.setdefault(row.measure.gauge, row.measure.id)
    chosen = tuple(lit.values())[:2]
    named = " and ".join(pair.row(name).measure.label.lower() for name in chosen)
    return Picture(
        stop, chosen, f"{EVENTS[stop].label}" + (f": {named}." if named else ": no difference can be told here.")
    )


def _chain(found: Explanation, imperial: bool) -> tuple[Bar, ...]:
    account = found.case.ledger
    if account is None:
        return ()
    parts = [
        (LINKS[one.id], one.contribution, abs(one.contribution) > (one.resolution or 0.0)) for one in account.links
    ]
    return _bars(parts, imperial)


def _shares(found: Explanation, imperial: bool) -> tuple[Bar, ...]:
    account = found.case.borrowed
    if account is None:
        return ()
    parts = []
    for one in account.factors:
        names = ", ".join(LABELS[name].lower() for name in one.parts)
        parts.append((f"{one.label} ({names})" if names else one.label, one.contribution, one.resolved))
    return _bars(parts, imperial)


def _bars(parts: Sequence[tuple[str, float, bool]], imperial: bool) -> tuple[Bar, ...]:
    """Bars around a middle line; the widest reaches the edge."""
    widest = max((abs(value) for _, value, _ in parts), default=0.0) or 1.0
    out = []
    for label, value, resolved in parts:
        width = round(50.0 * abs(value) / widest, 2)
        words = figure(value, "m/s", imperial, signed=True)
        out.append(Bar(label, words, 50.0 if value >= 0 else 50.0 - width, width, value >= 0, resolved))
    return tuple(out)


def _findings(found: Explanation, imperial: bool) -> tuple[Section, ...]:
    kept = [one for one in found.judgement.findings if one.set_aside is None][:_FINDINGS]
    schools = len(found.perspective.schools)
    return tuple(
        Section(
            one.rule.title, weighed(one, schools, imperial),
            (*(told_proof(line, imperial) for line in one.proof), *one.seen),
            (*(told_proof(line, imperial) for line in one.against), *one.seen_against),
        )
        for one in kept
    ) + tuple(
        Section(title, "Seen by eye; no figure of this footage bears it out.", seen, ())
        for title, seen in found.judgement.by_eye.items()
    )  # fmt: skip


def _tables(pair: Contrast, names: tuple[str, str], imperial: bool) -> list[Table]:
    """Every measure by its kind, what differs first."""
    tables = []
    for kind, title in KINDS.items():
        rows = [row for row in pair.rows if row.measure.kind == kind and row.verdict != UNAVAILABLE]
        cells = tuple(
            (said_at(row.measure, pair.athlete.landing), figure(row.athlete, row.measure.unit, imperial),
             figure(row.twin, row.measure.unit, imperial), verdict(row, imperial, brief=True),
             resolution(row, imperial, brief=True))
            for row in sorted(rows, key=lambda row: not row.apart)
        )  # fmt: skip
        if cells:
            tables.append(Table(title, ("Measure", *names, "Athlete stands", "±"), cells))
    return tables


def _glossary(pair: Contrast) -> str:
    """Our words beside the field's own, for stops and for what differs."""
    stops = [EVENTS[stop] for stop in ORDER if _at(pair, stop)]
    words = {kind.label.lower(): kind.usual for kind in stops}
    words |= {row.measure.label.lower(): row.measure.usual for row in pair.differing if row.measure.usual}
    return "In the field's own words: " + "; ".join(f"{ours} = {usual}" for ours, usual in words.items()) + "."


def _method(material: Material, *, named: bool) -> list[str]:
    """How it was measured; why this twin was chosen is left out where names are, for it may speak of them."""
    pair = material.pair
    why = [f"Why this twin: {material.why}"] if material.why and named else []
    if pair.bare:
        return [*method_by_eye(pair), _glossary(pair), *why]
    stands = footing(pair)
    counts = [len(one.throws) for one in pair.sets] if pair.sets else [1, 1]
    landing = EVENTS[LANDING[pair.athlete.landing]].label.lower()
    said = [
        f"Figures are of {counts[0]} {'throw' if counts[0] == 1 else 'throws'} of the athlete and {counts[1]} of the "
        f"twin; landing is taken as “{landing}”.",
        stands.sentence, *stands.limits, _glossary(pair),
        "The margin is what this footage can tell apart: a difference counts only when it is larger. “Level” means "
        "that both are known to be alike, “cannot be told” that this footage is too coarse to say. Lengths are in "
        "percent of standing height, and a left-hander is mirrored.",
        "Shares of the speed are arithmetic on two motions, not proof of cause.",
    ]  # fmt: skip
    finer = pair.athlete.delivery.smoothing
    if finer != 1.0:
        said.append(f"Smoothed {'less' if finer > 1 else 'more'} than the footage itself asks for.")
    return [*said, *why]
