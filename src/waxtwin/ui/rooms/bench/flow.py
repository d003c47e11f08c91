"""The Bench's work: finding a twin, blending, opening a kept pair again, an athlete's data."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QInputDialog, QWidget

from waxtwin.core.steps import Steps, part
from waxtwin.ui.shared.context import Context
from waxtwin.ui.shared.custody import AthleteFile, open_athlete

if TYPE_CHECKING:
    from waxtwin.core.twins import Shelf
    from waxtwin.library.pairs import Pair
    from waxtwin.ui.rooms.bench.room import BenchRoom
    from waxtwin.ui.rooms.bench.twins_dialog import TwinDialog


class BenchFlow(QObject):
    """Carries out what the Bench asks for."""

    def __init__(self, context: Context, room: BenchRoom) -> None:
        super().__init__(room)
        self.context, self.room = context, room
        self.dialog: TwinDialog | None = None
        self.athlete: AthleteFile | None = None

    @property
    def _window(self) -> QWidget:
        return self.context.window

    def see_pair(self) -> None:
        """On to the pair that lies on the desk."""
        self.context.go_to("Pair")

    def open_kept(self, pair: Pair) -> None:
        """Open a kept pair as it was left."""
        self.context.pairs.take_pair(pair.athlete, pair.twin)
        self.context.go_to("Pair")

    def edit_athlete(self, athlete_id: int) -> None:
        """Who an athlete is, consent, handing out and erasing."""
        self.athlete = open_athlete(self._window, self.context.library, self.context.jobs, athlete_id)

    def ask_blend(self, keys: list[int]) -> None:
        """Average the selected throws into one that can be a twin, by a name that says what it is."""
        library = self.context.library
        names = sorted({entry.name for entry in library.entries if entry.id in keys})
        words = f"An average of {len(keys)} throws; nobody threw it. What it is called:"
        usual = f"Blend of {', '.join(names[:3])}"
        name, good = QInputDialog.getText(self._window, "Blend throws", words, text=usual)
        if good and name.strip():
            library.blend(keys, name.strip(), self.room.select)

    def find_landmarks(self, keys: list[int]) -> None:
        """Have the landmarks of throws found, one after the other, while something else is done."""
        work = self.context.work
        work.ask("landmarks", *({"throw": key, "model": "heavy"} for key in keys))
        what = "One clip waits" if len(keys) == 1 else f"{len(keys)} clips wait"
        self.context.say(f"{what} for landmarks. How far that is stands under Work.")

    def find_twin(self, athlete: int) -> None:
        """Rank the library for an athlete's throw; profiles that are missing are worked out first."""
        from waxtwin.ui.rooms.bench.twins_dialog import TwinDialog

        store, jobs = self.context.library.store, self.context.jobs
        if store is None:
            return
        name = next((entry.name for entry in self.context.library.entries if entry.id == athlete), "")
        dialog = TwinDialog(athlete, name, self._window)

        def work() -> Steps[Shelf | None]:
            from waxtwin.library.profiles import fill, profiles

            yield from part(fill(store), 0.0, 0.95)
            return profiles(store)

        def take(athlete: int, twin: int, why: str) -> None:
            self.context.kept.say_why(why)
            self.context.pairs.take_pair(athlete, twin)
            self.context.go_to("Pair")

        dialog.chosen.connect(take)
        dialog.finished.connect(lambda _: jobs.cancel("profiles"))
        jobs.start("profiles", work, dialog.show_shelf, self.context.say)
        dialog.open()
        self.dialog = dialog
