"""The Talk room's work: drafting, what is done to scenes, taking in sound, playing, and the film."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from functools import partial
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QInputDialog

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.steps import Steps, part
from waxtwin.formats.place import file_name
from waxtwin.formats.talk import MOST_TITLE, SOUND_RATE, Scene, Spoken, Talk
from waxtwin.report.document import compose
from waxtwin.report.parts import wish_from
from waxtwin.talk import edits, sound
from waxtwin.talk.draft import draft, further_scene, plain_draft
from waxtwin.ui.model.messages import Fault, Success
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.model.talk_state import moment_of
from waxtwin.ui.rooms.talk.film_job import film
from waxtwin.ui.rooms.talk.film_stages import FilmPair
from waxtwin.ui.rooms.talk.film_worker import FilmJob
from waxtwin.ui.shared.context import Context
from waxtwin.ui.shared.file_dialogs import ask_one, ask_save
from waxtwin.ui.shared.material import material_of
from waxtwin.ui.shared.theme import theme

if TYPE_CHECKING:
    import numpy as np

    from waxtwin.ui.rooms.talk.film_dialog import FilmDialog
    from waxtwin.ui.rooms.talk.room import TalkRoom

_SOUNDS = "Sound (*.wav *.flac *.mp3 *.m4a *.ogg *.opus *.aac);;All files (*)"


class TalkFlow(QObject):
    """Does what the room is asked for."""

    def __init__(self, context: Context, room: TalkRoom) -> None:
        super().__init__(room)
        self.context, self.room = context, room
        self.desk, self.talks, self.jobs, self._tell = context.desk, context.talks, context.jobs, context.say
        self.dialog: FilmDialog | None = None

    @property
    def pair(self) -> FilmPair | None:
        """What a film of the desk shows, once both throws are worked out."""
        pair = self.desk.pair
        if pair.contrast is None or not pair.complete or pair.is_one_throw:
            return None
        return FilmPair(
            dict(pair.stored), pair.contrast, dict(pair.others), dict(pair.other_contrasts), pair.kept,
            self.desk.view.imperial,
        )  # fmt: skip

    # drafting ------------------------------------------------------------------------------------------------------
    def draft(self) -> None:
        """A new talk from the plan, or from what the account proposes."""
        made = self._drafted()
        if made is not None:
            self.talks.begin(made, "Draft a talk")

    def _drafted(self) -> Talk | None:
        """The talk that the desk asks for; of two bare clips what was set. That it is too early is told."""
        pair, shown = self.desk.pair, self.desk.pair.contrast
        if shown is None:
            return None
        footage = all(stored.clips for stored in pair.stored.values())
        material = material_of(self.desk, self.context.plan)
        if material is None:
            self._tell("What the pair shows is still being worked out; try again in a moment.")
            return None
        wish = wish_from(pair.report, imperial=self.desk.view.imperial)
        look = None if material.plan is None else material.plan.next_look
        drafted = plain_draft if pair.is_bare else draft
        made = drafted(compose(material, wish, date.today()), shown, footage=footage, next_look=look)
        return made.but(athlete=wish.athlete, twin=wish.twin)

    # scenes --------------------------------------------------------------------------------------------------------
    def edit(self, label: str, make: Callable[[Talk], Talk]) -> None:
        """Change the talk; what cannot be done is told."""
        try:
            self.talks.edit(label, make)
        except WaxTwinError as fault:
            self._tell(Fault(fault))
        except ValueError:
            self._tell(Fault("This scene cannot be so."))
        except KeyError:
            return  # it was removed while somebody was still writing in it

    def ask_name(self) -> None:
        """Give the talk a name."""
        talk = self.talks.talk
        if talk is None:
            return
        title, good = QInputDialog.getText(self.context.window, "Name this talk", "What it is called:", text=talk.title)
        if good:
            self.edit("Name a talk", lambda one: one.but(title=" ".join(title.split())[:MOST_TITLE]))

    def change(self, scene: str, label: str, parts: dict[str, Any]) -> None:
        """Change parts of a scene."""
        self.edit(label, lambda talk: edits.changed(talk, scene, **parts))

    def do(self, what: str) -> None:
        """Do something to the chosen scene: up, down, cut, hide, remove."""
        scene = self.talks.scene
        if scene is None:
            return
        key, at = scene.id, self.room.preview.time
        if what == "cut":
            shown = self.room.preview.at()
            if shown is None or shown.scene.id != key:
                self._tell("Bring the film to where this scene is to be cut.")
                return
            at -= shown.start
        makers: dict[str, tuple[str, Callable[[Talk], Talk]]] = {
            "up": ("Move a scene", lambda talk: edits.moved(talk, key, -1)),
            "down": ("Move a scene", lambda talk: edits.moved(talk, key, 1)),
            "cut": ("Cut a scene", lambda talk: edits.cut(talk, key, at)),
            "hide": ("Take a scene in again" if scene.hidden else "Leave a scene out",
                     lambda talk: edits.changed(talk, key, hidden=not scene.hidden)),
            "remove": ("Remove a scene", lambda talk: edits.removed(talk, key)),
        }  # fmt: skip
        self.edit(*makers[what])

    def add(self, kind: str) -> None:
        """A scene after the chosen one: of FURTHER, what the Pair room shows now, or a draft's first or last."""
        pair, after = self.desk.pair.contrast, self.talks.scene
        drafted = self._drafted() if kind in ("title", "end") else None
        if pair is None or (drafted is None and kind in ("title", "end")):
            return
        if drafted is not None:
            made = drafted.scenes[0 if kind == "title" else -1]
        elif kind == "now":
            made = Scene(id="now", title="As it is now", moments=(moment_of(self.desk, 0.0),))
        else:
            footage = all(stored.clips for stored in self.desk.pair.stored.values())
            made = further_scene(kind, pair, footage=footage)
        where = "" if after is None else after.id
        self.edit("Add a scene", lambda talk: edits.added(talk, made.but(id=edits.new_id(talk)), where))

    def trim(self, scene: str, start: float, end: float) -> None:
        """The part of a scene's take that is heard, s of it."""
        self.edit("Trim a take", lambda talk: edits.trimmed(talk, scene, start, end))

    def show_as_desk(self) -> None:
        """The chosen scene shows what the Pair room does now."""
        scene = self.talks.scene
        if scene is not None and self.desk.pair.contrast is not None:
            self.change(scene.id, "Show another picture", {"moments": (moment_of(self.desk, 0.0),)})

    def take_in(self) -> None:
        """A sound file as a take of the chosen scene."""
        scene = self.talks.scene
        source = None if scene is None else ask_one(self.room, "Take in a sound file", _SOUNDS)
        if source is None or scene is None:
            return
        try:
            target = self.talks.new_voice()
        except WaxTwinError as fault:
            self._tell(Fault(fault))
            return
        self.jobs.start("take in", lambda: sound.take_in(source, target),
                        lambda seconds: self._keep_take(scene, target.name, seconds), self._tell)  # fmt: skip

    def _keep_take(self, scene: Scene, file: str, seconds: float) -> None:
        take = Spoken(file=file, end=seconds)
        self.edit("Take in a sound file", lambda talk: edits.spoken(talk, scene.id, take))

    # playing -------------------------------------------------------------------------------------------------------
    def play(self, on: bool) -> None:
        """Play the talk with its voices from here, or stand still."""
        from waxtwin.capture.voice import hush, say_aloud

        hush()
        preview, talk = self.room.preview, self.talks.talk
        if not on or talk is None:
            preview.play(False)
            return
        scenes, folder = preview.scenes, self.talks.voices
        silent = not any(one.scene.spoken for one in scenes)

        def mixed() -> Steps[np.ndarray]:
            return (yield from part(sound.mixed(scenes, folder), 0.0, 0.9))

        def begin(voice: np.ndarray) -> None:
            preview.play(True)
            try:
                say_aloud(voice[round(preview.time * SOUND_RATE) :])
            except WaxTwinError as fault:
                self._tell(str(fault))

        if silent:
            preview.play(True)
        else:
            self.jobs.start("mix voices", mixed, begin, self._tell)

    # the film ------------------------------------------------------------------------------------------------------
    def ask_film(self) -> None:
        """Ask what film is wanted, and where to."""
        from waxtwin.library.privacy import agreed, not_agreed
        from waxtwin.ui.rooms.talk.film_dialog import FilmDialog

        talk, library, throws = self.talks.talk, self.talks.library.store, self.talks.throws
        if talk is None or library is None or throws is None or self.pair is None:
            return
        own = tuple(self.desk.pair.stored[side].title for side in SIDES)
        names = (talk.athlete or own[0], talk.twin or own[1])
        today = date.today()
        keys = [*throws, *(one.key for one in self.desk.pair.others.values() if one.key is not None)]
        self.dialog = dialog = FilmDialog(
            names, not_agreed(library, keys, today), agreed(library, keys, today), self.room,
            workers=self.context.work.has_workers,
        )  # fmt: skip
        dialog.wanted.connect(partial(self._ask_where, dialog))
        dialog.handed.connect(partial(self._hand_over, dialog))
        dialog.open()

    def _hand_over(self, dialog: FilmDialog) -> None:
        """Have one of a team's workers make the film, in the team's folder."""
        from waxtwin.ui.rooms.talk import film_kind

        current, library, throws = self.talks.current, self.talks.library.store, self.talks.throws
        if current is None or library is None or throws is None:
            return
        film_kind.register()
        asked = film_kind.asked_for(
            throws, current.id, dialog.names, dialog.wish, figures=dialog.figures.isChecked(),
            imperial=self.desk.view.imperial, theme=theme().name,
        )  # fmt: skip
        if self.context.work.hand_over(film_kind.KIND, asked):
            place = film_kind.film_place(library, asked)
            self._tell(Success(f"A worker makes the film: {place.name} in the folder {place.parent}."))
        else:
            self._tell(Fault("No worker is there any more; save the film here."))

    def _ask_where(self, dialog: FilmDialog) -> None:
        names = dialog.names
        usual = f"{file_name(names[0])} beside {file_name(names[1])}.mp4"
        chosen = ask_save(self.room, "Save the film", usual, "Films (*.mp4)")
        pair, talk = self.pair, self.talks.talk
        if not chosen or pair is None or talk is None:
            return
        from dataclasses import replace

        job = FilmJob(talk.but(athlete=names[0], twin=names[1]), replace(pair, figures=dialog.figures.isChecked()),
                      self.talks.voices, chosen, dialog.wish, theme().name)  # fmt: skip
        for file in sound.lost_takes(talk, job.takes):
            self._tell(f"{file}: this take is not there any more; its scenes have captions alone.")
        self.jobs.start(
            "film", lambda: film(job), lambda path: self._tell(Success(f"Written: {path.name}.")), self._tell
        )
