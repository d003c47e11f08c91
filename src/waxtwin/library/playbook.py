"""The files that judgement works from: findings with their practice tasks, and schools. Data, not code."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from functools import cache
from graphlib import CycleError, TopologicalSorter
from itertools import combinations
from pathlib import Path
from typing import Any, TypeVar

from waxtwin import ASSETS
from waxtwin.core.borrowed import FACTORS
from waxtwin.core.findings import BODY, TECHNIQUE, THEORY, Compensation, Playbook, Rule, Task
from waxtwin.core.ledger import LINKS
from waxtwin.core.measures import MEASURES
from waxtwin.core.rules import Line, RuleError, parse
from waxtwin.core.schools import TOPICS, School, Stance
from waxtwin.core.stops import LANDING, ORDER
from waxtwin.formats.files import FormatError, read_text, write_text
from waxtwin.library.poses import shipped_poses

FINDINGS, SCHOOLS = ASSETS / "findings.json", ASSETS / "schools"
COMMON = "common"
T = TypeVar("T")
_WORDS = ("title", "plain", "good", "style", "caution", "ahead", "asks", "topic")
_LOOKED_AT = "looked at"  # a caution that sends to somebody else: nothing is thrown under it
TASK_PARTS = ("title", "purpose", "how", "dose", "caution")
_KINDS = (TECHNIQUE, THEORY, BODY)
_NEVER_BOTH = ({"short", "beyond"}, {"short", "level"}, {"beyond", "level"}, {"short", "not-short"},
               {"beyond", "not-beyond"}, {"band-above", "band-below"}, {"loses", "gains"})  # fmt: skip
_LISTS = ("factors", "when", "also", "against", "explains", "tasks")


def load_playbook(path: Path = FINDINGS) -> Playbook:
    """Findings, style measures and practice tasks. Raises FormatError, one plain sentence naming the fault."""
    return _read(path, "a findings file", _playbook)


shipped_playbook = cache(load_playbook)


def load_school(path: Path, *, own: bool = False) -> School:
    """One school. Raises FormatError, also for a finding that is not shipped."""
    return _read(path, "a school", lambda document: _school(document, own=own))


def own_schools() -> Path:
    """Where house schools lie."""
    from platformdirs import user_config_path

    return user_config_path("waxtwin") / "schools"


def load_schools() -> tuple[list[School], list[str]]:
    """The shipped schools, common ground first, then house schools; and a sentence for each file that is damaged."""
    shipped = [load_school(path) for path in sorted(SCHOOLS.glob("*.json"))]
    shipped.sort(key=lambda school: school.id != COMMON)
    found, faults = list(shipped), []
    for path in sorted(own_schools().glob("*.json")):
        try:
            found.append(load_school(path, own=True))
        except FormatError as fault:
            faults.append(f"{fault} This school is left out.")
    return found, faults


def save_school(school: School, folder: Path) -> Path:
    """Write a school as its own file. Raises FormatError when it cannot be written."""
    document = {
        "version": 1, "id": school.id, "label": school.label, "says": school.says, "landing": school.landing,
        "topics": dict(school.topics),
        "stances": {
            name: {"acts": one.acts, "weight": one.weight, "reason": one.reason} for name, one in school.stances.items()
        },
        "targets": {name: list(ends) for name, ends in school.targets.items()}, "rejects": sorted(school.rejects),
    }  # fmt: skip
    path = folder / f"{school.id}.json"
    write_text(path, json.dumps(document, indent=1, ensure_ascii=False) + "\n")
    return path


def _read(path: Path, what: str, make: Callable[[Mapping[str, Any]], T]) -> T:
    try:
        return make(json.loads(read_text(path)))
    except RuleError as fault:
        raise FormatError(path, str(fault)) from None
    except FormatError:
        raise
    except (ValueError, KeyError, TypeError, AttributeError):
        raise FormatError(path, f"it is not {what} that can be read") from None


def _playbook(document: Mapping[str, Any]) -> Playbook:
    tasks = {str(key): _task(one) for key, one in document["tasks"].items()}
    rules = tuple(_rule(entry) for entry in document["findings"])
    ids = [rule.id for rule in rules]
    for rule in rules:
        for kind, names, known in (("finding", rule.explains, ids), ("task", rule.tasks, tasks)):
            _known(rule.id, kind, names, known)
        thrown = next((name for name in rule.tasks if tasks[name].loads_arm), None)
        if _LOOKED_AT in rule.caution and thrown is not None:
            raise RuleError(f"finding {rule.id}: it says “{_LOOKED_AT}”, and its task {thrown} loads the arm")
    if len(set(ids)) < len(ids):
        raise RuleError("two findings share an id")
    _no_circle({rule.id: rule.explains for rule in rules})
    style = {str(one["measure"]): str(one["says"]) for one in document.get("style", [])}
    _known("style", "measure", style, MEASURES)
    returns = tuple(Compensation(str(one["title"]), parse(str(one["line"])), str(one["says"]))
                    for one in document.get("compensations", []))  # fmt: skip
    return Playbook(rules, style, tasks, returns)


def _task(entry: Mapping[str, Any]) -> Task:
    used, shunned, shows = (tuple(map(str, entry.get(key, ()))) for key in ("used_by", "shunned_by", "shows"))
    parts = {part: str(entry[part]) for part in TASK_PARTS}
    _known(parts["title"], "pose", shows, shipped_poses().points)
    if both := sorted({*used} & {*shunned}):
        raise RuleError(f"{parts['title']}: {both[0]} both uses it and does not")
    title, purpose, how, dose, caution = (parts[part] for part in TASK_PARTS)
    return Task(
        title,
        purpose,
        how,
        dose,
        caution,
        loads_arm=bool(entry.get("loads_arm", True)),
        used_by=used,
        shunned_by=shunned,
        shows=shows,
    )


def _rule(entry: Mapping[str, Any]) -> Rule:
    name = str(entry["id"])
    lists = {key: tuple(str(one) for one in entry.get(key, ())) for key in _LISTS}
    _known(name, "stop", [entry["at"]], ("landing", *ORDER))
    _known(name, "link", [entry["link"]], LINKS)
    _known(name, "factor", lists["factors"], FACTORS)
    try:
        when, also, against = (tuple(parse(text) for text in lists[key]) for key in ("when", "also", "against"))
    except RuleError as fault:
        raise RuleError(f"finding {name}: {fault}") from None
    if not when:
        raise RuleError(f"finding {name}: it says nothing under “when”")
    _contradicts(name, when)
    title, plain, good, style, caution, ahead, asks, topic = (str(entry.get(key, "")) for key in _WORDS)
    for part, said in (("title", title), ("plain", plain)):
        if not said.strip():
            raise RuleError(f"finding {name}: it has no “{part}”")
    kind = str(entry.get("kind", TECHNIQUE))
    _known(name, "kind", [kind], _KINDS)
    _known(name, "topic", [topic] if topic else [], TOPICS)
    return Rule(
        name, title, str(entry["at"]), str(entry["link"]), lists["factors"], when, also, against, plain, good, style,
        caution, lists["explains"], lists["tasks"], kind, ahead, asks, topic,
    )  # fmt: skip


def _school(document: Mapping[str, Any], *, own: bool) -> School:
    stances = {}
    for name, one in document.get("stances", {}).items():
        weight = float(one.get("weight", 1.0))
        if not 0 <= weight <= 3:
            raise RuleError(f"the weight of {name} must be from 0 to 3")
        stances[str(name)] = Stance(bool(one["acts"]), weight, str(one.get("reason", "")))
    targets = {}
    for name, ends in document.get("targets", {}).items():
        low, high = (float(end) for end in ends)
        if not low < high:
            raise RuleError(f"the target of {name} ends before it begins")
        targets[str(name)] = (low, high)
    label = str(document["label"])
    landing = str(document.get("landing", "touch"))
    _known(label, "landing", [landing], LANDING)
    _known(label, "measure", targets, MEASURES)
    topics = {str(name): str(said) for name, said in document.get("topics", {}).items()}
    _known(label, "topic", topics, TOPICS)
    rejects = frozenset(map(str, document.get("rejects", ())))
    _known(label, "finding", (*stances, *rejects), {rule.id for rule in shipped_playbook().rules})
    return School(
        str(document["id"]), label, str(document.get("says", "")), landing, topics, stances, targets, own, rejects
    )


def _no_circle(explains: Mapping[str, tuple[str, ...]]) -> None:
    """Raises RuleError where a finding would be the cause of its own cause."""
    try:
        tuple(TopologicalSorter(explains).static_order())
    except CycleError as fault:
        circle = " → ".join(reversed(fault.args[1]))
        raise RuleError(f"findings explain each other in a circle: {circle}") from None


def _contradicts(where: str, when: Sequence[Line]) -> None:
    """Raises RuleError where lines that must all hold cannot."""
    for one, other in combinations(when, 2):
        if one.subject != other.subject:
            continue
        words = {one.word, other.word}
        ends = {line.word: line.size for line in (one, other)}
        apart = words == {"above", "below"} and ends["above"] >= ends["below"]
        if apart or words in _NEVER_BOTH:
            raise RuleError(f"finding {where}: “{one.text}” and “{other.text}” cannot both hold")


def _known(where: str, kind: str, names: Any, known: Any) -> None:
    for name in names:
        if name not in known:
            raise RuleError(f"{where}: there is no {kind} named {name}")
