"""What a report or a talk of the desk is made from."""

from __future__ import annotations

from waxtwin.report.parts import Material
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.plan_state import PlanBoard


def material_of(desk: Desk, plan: PlanBoard) -> Material | None:
    """The pair, its explanation and the plan, or None as long as something is missing."""
    pair, found, kept, state = desk.pair.figures, desk.pair.explanation, desk.pair.kept, plan.state
    if pair is None or found is None:
        return None
    return Material(pair, found, state.plan, state.tasks, state.outcome, kept.why if kept else "")
