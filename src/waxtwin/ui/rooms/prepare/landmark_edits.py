"""The landmarks of a clip in preparation: who is meant, found by the model, clicked, followed, mended."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from waxtwin.core.landmarks import INDEX
from waxtwin.core.marks import FLOW, MODEL, Marks
from waxtwin.core.repair import Swap, find_outliers
from waxtwin.core.steps import Steps
from waxtwin.library.preparing import keep_marks
from waxtwin.ui.rooms.prepare.state import PrepareTopic

if TYPE_CHECKING:
    from waxtwin.capture.people import Person
    from waxtwin.ui.rooms.prepare.flow import PrepareFlow


class LandmarkEdits:
    """Carries out what is done about the landmarks of the clip that is looked at."""

    def __init__(self, flow: PrepareFlow) -> None:
        self._flow, self.state = flow, flow.state
        self.people: list[Person] = []
        self.person: int | None = None
        self.model = "heavy"  # surest by far, and a throw takes it half a minute

    def look_for_people(self) -> None:
        """See who is in the clip; the likeliest pitcher is proposed."""
        now = self._flow.now()
        if now is None:
            return
        view = now[1]

        def steps() -> Steps[list[Person]]:
            from waxtwin.capture.people import find_people

            return (yield from find_people(view.path, int(view.facts["frames"]), view.size, thorough=True))

        def done(found: list[Person]) -> None:
            self.people, self.person = found, 0 if found else None
            self.state.tell(PrepareTopic.PEOPLE)
            if not found:
                self._flow.told.emit(
                    f"{view.name}: nobody can be seen in this clip; landmarks can still be clicked by hand."
                )

        self._flow.jobs.start("people", steps, done, self._flow.told.emit)

    def choose_person(self, number: int) -> None:
        """Say which of the people is the pitcher."""
        self.person = number
        self.state.tell(PrepareTopic.PEOPLE)

    def point_at_person(self, x: float, y: float) -> None:
        for number, person in enumerate(self.people):
            x0, y0, x1, y1 = person.box_at(self.state.frame)
            if x0 <= x <= x1 and y0 <= y <= y1:
                self.choose_person(number)
                self.state.aim_at("look")
                return
        self._flow.told.emit("Nobody was found at that place.")

    def find_landmarks(self) -> None:
        """Let the model find the pitcher's landmarks in the trimmed clip; resumes what was begun."""
        now = self._flow.now()
        if now is None:
            return
        work, view = now
        who = self.people[self.person] if self.person is not None and self.people else None
        times, model = self.state.times, self.model

        def steps() -> Steps[Marks]:
            from waxtwin.capture.pitcher import find_pitcher

            return (yield from find_pitcher(
                view.path, times, view.size, work.athlete.throws, view.clock, name=view.name, model=model,
                trim=view.trim, who=who, said=work.named,
            ))  # fmt: skip

        def done(found: Marks) -> None:
            current = self.state.marks or Marks.empty(found.times)
            self._keep_marks(current.merged(found, MODEL), "Find landmarks")

        self._flow.jobs.start("landmarks", steps, done, self._flow.told.emit)

    def _keep_marks(self, marks: Marks, label: str) -> None:
        now = self._flow.now()
        if now is not None:
            self._flow.keep(lambda library: keep_marks(library, *now, marks, label))

    def _edit(self, label: str, edit: Callable[[Marks], Marks]) -> None:
        marks = self.state.marks
        if marks is not None:
            self._keep_marks(edit(marks), label)

    def _slow(self) -> float:
        """How much too slowly the clip plays."""
        view = self.state.view
        return 1.0 if view is None else view.clock.slow

    def put_mark(self, name: str, x: float, y: float) -> None:
        """A landmark set by hand on this frame."""
        frame = self.state.frame
        self._edit(f"Mark {name.replace('_', ' ')}", lambda marks: marks.put(frame, INDEX[name], x, y))

    def exchange(self, swap: Swap) -> None:
        """Change left and right over in a stretch."""
        self._edit(f"Exchange {swap.group}", lambda marks: marks.exchange(swap.group, swap.start, swap.stop))

    def drop_strays(self) -> None:
        """Drop every mark that lies off its path."""
        self._edit("Drop stray marks", lambda marks: marks.drop(find_outliers(marks, self._slow())))

    def fill_gaps(self) -> None:
        """Close short gaps."""
        self._edit("Fill gaps", lambda marks: marks.filled(0.1, self._slow()))

    def lock(self) -> None:
        """Lock the chosen landmark's marks: automatic steps leave them alone."""
        name = self.state.landmark
        if name is not None:
            self._edit(f"Lock {name.replace('_', ' ')}", lambda marks: marks.accept(slice(None), INDEX[name]))

    def clear_here(self) -> None:
        """Take the chosen landmark off this frame."""
        name, frame = self.state.landmark, self.state.frame
        if name is None:
            return

        def edit(marks: Marks) -> Marks:
            chosen = marks.source * 0 > 1
            chosen[frame, INDEX[name]] = True
            return marks.drop(chosen)

        self._edit(f"Clear {name.replace('_', ' ')}", edit)

    def follow(self) -> None:
        """Fill in the chosen landmark between the frames where it was set by hand, by optical flow and spline."""
        now, name, marks = self._flow.now(), self.state.landmark, self.state.marks
        if now is None or name is None or marks is None:
            return
        path = now[1].path

        def steps() -> Steps[Marks]:
            from waxtwin.capture.ball import follow_ball
            from waxtwin.capture.optical_flow import follow

            return (yield from follow_ball(path, marks) if name == "ball" else follow(path, marks, INDEX[name]))

        def done(found: Marks) -> None:
            self._edit(f"Follow {name.replace('_', ' ')}", lambda now: now.merged(found, FLOW))

        self._flow.jobs.start("follow", steps, done, self._flow.told.emit)
