"""Pictures of every room, made from the demo by the real window without a display."""

from __future__ import annotations

import sys
import time
from pathlib import Path

from PySide6.QtCore import QMessageLogContext, QSize, QtMsgType, qInstallMessageHandler
from PySide6.QtWidgets import QApplication, QDialog

from waxtwin.core.errors import WaxTwinError
from waxtwin.ui.model.settings import Settings
from waxtwin.ui.shared.open_library import DEMO
from waxtwin.ui.shell.app import App
from waxtwin.ui.shell.start import application, open_app

_PATIENCE = 60.0


def render_rooms(out: Path) -> list[Path]:
    """Write a PNG per room and state to `out`; returns the paths. Raises WaxTwinError when that cannot be done."""
    try:
        out.mkdir(parents=True, exist_ok=True)
    except OSError as fault:
        raise WaxTwinError(f"{out}: the folder cannot be made ({fault.strerror})") from None
    application()
    # the display-less platform says on every window that it has no size hints; nobody needs to read that
    before = qInstallMessageHandler(_quiet)
    workshop = open_app(Settings())
    frame, desk = workshop.frame, workshop.desk
    frame.resize(QSize(1280, 800))
    frame.show()
    made: list[Path] = []

    def shoot(name: str) -> None:
        settle(workshop)
        path = out / f"{name}.png"
        if not frame.grab().save(str(path)):
            raise WaxTwinError(f"{path.name}: the picture cannot be written")
        made.append(path)

    shoot("bench-empty")
    workshop.open_demo()
    settle(workshop)
    desk.show(shown="figure")
    desk.select("landing_trunk_tilt")
    shoot("pair")
    desk.show(shown="clip")
    desk.hold("release")
    desk.select("release_trunk_tilt")
    shoot("pair-clips")
    desk.show(shown="figure", ghost="rubber", inset="lead_knee", trails=True)
    desk.hold("foot_contact")
    shoot("pair-over")
    desk.show(ghost="", inset="", trails=False)
    desk.select(None)
    desk.show(shown="figure", azimuth=0.0, elevation=89.0, camera="top")
    desk.hold("foot_contact")
    desk.pull("all")
    desk.select("landing_separation")
    shoot("pair-top")
    workshop.go_to("Contrast")
    shoot("contrast")
    workshop.go_to("Gap")
    shoot("gap")
    workshop.gap.turn_to("shares")
    shoot("gap-borrowed")
    workshop.gap.turn_to("whatif")
    workshop.gap.whatif.preset("both")
    settle(workshop, quiet=0.8)
    shoot("gap-what-if")
    workshop.planner.propose()
    workshop.go_to("Plan")
    shoot("plan")
    workshop.plan.turn_to("log")
    shoot("plan-log")
    workshop.go_to("Report")
    shoot("report")
    for title in ("juno-wexcombe", "pell-ardmoor"):
        key = workshop.librarian.find(title)
        if key is not None:
            workshop.keeper.add_twin(key)
            settle(workshop)
    workshop.go_to("Pair")
    desk.show(azimuth=0.0, elevation=4.0, camera="side")
    shoot("pair-several")
    workshop.keeper.only_one_twin()
    workshop.go_to("Bench")
    athlete = workshop.librarian.find("wren-tollander")
    if athlete is not None:
        workshop.find_twin(athlete)
        settle(workshop)
        _shoot_dialog(workshop.twin_dialog, out / "find-a-twin.png", made)
    shoot("bench")
    _log_throws(workshop)
    shoot("session")
    workshop.live.end()
    _prepare(workshop)
    shoot("prepare")
    workshop.piece.go_to_step("ready")
    shoot("prepare-ready")
    workshop.guide.switch_theme()
    workshop.go_to("Pair")
    desk.pull("one")
    desk.show(azimuth=0.0, elevation=4.0, camera="side", shown="both")
    shoot("pair-dark")
    frame.close()
    qInstallMessageHandler(before)
    return made


def _shoot_dialog(dialog: QDialog, path: Path, made: list[Path]) -> None:
    if not dialog.grab().save(str(path)):
        raise WaxTwinError(f"{path.name}: the picture cannot be written")
    dialog.reject()
    made.append(path)


def _log_throws(workshop: App) -> None:
    """A session with the stand-ins' radar gun and plates, until three throws are logged."""
    workshop.go_to("Session")
    workshop.live.use_stand_ins(("--throws", "3", "--every", "5", "--fps", "0", "--misread", "2", "--unplugged", "3"))
    end = time.monotonic() + _PATIENCE
    while time.monotonic() < end:
        QApplication.processEvents()
        time.sleep(0.01)
        live = workshop.live.live
        if live is not None and len(live.throws) == 3 and all(map(live.complete, live.throws)):
            return
    raise WaxTwinError("the stand-ins logged no throws")


def _prepare(workshop: App) -> None:
    """A raw clip in the Prepare room, as a phone brings it, with the landmarks that the model finds in the throw."""
    workshop.intake.into_demo = True  # nothing is asked here
    workshop.intake.bring([DEMO / "wren-tollander-side.mp4"])
    settle(workshop)
    workshop.preparer.trim(1.15, 2.35)
    workshop.preparer.model = "lite"
    workshop.preparer.find_landmarks()
    settle(workshop)
    workshop.preparer.say_who("Wren Tollander", "R", 1.76)
    workshop.piece.go_to_step("landmarks")
    workshop.piece.go_to_time(2.02)
    workshop.notice.hide()


def _quiet(kind: QtMsgType, context: QMessageLogContext, text: str) -> None:
    if "propagateSizeHints" not in text:
        print(text, file=sys.stderr)


def settle(workshop: App, *, quiet: float = 0.35) -> None:
    """Let jobs, clips and painting come to rest: nothing under way for `quiet` seconds."""
    end = time.monotonic() + _PATIENCE
    quiet_since = time.monotonic()
    while time.monotonic() < end:
        QApplication.processEvents()
        if workshop.jobs.busy:
            quiet_since = time.monotonic()
        elif time.monotonic() - quiet_since > quiet:
            return
        time.sleep(0.005)
    raise WaxTwinError("the demo did not come to rest in time")
