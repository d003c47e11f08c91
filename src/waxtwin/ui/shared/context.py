"""What every room is handed: the desk, the library, long work, and ways to speak and to go elsewhere."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from PySide6.QtWidgets import QWidget

from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.pair_flow import PairFlow
from waxtwin.ui.model.plan_state import PlanBoard
from waxtwin.ui.model.settings import Settings
from waxtwin.ui.model.work import Runner
from waxtwin.ui.shared.house import House
from waxtwin.ui.shared.kept_pair import KeptPair
from waxtwin.ui.shared.open_library import OpenLibrary
from waxtwin.ui.shared.references import References
from waxtwin.ui.shared.school_choice import Schools
from waxtwin.ui.shared.talk_recording import TalkRecording
from waxtwin.ui.shared.talks import Talks
from waxtwin.ui.shared.work_queue import WorkQueue


@dataclass(frozen=True)
class Context:
    """`say(sentence)` tells the user, `go_to(room)` shows a room, `prepare(key)` brings a throw into the Prepare room,
    `do(command)` carries out a command of the menu by its id.
    """  # fmt: skip

    desk: Desk
    library: OpenLibrary
    jobs: Runner
    settings: Settings
    pairs: PairFlow
    schools: Schools
    references: References
    kept: KeptPair
    house: House
    talks: Talks
    recording: TalkRecording
    work: WorkQueue
    window: QWidget
    say: Callable[..., None]
    go_to: Callable[[str], None]
    prepare: Callable[[int], None]
    do: Callable[[str], None]
    plan: PlanBoard = field(default_factory=PlanBoard)
