"""The real window, driven as a user would: choose, hold, step, correct, undo, switch, drop, fail."""

import json
import shutil
from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QColor, QDropEvent, QGuiApplication, QImage
from PySide6.QtWidgets import QToolButton

from conftest import DEMO
from waxtwin.ui.model.desk import SIDES
from waxtwin.ui.shared import theme
from waxtwin.ui.shared.measure_row import MeasureRow
from waxtwin.ui.shared.open_library import demo_folder
from waxtwin.ui.shell.commands import Command, install
from waxtwin.ui.shell.faults import log_place

WREN, INES, PELL = (DEMO / f"{n}.csv" for n in ("wren-tollander", "ines-corvane", "pell-ardmoor"))


def drop(window, path, x=300):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    window.frame.dropEvent(
        QDropEvent(
            QPointF(x, 400), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        )
    )


def idle(qtbot, window):
    qtbot.waitUntil(lambda: not window.jobs.busy, timeout=60000)


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
    window = desk_window(demo=False)
    assert window.bench.table.isHidden() and "demo" in window.bench._empty.text()
    assert not window.bench._open.isEnabled()


def test_choosing_a_pair_on_the_bench(desk_window, qtbot):
    window = desk_window(demo=False)
    window.open_library(demo_folder())
    idle(qtbot, window)
    for name, side in ((PELL, "athlete"), (INES, "twin")):
        window.bench.select(window.librarian.find(name.stem))
        qtbot.mouseClick(window.bench._as[side], Qt.MouseButton.LeftButton)
        idle(qtbot, window)
    qtbot.waitUntil(lambda: window.desk.contrast is not None and window.desk.contrast.twin.resolved, timeout=60000)
    assert window.desk.stored["athlete"].title == "Pell Ardmoor"
    qtbot.mouseClick(window.bench._open, Qt.MouseButton.LeftButton)
    assert window.frame.room is window.pair


def test_choosing_a_row_lights_its_gauge_on_both_sides(desk_window, qtbot):
    window = desk_window()
    window.desk.show(shown="figure")
    window.desk.hold("foot_contact")
    row = next(r for r in window.pair.panel.findChildren(MeasureRow) if r.row.measure.id == "landing_trunk_tilt")
    for stage in (window.pair.stages[side] for side in SIDES):
        assert amount(stage.grab().toImage(), "#FF8E7A") < 5
    qtbot.mouseClick(row, Qt.MouseButton.LeftButton)
    assert window.desk.selected == "landing_trunk_tilt"
    for stage in (window.pair.stages[side] for side in SIDES):
        assert amount(stage.grab().toImage(), "#FF8E7A") > 30
    qtbot.keyClick(row, Qt.Key.Key_Return)
    assert window.desk.selected is None


def test_panel_follows_the_stop_and_the_units(desk_window, qtbot):
    window = desk_window()
    window.desk.hold("release")
    ids = {r.row.measure.id for r in window.pair.panel.rows()}
    assert "release_trunk_tilt" in ids and "stride_length" not in ids
    assert "m/s" in window.pair.findChild(type(window.pair.layout().itemAt(0).widget()))._gap.text()
    window.actions["units"].trigger()
    assert "mph" in window.pair.layout().itemAt(0).widget()._gap.text()


def test_clip_figure_and_both(desk_window, qtbot):
    window = desk_window()
    stage = window.pair.stages["athlete"]
    for shown, has_clip in (("figure", False), ("clip", True), ("both", True)):
        window.desk.show(shown=shown)
        qtbot.waitUntil(lambda wanted=has_clip: stage.shows_clip == wanted, timeout=10000)
        qtbot.wait(200)
        # the hall's planks are only in the clip
        assert (amount(stage.grab().toImage(), "#6B4F3B") > 400) == has_clip


def test_turning_the_figure(desk_window, qtbot):
    window = desk_window()
    window.desk.show(shown="figure")
    stage = window.pair.stages["twin"]
    qtbot.mousePress(stage, Qt.MouseButton.LeftButton, pos=QPoint(100, 200))
    qtbot.mouseMove(stage, QPoint(180, 200))
    qtbot.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=QPoint(180, 200))
    assert window.desk.display.azimuth == pytest.approx(-40) and window.desk.display.camera == "free"
    top = next(b for b in window.pair.findChildren(QToolButton) if b.text() == "top")
    qtbot.mouseClick(top, Qt.MouseButton.LeftButton)
    assert window.desk.display.elevation == 89.0


def test_left_hander_is_shown_mirrored_or_true(desk_window, qtbot):
    window = desk_window()
    window.take("athlete", window.librarian.find(PELL.stem))
    idle(qtbot, window)
    window.desk.show(shown="figure", azimuth=90.0)
    stage = window.pair.stages["athlete"]
    motion = window.desk.analysis("athlete").motion
    mirrored = stage._points(motion, 1.0)
    window.desk.show(mirrored=False)
    true = stage._points(motion, 1.0)
    assert (true[:20, 1] == -mirrored[:20, 1]).all()


def test_landing_by_weight_recomputes(desk_window, qtbot):
    window = desk_window()
    before = window.desk.analysis("athlete").measures["landing_trunk_rotation"].value
    window.desk.set_landing("plant")
    idle(qtbot, window)
    assert window.desk.analysis("athlete").measures["landing_trunk_rotation"].value > before


def test_contrast_and_gap_rooms_show_the_pair(desk_window, qtbot):
    window = desk_window(explained=True)
    window.go_to("Contrast")
    room = window.frame.room
    texts = [room.model.data(room.model.index(i, 0)) for i in range(room.model.rowCount())]
    assert "Stride length" in texts and {"Position", "Timing", "Separation", "Speed"} <= set(texts)
    at = texts.index("Stride length")
    assert "less" in room.model.data(room.model.index(at, 5))
    room.table.selectRow(at)
    assert window.desk.selected == "stride_length"
    curves = room.gallery.curves
    assert len(curves.plots.ci.items) == 3
    words = room.orders["twin"].text()
    assert words.startswith("hips, ") and words.endswith("forearm") and words.count(" ms") == 3
    room.gallery.choose("speed")
    assert len(curves.plots.ci.items) == 4
    window.go_to("Gap")
    gap = window.frame.room
    assert "shoulder" in gap.sentence.text() and "m/s" in gap.sentence.text()
    window.desk.set_imperial(True)
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
    window = desk_window()
    window.guide.switch_theme()
    assert theme.theme().name == "dark"
    assert window.frame.grab().toImage().pixelColor(40, 700).lightness() < 60
    window.guide.switch_theme()
    assert window.frame.grab().toImage().pixelColor(40, 700).lightness() > 200


@pytest.mark.parametrize("name", ["broken.csv", "picture.png", "gone.csv"])
def test_bad_file_leaves_the_open_work_untouched(desk_window, qtbot, tmp_path, name):
    window = desk_window()
    contrast, stored = window.desk.contrast, dict(window.desk.stored)
    if name != "gone.csv":
        (tmp_path / name).write_bytes(b"\x89PNG nothing")
    drop(window, tmp_path / name)
    idle(qtbot, window)
    assert name in window.notice.text
    assert window.desk.contrast is contrast and window.desk.stored == stored
    qtbot.mouseClick(window.notice.findChild(type(window.bench._open)), Qt.MouseButton.LeftButton)
    assert window.notice.text == ""


def test_dropping_a_file_on_a_side(desk_window, qtbot):
    window = desk_window()
    drop(window, PELL, x=900)
    idle(qtbot, window)
    assert (
        window.desk.stored["twin"].title == "Pell Ardmoor" and window.desk.stored["athlete"].title == "Wren Tollander"
    )


def test_pair_fits_1280_by_800_and_the_keyboard_reaches_it(desk_window, qtbot):
    window = desk_window()
    assert window.frame.minimumSizeHint().width() <= 1280 and window.frame.minimumSizeHint().height() <= 800
    assert window.pair.seam.geometry().bottom() < window.pair.height()
    reachable = [b for b in window.pair.findChildren(QToolButton) if b.focusPolicy() & Qt.FocusPolicy.TabFocus]
    assert len(reachable) == len(window.pair.findChildren(QToolButton))


def test_commands_refuse_doubles(desk_window):
    window = desk_window(demo=False)
    one = Command("a", "A", "M", lambda: None, ("Ctrl+7",))
    with pytest.raises(ValueError, match="two commands"):
        install(window.frame, [one, one])
    with pytest.raises(ValueError, match="share the key"):
        install(window.frame, [one, Command("b", "B", "M", lambda: None, ("Ctrl+7",))])
    assert len(window.actions) > 20


def test_cancelled_work_delivers_nothing(desk_window, qtbot):
    window = desk_window(demo=False)
    given, failed = [], []

    def work():
        for _ in range(200):
            qtbot_sleep()
            yield 0.5
        yield "result"

    def qtbot_sleep():
        import time

        time.sleep(0.005)

    window.jobs.start("slow", work, given.append, failed.append)
    qtbot.wait(50)
    window.jobs.cancel("slow")
    qtbot.wait(150)
    assert given == [] and failed == [] and not window.jobs.busy


def test_an_internal_fault_is_told_and_the_window_lives_on(desk_window, qtbot):
    window = desk_window(demo=False)

    def work():
        yield 0.1
        raise RuntimeError("boom")

    with qtbot.captureExceptions() as caught:
        window.jobs.start("bad", work, lambda r: None, window.notice.say)
        idle(qtbot, window)
    assert [str(fault) for _, fault, _ in caught] == ["boom"]  # and would have failed this test
    assert "RuntimeError" in window.notice.text and "is kept" in window.notice.text
    qtbot.mouseClick(window.notice.action, Qt.MouseButton.LeftButton)
    assert "boom" in QGuiApplication.clipboard().text() and "Traceback" in QGuiApplication.clipboard().text()
    log = log_place().read_text()
    assert "RuntimeError" in log and "boom" not in log and str(Path.home()) not in log


def test_markup_in_a_name_is_shown_as_typed(desk_window, qtbot, tmp_path):
    shutil.copy(WREN, tmp_path / "x.csv")
    (tmp_path / "x.delivery.json").write_text(json.dumps({"athlete": {"name": "<h1>Wren</h1>", "height_m": 1.76}}))
    window = desk_window(demo=False)
    window.intake.bring([tmp_path / "x.csv"], "athlete")
    idle(qtbot, window)
    header = window.pair.layout().itemAt(0).widget()
    assert header._names["athlete"].text() == "<h1>Wren</h1>"
    assert header._names["athlete"].textFormat() == Qt.TextFormat.PlainText


def test_settings_are_remembered(desk_window, qtbot):
    from waxtwin.ui.model.settings import load_settings

    window = desk_window(demo=False)
    window.guide.switch_units()
    window.guide.switch_theme()
    kept = load_settings()
    window.guide.switch_theme()
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
    window = desk_window()
    desk = window.desk
    desk.select("stride_length")
    desk.hover("landing_trunk_tilt")
    assert desk.lit == "landing_trunk_tilt"
    desk.hover(None)
    assert desk.lit == "stride_length"


def test_broken_sidecar_is_told_on_screen(desk_window, qtbot, tmp_path):
    window = desk_window()
    contrast = window.desk.contrast
    shutil.copy(WREN, tmp_path / "w.csv")
    (tmp_path / "w.delivery.json").write_text('{"athlete": {"height_m": 99}}')
    drop(window, tmp_path / "w.csv")
    idle(qtbot, window)
    assert "w.delivery.json" in window.notice.text and "height_m" in window.notice.text
    assert window.desk.contrast is contrast


def test_buttons_of_the_pair_room_do_what_they_say(desk_window, qtbot):
    window = desk_window()
    desk, pair = window.desk, window.pair

    def press(text):
        button = next(b for b in pair.findChildren(QToolButton) if b.text() == text)
        qtbot.mouseClick(button, Qt.MouseButton.LeftButton)

    desk.hold("foot_contact")
    start = desk.time
    press("+8")
    assert (desk.time - start) * 240 == pytest.approx(8, abs=0.51)
    press("−8")
    press("−1")
    assert desk.time < start
    for text, mode in (("all stops", "all"), ("clock", "clock"), ("one stop", "one")):
        press(text)
        assert desk.mode == mode
    press("⅛")
    assert desk.rate == 0.125
    press("loop phase")
    assert desk.loop
    press("play ▸")
    assert desk.playing == 1
    press("play ▸")
    assert desk.playing == 0
    press("◂ play")
    assert desk.playing == -1
    press("gauges")
    assert not desk.display.gauges
    press("full weight")
    idle(qtbot, window)
    assert desk.analysis("athlete").landing == "plant"


def test_gauges_can_be_put_out(desk_window, qtbot):
    window = desk_window()
    window.desk.show(shown="figure", gauges=True)
    window.desk.select("landing_trunk_tilt")
    stage = window.pair.stages["athlete"]
    lit = amount(stage.grab().toImage(), "#FF8E7A")
    window.desk.show(gauges=False)
    assert lit > 30 and amount(stage.grab().toImage(), "#FF8E7A") == 0


def test_every_gauge_draws_on_both_bodies(desk_window, qtbot):
    import numpy as np

    from waxtwin.core.body import Body
    from waxtwin.ui.model.gauges import GAUGES, marks

    window = desk_window()
    for side in ("athlete", "twin"):
        motion = window.desk.analysis(side).motion
        body = Body(motion.sample(motion.points, np.array([window.desk.time_of(side)]))[0])
        for gauge in GAUGES:
            found = marks(gauge, body)
            assert found and all(np.isfinite(m.points).all() for m in found), gauge
