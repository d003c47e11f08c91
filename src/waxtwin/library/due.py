"""Where every athlete of a library stands, read and worked out in one go."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

from sqlalchemy import func, select

from waxtwin.core.due import Standing, by_urgency, standing
from waxtwin.core.plan import running
from waxtwin.core.steps import Steps
from waxtwin.library.log import arm_notes, figures_of
from waxtwin.library.plans import plans_of
from waxtwin.library.records import Athlete, DeliveryRow
from waxtwin.library.store import Library


def standings_of(library: Library, landing: str, today: date) -> Steps[list[Standing]]:
    """Everybody with a plan, a note on the arm or a date until which data is kept; who needs attention comes first."""
    with library.reading() as session:
        looked = select(DeliveryRow.athlete_id, func.max(DeliveryRow.recorded)).group_by(DeliveryRow.athlete_id)
        last = {row[0]: row[1] for row in session.execute(looked)}
        people = [
            Standing(row.id, _called(row), last.get(row.id), born=row.born, consent_on=row.consent_on,
                     keep_until=row.keep_until)
            for row in session.scalars(select(Athlete).order_by(Athlete.name))
        ]  # fmt: skip
    found = []
    for n, one in enumerate(people):
        yield n / len(people)
        plans = plans_of(library, one.athlete)
        plan = running(plans) or (plans[-1] if plans else None)
        whole = replace(one, plan=plan, notes=arm_notes(library, one.athlete))
        if whole.known:
            throws = (yield from figures_of(library, one.athlete, landing)) if plan and plan.start else ()
            found.append(standing(whole, throws, today))
    return by_urgency(found)


def _called(athlete: Athlete) -> str:
    return athlete.name if athlete.is_named or not athlete.deliveries else athlete.deliveries[0].who
