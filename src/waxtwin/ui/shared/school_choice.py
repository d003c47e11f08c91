"""The schools at hand, which of them speaks, and the place from which a pair is judged."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from waxtwin.core.explain import Perspective
from waxtwin.core.schools import School
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.messages import Fault
from waxtwin.ui.model.settings import Settings, save_settings

if TYPE_CHECKING:
    from pathlib import Path

COMMON = "common"


class Schools:
    """Shipped and house schools, read when first wanted."""

    def __init__(self, desk: Desk, settings: Settings, say: Callable[[str], object]) -> None:
        self._desk, self._settings, self._say = desk, settings, say
        self._loaded: list[School] = []

    def all(self) -> list[School]:
        """Every school; what is wrong with a file is told once."""
        if not self._loaded:
            from waxtwin.library.playbook import load_schools

            self._loaded, faults = load_schools()
            for fault in faults:
                self._say(Fault(fault))
        return self._loaded

    @property
    def speaking(self) -> School:
        """The school that is speaking."""
        schools = self.all()
        return next((one for one in schools if one.id == self._settings.school), schools[0])

    @property
    def landing(self) -> str:
        """What counts as landing: what the user said, else what the school holds."""
        return self._settings.landing or self.speaking.landing

    def choose(self, name: str) -> None:
        """Let another school speak from now on."""
        self._settings.school = name
        save_settings(self._settings)

    def keep(self, school: School) -> None:
        """Keep a house school. Raises WaxTwinError."""
        from waxtwin.library.playbook import save_school

        save_school(school, self._own())
        self._loaded = []

    def remove(self, name: str) -> None:
        """Take a house school away. Raises OSError."""
        (self._own() / f"{name}.json").unlink(missing_ok=True)
        self._loaded = []

    def _own(self) -> Path:
        from waxtwin.library.playbook import own_schools

        return own_schools()

    def perspective(self) -> Perspective:
        """From where the pair on the desk is judged: the school, the athlete's body, the rulings."""
        from waxtwin.library.judging import perspective_of

        # the common ground is what all schools hold; the others are asked for their stance
        others = [one for one in self.all() if one.id != COMMON]
        stored = self._desk.pair.stored
        return perspective_of(stored["athlete"], self.speaking, others, twin=stored.get("twin"))


def finding_titles() -> Mapping[str, str]:
    """Titles of all findings by id."""
    from waxtwin.library.playbook import shipped_playbook

    return {rule.id: rule.title for rule in shipped_playbook().rules}
