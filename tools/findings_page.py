"""Writes docs/findings.md from the findings and schools files; page and data cannot drift. `--check` only compares."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from pathlib import Path

from waxtwin.core.findings import Rule
from waxtwin.core.rules import Line
from waxtwin.core.schools import TOPICS
from waxtwin.library.playbook import load_playbook, load_schools

PAGE = Path(__file__).parent.parent / "docs" / "findings.md"


def page() -> str:
    """The whole page as Markdown."""
    playbook = load_playbook()
    schools = [one for one in load_schools()[0] if not one.own]
    titles = {rule.id: rule.title for rule in playbook.rules}
    lines = [
        "# Findings and schools",
        "",
        "Made from `findings.json` and `schools/` by `make docs`; do not edit by hand. A line such as “Trunk lean",
        "beyond 6” holds when the athlete is beyond the twin by at least 6 of the measure's unit and by more than is",
        "resolved. Every line under “when” must hold; “also” speaks for the finding, “against” against it.",
    ]
    for rule in playbook.rules:
        lines += ["", *_rule(rule, titles)]
    lines += ["", "## Style, left alone", "", *(f"- {says} (`{name}`)" for name, says in playbook.style.items())]
    lines += ["", "## Practice tasks", "", "| task | purpose | how | how much | beware | used by | not used by |",
              "|---|---|---|---|---|---|---|"]  # fmt: skip
    lines += [f"| {t.title} | {t.purpose} | {t.how} | {t.dose} | {t.caution} | {', '.join(t.used_by)} | "
              f"{', '.join(t.shunned_by)} |" for t in playbook.tasks.values()]  # fmt: skip
    lines += ["", "## Schools", ""]
    lines += [f"- **{one.label}** (landing: {one.landing}): {one.says}" for one in schools]
    differ = [one for one in schools if one.topics]
    lines += ["", f"| topic | {' | '.join(one.label for one in differ)} |", "|---" * (len(differ) + 1) + "|"]
    lines += [f"| {title} | {' | '.join(one.topics.get(key, '') for one in differ)} |" for key, title in TOPICS.items()]
    lines += ["", f"| finding | {' | '.join(one.label for one in schools)} |", "|---" * (len(schools) + 1) + "|"]
    for rule in playbook.rules:
        stances = [one.stance(rule.id) for one in schools]
        lines.append(f"| {rule.title} | {' | '.join(_stance(s.acts, s.weight) for s in stances)} |")
    return "\n".join([*lines, ""])


def _rule(rule: Rule, titles: dict[str, str]) -> Iterator[str]:
    yield f"## {rule.title}"
    yield ""
    if rule.asks:
        yield f"*{rule.asks}*"
        yield ""
    yield f"`{rule.id}`, at {rule.at}, link {rule.link}, factors {', '.join(rule.factors) or 'none'}. {rule.plain}"
    yield ""
    for name, found in (("when", rule.when), ("also", rule.also), ("against", rule.against)):
        if found:
            yield f"- {name}: {'; '.join(_line(line) for line in found)}"
    if rule.style:
        yield f"- left alone: {rule.style}"
    if rule.caution:
        yield f"- caution: {rule.caution}"
    if rule.explains:
        yield f"- could lead to: {', '.join(titles[name].lower() for name in rule.explains)}"


def _line(line: Line) -> str:
    return f"{line.label} {line.word}{f' {line.size:g}' if line.size else ''}"


def _stance(acts: bool, weight: float) -> str:
    return "leaves it" if not acts else "acts first" if weight > 1.15 else "acts"


if __name__ == "__main__":
    if "--check" in sys.argv:
        sys.exit(0 if PAGE.is_file() and PAGE.read_text() == page() else "docs/findings.md is out of date: make docs")
    PAGE.write_text(page())
