"""The commands of the window: what can be done, from which menu, with which key."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from waxtwin.core.ghost import ORIGINS
from waxtwin.core.stops import EVENTS, ORDER
from waxtwin.ui import rooms
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.wording import key_of
from waxtwin.ui.shared import theme
from waxtwin.ui.shell.commands import Command

if TYPE_CHECKING:
    from waxtwin.ui.shell.app import App


def commands(w: App) -> list[Command]:
    """The list, in the order of the menus."""
    desk, shelf, hand = w.desk, w.library, w.pair.edits

    def has_pair() -> bool:
        return desk.pair.contrast is not None

    def has_throw() -> bool:
        return bool(desk.pair.measured_sides)

    def can_step() -> bool:
        return has_throw() or w.window.title == "Prepare"

    def is_kept() -> bool:
        return desk.pair.kept is not None

    def has_library() -> bool:
        return shelf.store is not None

    found = [
        Command("open_library", "Open or make a library…", "File", w.intake.ask_library, ("Ctrl+L",)),
        Command("team", "Join a team's library…", "File", w.intake.ask_team),
        Command("demo", "Open the demo library", "File", w.open_demo),
        Command("import_files", "Import files…", "File", lambda: w.intake.ask_file(None), ("Ctrl+O",)),
        Command("import_folder", "Import a folder…", "File", w.intake.ask_folder, ("Ctrl+Shift+O",), ),
        Command("import_linked", "Import files, leaving clips where they are…", "File",
                    lambda: w.intake.ask_file(None, link=True)),
        Command("import_lab", "Import a lab file, choosing markers and axes…", "File", w.intake.ask_lab_file),
        Command("open_athlete", "Import as athlete…", "File", lambda: w.intake.ask_file("athlete")),
        Command("open_twin", "Import as twin…", "File", lambda: w.intake.ask_file("twin")),
        Command("back_up", "Back the library up now", "File", w.intake.back_up, (), has_library),
        Command("restore", "Restore a backup…", "File", w.intake.ask_backup),
        Command("work", "Work under way…", "File", w.guide.show_work, (), has_library),
        Command("settings", "Settings…", "File", w.guide.show_settings, ("Ctrl+,",)),
        Command("quit", "Quit", "File", w.window.close, ("Ctrl+Q",)),
        Command("undo", "Undo", "Edit", w.undo.undo, ("Ctrl+Z",), lambda: bool(shelf.undo_label()),
                    named=shelf.undo_label),
        Command("redo", "Redo", "Edit", w.undo.redo, ("Ctrl+Shift+Z", "Ctrl+Y"), lambda: bool(shelf.redo_label()),
                    named=shelf.redo_label),
        Command("detect", "Give this stop back to detection", "Edit", hand.give_back, (), hand.by_hand),
        Command("stop", "This stop: source and history…", "Edit", hand.show_panel, ("S",), has_pair),
        Command("type_athlete", "Type the athlete's time of this stop…", "Edit", partial(hand.ask_time, "athlete"), (),
                    has_pair),
        Command("type_twin", "Type the twin's time of this stop…", "Edit", partial(hand.ask_time, "twin"), (),
                    has_pair),
        Command("earlier_athlete", "This stop a frame earlier, athlete", "Edit", partial(hand.nudge, "athlete", -1),
                    ("[",), has_pair),
        Command("later_athlete", "This stop a frame later, athlete", "Edit", partial(hand.nudge, "athlete", 1), ("]",),
                    has_pair),
        Command("earlier_twin", "This stop a frame earlier, twin", "Edit", partial(hand.nudge, "twin", -1), ("{",),
                    has_pair),
        Command("later_twin", "This stop a frame later, twin", "Edit", partial(hand.nudge, "twin", 1), ("}",),
                    has_pair),
        Command("name_pair", "Name this pair…", "Pair", w.kept.ask_name, (), is_kept),
        Command("exchange", "Exchange athlete and twin", "Pair", w.pairs.exchange, (), lambda: desk.pair.complete),
        Command("instants", "Two instants of this throw", "Pair", w.pairs.take_instants, (), has_throw),
        Command("why", "Why this twin…", "Pair", w.kept.ask_why, (), is_kept),
        Command("peers", "Two of equal standing", "Pair", w.kept.switch_peers, (),
                    lambda: is_kept() and desk.pair.kind != "past", checked=lambda: desk.pair.kind == "peers"),
        Command("one_twin", "Only one twin", "Pair", w.kept.only_one_twin, (), lambda: bool(desk.pair.others)),
        Command("note_athlete", "Pin a note to this stop, athlete…", "Pair", partial(w.kept.ask_note, "athlete"),
                    ("N",), is_kept),
        Command("note_twin", "Pin a note to this stop, twin…", "Pair", partial(w.kept.ask_note, "twin"),
                    ("Shift+N",), is_kept),
        Command("talk", "Talk it through…", "Pair", w.talk_through, ("Ctrl+T",), is_kept),
        Command("name_talk", "Name this talk…", "Pair", lambda: w.talk.flow.ask_name(), (),
                    lambda: w.talks.current is not None),
        Command("remove_talk", "Remove this talk", "Pair", w.talks.forget, (), lambda: w.talks.current is not None),
        Command("units", "Feet, inches and miles an hour", "View", w.guide.switch_units, ("Ctrl+U",),
                    checked=lambda: desk.view.imperial),
        Command("dark", "Dark theme", "View", w.guide.switch_theme, ("Ctrl+D",),
                    checked=lambda: theme.theme().name == "dark"),
        Command("gauges", "Gauges", "View", lambda: desk.view.show(gauges=not desk.view.display.gauges), ("G",),
                    checked=lambda: desk.view.display.gauges),
        Command("trails", "Paths", "View", lambda: desk.view.show(trails=not desk.view.display.trails), ("T",),
                    checked=lambda: desk.view.display.trails),
        Command("ghost", "Lay the other side over", "View", partial(_next_ghost, desk), ("O",), has_pair),
        Command("explain", "Explain the chosen measure", "View", w.context.references.explain_measure, ("E",)),
        Command("house", "Measures of the house…", "View", w.guide.show_house),
        Command("bands", "Bands and their sources…", "View", w.context.references.edit_bands),
        Command("nearer", "Nearer", "View", partial(w.pair.come_nearer, 1.25), ("+", "="), has_throw),
        Command("further", "Further off", "View", partial(w.pair.come_nearer, 0.8), ("-",), has_throw),
        Command("whole_picture", "The whole picture", "View", w.pair.show_whole, ("Backspace",), has_throw),
        Command("rubber", "From the rubber", "View", partial(w.pair.switch_panel, "rubber"), ("R",), has_throw,
                    checked=lambda: w.pair.side.shown == "rubber"),
        Command("picture", "Light, contrast, mirrored…", "View", w.pair.show_picture_dialog, ("P",), has_throw),
        Command("double", "Two views of each throw", "View",
                    lambda: desk.view.show(double=not desk.view.display.double), ("V",), has_throw,
                    checked=lambda: desk.view.display.double),
        Command("alone", "Stages alone", "View", w.leave_out, ("F11",), has_pair,
                    checked=lambda: desk.view.display.alone),
        Command("play", "Play or stand still", "Time", w.play, ("Space",),
                    can_step),
        Command("play_back", "Play backwards", "Time", lambda: desk.clock.play(0 if desk.clock.playing < 0 else -1),
                    ("Shift+Space",), has_throw),
        Command("alone_athlete", "Only the athlete moves", "Time", partial(desk.clock.toggle, "athlete"), ("A",),
                    has_pair, checked=lambda: desk.clock.alone == "athlete"),
        Command("alone_twin", "Only the twin moves", "Time", partial(desk.clock.toggle, "twin"), ("W",),
                    has_pair, checked=lambda: desk.clock.alone == "twin"),
        Command("both", "Both move together again", "Time", w.pair.both_again, (), lambda: bool(desk.clock.alone)),
        Command("tie", "Tie this moment…", "Pair", w.kept.ask_tie, ("K",), is_kept),
        Command("untie", "Take this tied moment off", "Pair", w.kept.untie, (), lambda: desk.clock.tie is not None),
        Command("loop", "Loop this phase", "Time", lambda: desk.clock.set_loop(not desk.clock.loop), ("Ctrl+R",),
                    has_throw, checked=lambda: desk.clock.loop),
        Command("next", "On one frame", "Time", partial(w.step, 1), (".", "Right"), can_step),
        Command("back", "Back one frame", "Time", partial(w.step, -1), (",", "Left"), can_step),
            # with Shift the two keys send another character on most layouts
        Command("next8", "On eight frames", "Time", partial(w.step, 8), ("Shift+.", ">", ":", "Shift+Right"),
                    can_step),
        Command("back8", "Back eight frames", "Time", partial(w.step, -8), ("Shift+,", "<", ";", "Shift+Left"),
                    can_step),
    ]  # fmt: skip
    for stop in ORDER:
        title = f"Hold: {EVENTS[stop].label}"
        found.append(Command(f"hold_{stop}", title, "Stops", partial(hand.hold, stop), (key_of(stop),), has_throw))
    for stop in ORDER:
        title = f"Set at this frame: {EVENTS[stop].label}"
        key = f"Ctrl+{key_of(stop)}"
        found.append(Command(f"set_{stop}", title, "Stops", partial(hand.set_here, stop), (key,), has_throw))
    found.append(Command("estimate", "The next one that is set is estimated, outside the picture", "Stops",
                         hand.switch_estimating, ("Ctrl+E",), has_throw, checked=lambda: hand.estimating))  # fmt: skip
    for key, side in (("J", "athlete"), ("L", "twin")):
        title = f"Eye check: the next answer, {side}"
        answer = partial(w.pair.by_eye, partial(w.pair.eye.turn, side))
        found.append(Command(f"eye_{side}", title, "Stops", answer, (key,), has_throw))
    chalk = w.pair.chalk
    found += [
        Command("chalk", "Marks", "View", partial(w.pair.switch_panel, "chalk"), ("C",), has_throw,
                    checked=lambda: w.pair.side.shown == "chalk"),
        Command("chalk_shown", "Show all marks", "View", lambda: desk.chalk.show(not desk.chalk.visible), ("H",),
                    has_throw, checked=lambda: desk.chalk.visible),
        Command("chalk_copy", "The same mark on the other side", "Edit", chalk.copy, ("X",),
                    lambda: desk.chalk.picked is not None and desk.pair.complete),
        Command("chalk_remove", "Take the chosen mark away", "Edit", chalk.remove, ("Delete",),
                    lambda: desk.chalk.picked is not None),
        Command("eye_next", "The next eye check", "Stops", partial(w.pair.by_eye, w.pair.eye.go_on), ("M",), has_throw),
        Command("eye", "By eye", "View", partial(w.pair.switch_panel, "eye"), ("B",), has_throw,
                    checked=lambda: w.pair.side.shown == "eye"),
        Command("eye_list", "Eye checks…", "View", w.pair.edit_eye_checks),
    ]  # fmt: skip
    for room in rooms.ROOMS:
        found.append(Command(f"room_{room.id}", room.title, "Rooms", partial(w.go_to, room.title), (room.key,)))
    found += [
        Command("help", "This room", "Help", w.guide.show_help, ("F1",)),
        Command("filming", "How to film", "Help", w.guide.show_filming),
        Command("keys", "Keys", "Help", w.guide.show_keys, ("Shift+F1",)),
        Command("tour", "A tour in one minute", "Help", w.guide.start_tour),
        Command("about", "About Wax Twin, and licences", "Help", w.guide.show_about),
    ]
    return found


def _next_ghost(desk: Desk) -> None:
    """Side by side, then laid over at each origin in turn."""
    turns = ["", *ORIGINS]
    desk.view.show(ghost=turns[(turns.index(desk.view.display.ghost) + 1) % len(turns)])
