"""Everything that the Plan room shows about an athlete, read in one go. Knows no Qt."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from waxtwin.core.arm_sensor import ArmReading
from waxtwin.core.findings import Task
from waxtwin.core.plan import Aim, Focus, Plan, running
from waxtwin.core.trend import ArmNote, Figures, Limits, Outcome, outcome

if TYPE_CHECKING:
    from waxtwin.library.log import Day
    from waxtwin.library.store import Library


@dataclass(frozen=True)
class PlanState:
    """An athlete's plans, log and catalogue; `people` {athlete: name} are those to choose from, `aim` what a
    what-if on the desk was kept with, `seen` what somebody saw there that could be worked on.
    """

    athlete: int | None = None
    people: Mapping[int, str] = field(default_factory=dict)
    plans: tuple[Plan, ...] = ()
    notes: tuple[ArmNote, ...] = ()
    days: tuple[Day, ...] = ()
    limits: Limits = field(default_factory=Limits)
    tasks: Mapping[str, Task] = field(default_factory=dict)
    own_tasks: frozenset[str] = frozenset()
    figures: tuple[Figures, ...] = ()
    aim: Aim | None = None
    arm_readings: tuple[ArmReading, ...] = ()
    seen: tuple[Focus, ...] = ()

    @property
    def plan(self) -> Plan | None:
        """The latest version, which is changed or gone on from."""
        return self.plans[-1] if self.plans else None

    @property
    def running(self) -> Plan | None:
        """The version that is being worked on."""
        return running(self.plans)

    @property
    def outcome(self) -> Outcome | None:
        """Whether the running version works."""
        if self.running is None:
            return None
        return outcome(self.running, self.figures, self.notes, self.arm_readings)


def read_state(library: Library, athlete: int) -> PlanState:
    """What the library keeps about an athlete's plan and log."""
    from waxtwin.library.arm_sensor import arm_readings
    from waxtwin.library.log import arm_notes, days_of, limits_of
    from waxtwin.library.plans import catalogue, plans_of, with_own

    tasks = catalogue(library)
    return PlanState(
        athlete, {}, plans_of(library, athlete), arm_notes(library, athlete), days_of(library, athlete),
        limits_of(library, athlete), tasks, with_own(tasks, library),
        arm_readings=arm_readings(library, athlete),
    )  # fmt: skip


class PlanBoard:
    """Whose plan is on show, as the Plan room keeps it and the Report room reads it."""

    def __init__(self) -> None:
        self.state = PlanState()
