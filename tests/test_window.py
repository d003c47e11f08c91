"""The real window, driven as a user would: choose, hold, step, correct, undo, switch, drop, fail."""

import json
import shutil
from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QColor, QDropEvent, QGuiApplication, QImage
from PySide6.QtWidgets import QToolButton

from conftest import DEMO, idle
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.shared import theme
from waxtwin.ui.shared.measure_row import MeasureRow
from waxtwin.ui.shared.open_library import demo_folder
from waxtwin.ui.shell.commands import Command, install
from waxtwin.ui.shell.faults import log_place

WREN, INES, PELL = (DEMO / f"{n}.csv" for n in ("wren-tollander", "ines-corvane", "pell-ardmoor"))


def drop(app, path, x=300):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    app.window.dropEvent(
        QDropEvent(
            QPointF(x, 400), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        )
    )


def amount(picture: QImage, name: str) -> int:
    """Pixels close to a colour."""
    want = QColor(name)
    near = 0
    for y in range(0, picture.height(), 2):
        for x in range(0, picture.width(), 2):
            c = picture.pixelColor(x, y)
            near += abs(c.red() - want.red()) + abs(c.green() - want.green()) + abs(c.blue() - want.blue()) < 24
    return near


def test_first_run_says_what_to_do(desk_window, qtbot):
    app = desk_window(demo=False)
    assert app.bench.table.isHidden() and "demo" in app.bench._empty.text()
    assert not app.bench._open.isEnabled()


def test_choosing_a_pair_on_the_bench(desk_window, qtbot):
    app = desk_window(demo=False)
    app.library.open(demo_folder())
    idle(qtbot, app)
    moving = (*app.pair._play.values(), app.pair.nearer)
    assert not any(button.isEnabled() for button in moving)  # there is nothing to step through yet
    panel = app.pair.panel
    assert panel._hint.text() == "Choose a pair on the Bench."
    assert all(one.isHidden() for one in (panel.asked, panel.tie, panel.untie))
    for name, side in ((PELL, "athlete"), (INES, "twin")):
        app.bench.select(app.library.find(name.stem))
        qtbot.mouseClick(app.bench._as[side], Qt.MouseButton.LeftButton)
        idle(qtbot, app)
    qtbot.waitUntil(lambda: app.desk.pair.contrast is not None and app.desk.pair.contrast.twin.resolved, timeout=60000)
    assert app.desk.pair.stored["athlete"].title == "Pell Ardmoor"
    qtbot.mouseClick(app.bench._open, Qt.MouseButton.LeftButton)
    assert app.window.room is app.pair and all(button.isEnabled() for button in moving)


def test_choosing_a_row_lights_its_gauge_on_both_sides(desk_window, qtbot):
    app = desk_window()
    app.desk.view.show(shown="figure")
    app.desk.clock.hold("foot_contact")
    row = next(r for r in app.pair.panel.findChildren(MeasureRow) if r.row.measure.id == "landing_trunk_tilt")
    for stage in (app.pair.stages[side] for side in SIDES):
        assert amount(stage.grab().toImage(), "#FF8E7A") < 5
    qtbot.mouseClick(row, Qt.MouseButton.LeftButton)
    assert app.desk.view.selected == "landing_trunk_tilt"
    for stage in (app.pair.stages[side] for side in SIDES):
        assert amount(stage.grab().toImage(), "#FF8E7A") > 30
    qtbot.keyClick(row, Qt.Key.Key_Return)
    assert app.desk.view.selected is None


def test_panel_follows_the_stop_and_the_units(desk_window, qtbot):
    app = desk_window()
    app.desk.clock.hold("release")
    ids = {r.row.measure.id for r in app.pair.panel.rows()}
    assert "release_trunk_tilt" in ids and "stride_length" not in ids
    assert "m/s" in app.pair.findChild(type(app.pair.header))._gap.text()
    app.actions["units"].trigger()
    assert "mph" in app.pair.header._gap.text()


def test_clip_figure_and_both(desk_window, qtbot):
    app = desk_window()
    stage = app.pair.stages["athlete"]
    for shown, has_clip in (("figure", False), ("clip", True), ("both", True)):
        app.desk.view.show(shown=shown)
        qtbot.waitUntil(lambda wanted=has_clip: stage.shows_clip == wanted, timeout=10000)

        def is_painted(wanted=has_clip):  # the hall's planks are only in the clip
            assert (amount(stage.grab().toImage(), "#6B4F3B") > 400) == wanted

        qtbot.waitUntil(is_painted, timeout=10000)


def test_turning_the_figure(desk_window, qtbot):
    app = desk_window()
    app.desk.view.show(shown="figure")
    stage = app.pair.stages["twin"]
    qtbot.mousePress(stage, Qt.MouseButton.LeftButton, pos=QPoint(100, 200))
    qtbot.mouseMove(stage, QPoint(180, 200))
    qtbot.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=QPoint(180, 200))
    assert app.desk.view.display.azimuth == pytest.approx(-40) and app.desk.view.display.camera == "free"
    top = next(b for b in app.pair.findChildren(QToolButton) if b.text() == "top")
    qtbot.mouseClick(top, Qt.MouseButton.LeftButton)
    assert app.desk.view.display.elevation == 89.0


def test_left_hander_is_shown_mirrored_or_true(desk_window, qtbot):
    app = desk_window()
    app.pairs.take("athlete", app.library.find(PELL.stem))
    idle(qtbot, app)
    app.desk.view.show(shown="figure", azimuth=90.0)
    stage = app.pair.stages["athlete"]
    motion = app.desk.pair.analysis("athlete").motion
    mirrored = stage._points(motion, 1.0)
    app.desk.view.show(mirrored=False)
    true = stage._points(motion, 1.0)
    assert (true[:20, 1] == -mirrored[:20, 1]).all()


def test_landing_by_weight_recomputes(desk_window, qtbot):
    app = desk_window()
    before = app.desk.pair.analysis("athlete").measures["landing_trunk_rotation"].value
    app.desk.pair.set_landing("plant")
    idle(qtbot, app)
    assert app.desk.pair.analysis("athlete").measures["landing_trunk_rotation"].value > before


def test_contrast_and_gap_rooms_show_the_pair(desk_window, qtbot):
    app = desk_window(explained=True)
    app.go_to("Contrast")
    room = app.window.room
    texts = [room.model.data(room.model.index(i, 0)) for i in range(room.model.rowCount())]
    assert "Stride length" in texts and {"Position", "Timing", "Separation", "Speed"} <= set(texts)
    at = texts.index("Stride length")
    assert "less" in room.model.data(room.model.index(at, 5))
    room.table.selectRow(at)
    assert app.desk.view.selected == "stride_length"
    curves = room.gallery.curves
    assert len(curves.plots.ci.items) == 3
    words = room.orders["twin"].text()
    assert words.startswith("hips, ") and words.endswith("forearm") and words.count(" ms") == 3
    room.gallery.choose("speed")
    assert len(curves.plots.ci.items) == 4
    app.go_to("Gap")
    gap = app.window.room
    assert "shoulder" in gap.sentence.text() and "m/s" in gap.sentence.text()
    app.desk.view.set_imperial(True)
    # the same gap in both lines, in the chosen unit
    qtbot.waitUntil(lambda: "12.6 mph" in gap.sentence.text() and "12.6 mph" in gap.account.text(), timeout=20000)


@pytest.mark.parametrize("name", ["light", "dark"])
def test_ink_and_caution_are_readable_in_both_themes(name):
    def luminance(value):
        parts = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in QColor(value).getRgbF()[:3]]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    t = theme.THEMES[name]
    pairs = [(t.ink, t.paper), (t.soft, t.paper), (t.soft, t.rail), (t.athlete, t.paper), (t.twin, t.paper),
             (t.thread, t.paper), (t.caution, t.caution_paper), (t.stage_ink, t.stage)]  # fmt: skip
    for fore, back in pairs:
        high, low = sorted((luminance(fore), luminance(back)), reverse=True)
        assert (high + 0.05) / (low + 0.05) >= 4.5, (fore, back)


def test_theme_switch_redresses_everything(desk_window, qtbot):
    app = desk_window()
    app.guide.switch_theme()
    assert theme.theme().name == "dark"
    assert app.window.grab().toImage().pixelColor(40, 700).lightness() < 60
    app.guide.switch_theme()
    assert app.window.grab().toImage().pixelColor(40, 700).lightness() > 200


@pytest.mark.parametrize("name", ["broken.csv", "picture.png", "gone.csv"])
def test_bad_file_leaves_the_open_work_untouched(desk_window, qtbot, tmp_path, name):
    app = desk_window()
    contrast, stored = app.desk.pair.contrast, dict(app.desk.pair.stored)
    if name != "gone.csv":
        (tmp_path / name).write_bytes(b"\x89PNG nothing")
    drop(app, tmp_path / name)
    idle(qtbot, app)
    assert name in app.notice.text
    assert app.desk.pair.contrast is contrast and app.desk.pair.stored == stored
    qtbot.mouseClick(app.notice.findChild(type(app.bench._open)), Qt.MouseButton.LeftButton)
    assert app.notice.text == ""


def test_dropping_a_file_on_a_side(desk_window, qtbot):
    app = desk_window()
    drop(app, PELL, x=900)
    idle(qtbot, app)
    assert (
        app.desk.pair.stored["twin"].title == "Pell Ardmoor"
        and app.desk.pair.stored["athlete"].title == "Wren Tollander"
    )


def test_pair_fits_1280_by_800_and_the_keyboard_reaches_it(desk_window, qtbot):
    app = desk_window()
    assert app.window.minimumSizeHint().width() <= 1280 and app.window.minimumSizeHint().height() <= 800
    assert app.pair.seam.geometry().bottom() < app.pair.height()
    reachable = [b for b in app.pair.findChildren(QToolButton) if b.focusPolicy() & Qt.FocusPolicy.TabFocus]
    assert len(reachable) == len(app.pair.findChildren(QToolButton))


def test_commands_refuse_doubles(desk_window):
    app = desk_window(demo=False)
    one = Command("a", "A", "M", lambda: None, ("Ctrl+7",))
    with pytest.raises(ValueError, match="two commands"):
        install(app.window, [one, one])
    with pytest.raises(ValueError, match="share the key"):
        install(app.window, [one, Command("b", "B", "M", lambda: None, ("Ctrl+7",))])
    assert len(app.actions) > 20


def test_cancelled_work_delivers_nothing(desk_window, qtbot):
    app = desk_window(demo=False)
    given, failed = [], []

    def work():
        for _ in range(200):
            qtbot_sleep()
            yield 0.5
        yield "result"

    def qtbot_sleep():
        import time

        time.sleep(0.005)

    app.jobs.start("slow", work, given.append, failed.append)
    qtbot.wait(50)
    app.jobs.cancel("slow")
    qtbot.wait(150)
    assert given == [] and failed == [] and not app.jobs.busy


def test_an_internal_fault_is_told_and_the_window_lives_on(desk_window, qtbot):
    app = desk_window(demo=False)

    def work():
        yield 0.1
        raise RuntimeError("boom")

    with qtbot.captureExceptions() as caught:
        app.jobs.start("bad", work, lambda r: None, app.notice.say)
        idle(qtbot, app)
    assert [str(fault) for _, fault, _ in caught] == ["boom"]  # and would have failed this test
    assert "RuntimeError" in app.notice.text and "is kept" in app.notice.text
    qtbot.mouseClick(app.notice.action, Qt.MouseButton.LeftButton)
    assert "boom" in QGuiApplication.clipboard().text() and "Traceback" in QGuiApplication.clipboard().text()
    log = log_place().read_text()
    assert "RuntimeError" in log and "boom" not in log and str(Path.home()) not in log


def test_markup_in_a_name_is_shown_as_typed(desk_window, qtbot, tmp_path):
    shutil.copy(WREN, tmp_path / "x.csv")
    (tmp_path / "x.delivery.json").write_text(json.dumps({"athlete": {"name": "<h1>Wren</h1>", "height_m": 1.76}}))
    app = desk_window(demo=False)
    app.intake.bring([tmp_path / "x.csv"], ("athlete",))
    idle(qtbot, app)
    header = app.pair.header
    assert header._names["athlete"].text() == "<h1>Wren</h1>"
    assert header._names["athlete"].textFormat() == Qt.TextFormat.PlainText


def test_settings_are_remembered(desk_window, qtbot):
    from waxtwin.ui.model.settings import load_settings

    app = desk_window(demo=False)
    app.guide.switch_units()
    app.guide.switch_theme()
    kept = load_settings()
    app.guide.switch_theme()
    assert kept.imperial and kept.theme == "dark"


def test_settings_file_in_pieces_is_as_good_as_none(tmp_path):
    from waxtwin.ui.model.settings import Settings, load_settings, save_settings

    save_settings(Settings(theme="dark", imperial=True, folder="/somewhere"))
    assert load_settings() == Settings(theme="dark", imperial=True, folder="/somewhere")
    path = next(tmp_path.rglob("settings.json"))
    for content in ("{", "[]", '{"theme": 7, "imperial": "yes", "folder": null}', '{"theme": "pink"}'):
        path.write_text(content)
        assert load_settings() == Settings()


def test_hovering_a_row_lights_it_only_as_long(desk_window, qtbot):
    app = desk_window()
    desk = app.desk
    desk.view.select("stride_length")
    desk.view.hover("landing_trunk_tilt")
    assert desk.view.lit == "landing_trunk_tilt"
    desk.view.hover(None)
    assert desk.view.lit == "stride_length"


def test_broken_sidecar_is_told_on_screen(desk_window, qtbot, tmp_path):
    app = desk_window()
    contrast = app.desk.pair.contrast
    shutil.copy(WREN, tmp_path / "w.csv")
    (tmp_path / "w.delivery.json").write_text('{"athlete": {"height_m": 99}}')
    drop(app, tmp_path / "w.csv")
    idle(qtbot, app)
    assert "w.delivery.json" in app.notice.text and "height_m" in app.notice.text
    assert app.desk.pair.contrast is contrast


def test_buttons_of_the_pair_room_do_what_they_say(desk_window, qtbot):
    app = desk_window()
    desk, pair = app.desk, app.pair

    def press(text):
        button = next(b for b in pair.findChildren(QToolButton) if b.text() == text)
        qtbot.mouseClick(button, Qt.MouseButton.LeftButton)

    desk.clock.hold("foot_contact")
    start = desk.clock.time
    press("+8")
    assert (desk.clock.time - start) * 240 == pytest.approx(8, abs=0.51)
    press("−8")
    press("−1")
    assert desk.clock.time < start
    for text, mode in (("all stops", "all"), ("clock", "clock"), ("one stop", "one")):
        press(text)
        assert desk.clock.mode == mode
    press("⅛")
    assert desk.clock.rate == 0.125
    press("loop phase")
    assert desk.clock.loop
    press("play ▸")
    assert desk.clock.playing == 1
    press("play ▸")
    assert desk.clock.playing == 0
    press("◂ play")
    assert desk.clock.playing == -1
    press("gauges")
    assert not desk.view.display.gauges
    press("full weight")
    idle(qtbot, app)
    assert desk.pair.analysis("athlete").landing == "plant"


def test_gauges_can_be_put_out(desk_window, qtbot):
    app = desk_window()
    app.desk.view.show(shown="figure", gauges=True)
    app.desk.view.select("landing_trunk_tilt")
    stage = app.pair.stages["athlete"]
    lit = amount(stage.grab().toImage(), "#FF8E7A")
    app.desk.view.show(gauges=False)
    assert lit > 30 and amount(stage.grab().toImage(), "#FF8E7A") == 0


def test_every_gauge_draws_on_both_bodies(desk_window, qtbot):
    import numpy as np

    from waxtwin.core.body import Body
    from waxtwin.ui.model.gauges import GAUGES, marks

    app = desk_window()
    for side in ("athlete", "twin"):
        motion = app.desk.pair.analysis(side).motion
        body = Body(motion.sample(motion.points, np.array([app.desk.clock.time_of(side)]))[0])
        for gauge in GAUGES:
            found = marks(gauge, body)
            assert found and all(np.isfinite(m.points).all() for m in found), gauge


def test_prepare_has_the_filmed_throw_of_the_desk_until_another_is_asked_for(desk_window, qtbot):
    app = desk_window()
    athlete, twin = (app.desk.pair.stored[side] for side in ("athlete", "twin"))
    app.go_to("Prepare")
    qtbot.waitUntil(lambda: app.prepare.state.work is not None, timeout=20000)
    assert athlete.clips and app.prepare.state.work.key == athlete.key
    app.prepare_throw(twin.key)
    qtbot.waitUntil(lambda: app.prepare.state.work.key == twin.key, timeout=20000)
    app.go_to("Pair")
    app.go_to("Prepare")
    idle(qtbot, app)
    assert app.prepare.state.work.key == twin.key
