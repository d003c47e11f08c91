"""What somebody sees by eye: the checks of the stop that is held, the one at hand, and answers that are kept."""

from __future__ import annotations

from datetime import UTC, datetime

from PySide6.QtCore import QObject, Signal

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.eye import EyeAnswer, EyeCheck, asked_by
from waxtwin.library.eye import answers_of, load_checks, save_own
from waxtwin.library.eye_answers import keep_answer, with_answers
from waxtwin.ui.model.messages import Fault
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.shared.context import Context


class EyeFlow(QObject):
    """`changed` when there are other checks here, other answers, or another one is at hand."""

    changed = Signal()

    def __init__(self, context: Context) -> None:
        super().__init__(context.window)
        self.desk, self._context = context.desk, context
        self._checks: list[EyeCheck] = []
        self.only_school = True
        self._at_hand = ""
        self.desk.listen(lambda _: self.changed.emit(), Topic.PAIR, Topic.FACTS, Topic.TIME, Topic.FIGURES)

    @property
    def checks(self) -> list[EyeCheck]:
        """Every check, in the order of the stops; read when first wanted."""
        if not self._checks:
            self._checks, said = load_checks()
            if said:
                self._context.say(Fault(said))
        return self._checks

    @property
    def asked(self) -> list[EyeCheck]:
        """The checks of the school that speaks, or all."""
        return asked_by(self.checks, self._context.schools.speaking.id if self.only_school else "")

    @property
    def here(self) -> list[EyeCheck]:
        """The checks of the stop that is held."""
        return [one for one in self.asked if one.at == self.desk.clock.stop]

    @property
    def at_hand(self) -> EyeCheck | None:
        """The check that the keys answer."""
        here = self.here
        return next((one for one in here if one.id == self._at_hand), here[0] if here else None)

    @property
    def nothing_here(self) -> str:
        """What is said where no check is at hand."""
        if self.desk.clock.stop is None:
            return "Hold a stop first: every check is answered at its own."
        return "Nothing is asked at this stop; M goes on to the next that is."

    def answer_of(self, side: str, check: EyeCheck) -> EyeAnswer | None:
        """What was answered about a side."""
        return answers_of(self.desk.pair.stored.get(side)).get(check.id)

    # doing ---------------------------------------------------------------------------------------------------------
    def switch_school(self, only: bool) -> None:
        """The checks of the school that speaks, or all of them."""
        self.only_school = only
        self.changed.emit()

    def answer(self, side: str, check: EyeCheck, answer: str | None) -> None:
        """Keep an answer about a side, with who gave it and when; the same again takes it back."""
        library, stored = self._context.library.store, self.desk.pair.stored.get(side)
        if library is None or stored is None or stored.key is None:
            return
        given = None
        if answer is not None:
            at = datetime.now(UTC).isoformat(timespec="seconds")
            given = EyeAnswer(answer, self._context.settings.analyst, at)
        try:
            kept = keep_answer(library, stored.key, check, given)
        except WaxTwinError as fault:
            self._context.say(Fault(fault))
            return
        lying = self.desk.pair.stored.items()
        self._at_hand = check.id
        self.desk.pair.renew({side: with_answers(one, kept) for side, one in lying if one.key == stored.key})
        self._context.pairs.judge_again()

    def turn(self, side: str) -> None:
        """The next answer of the check at hand about a side."""
        check = self.at_hand
        if check is None:
            self._context.say(self.nothing_here)
        else:
            given = self.answer_of(side, check)
            self.answer(side, check, check.following(None if given is None else given.answer))

    def go_on(self) -> None:
        """The next check of the list, at the next stop that has one where this stop's are through."""
        asked, now = self.asked, self.at_hand
        order = [one.id for one in asked]
        held = self.desk.pair.stops()
        at = order.index(now.id) if now is not None else -1
        following = next((one for one in [*asked[at + 1 :], *asked[: at + 1]] if one.at in held), None)
        if following is None:
            self._context.say("No stop is set yet at which anything is asked.")
        else:
            self._at_hand = following.id
            if following.at != self.desk.clock.stop:
                self.desk.clock.hold(following.at)
            self.changed.emit()

    # the list itself -----------------------------------------------------------------------------------------------
    def keep_check(self, check: EyeCheck) -> None:
        """Keep a check that was made or changed. Raises WaxTwinError."""
        others = [one for one in self.checks if one.own and one.id != check.id]
        save_own([*others, check])
        self._reread()

    def remove_check(self, name: str) -> None:
        """Take a check of one's own away; a shipped one of the same name is back. Raises WaxTwinError."""
        save_own([one for one in self.checks if one.own and one.id != name])
        self._reread()

    def _reread(self) -> None:
        self._checks = []
        self.changed.emit()
        self._context.pairs.judge_again()
