"""What a newcomer meets: pictures, pages, the window on a real X display."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from PySide6.QtGui import QImage

from waxtwin.ui.rooms import ROOMS
from waxtwin.ui.rooms.pair.scenes import LARGE
from waxtwin.ui.shared.open_library import demo_folder
from waxtwin.ui.shell.pictures import Camera, settle

ROOT = Path(__file__).parent.parent


@pytest.mark.parametrize("page", ["measures", "findings"])
def test_pages_made_from_registries_and_data_are_up_to_date(page):
    done = subprocess.run([sys.executable, f"tools/{page}_page.py", "--check"], cwd=ROOT, check=False)
    assert done.returncode == 0, "run make docs"


def test_pictures_named_in_the_readme_exist():
    import re

    for name in re.findall(r"\((docs/[^)]+|[A-Z]+(?:\.md)?)\)", (ROOT / "README.md").read_text()):
        assert (ROOT / name).is_file(), name
    shown = {path.stem for path in (ROOT / "docs/screenshots").glob("*.png")}
    assert shown == {name for room in ROOMS for name in room.pictures} and len(shown) < 20


def test_demo_pictures_show_every_room(run, tmp_path, monkeypatch, demo_library, quick_work):
    shutil.copytree(demo_library, demo_folder())  # how the demo is brought in is tested with importing
    monkeypatch.setattr("waxtwin.ui.model.computing._SET_COPIES", 8)
    # the stand-ins' own pace is tested with them
    monkeypatch.setattr(
        "waxtwin.ui.rooms.session.scenes.show", lambda app, camera: (app.go_to("Session"), camera.shoot("session"))
    )
    # so is the landmark model
    monkeypatch.setattr("waxtwin.ui.rooms.prepare.landmark_edits.LandmarkEdits.find_landmarks", lambda edits: None)
    monkeypatch.setattr(Camera, "settle", lambda camera, *, quiet=0.1: settle(camera.app, quiet=quiet))
    code, _, said = run("demo", "--pictures", tmp_path)
    assert code == 0, said
    names = {p.stem for p in tmp_path.glob("*.png")}
    assert names == {name for room in ROOMS for name in room.pictures}
    for path in tmp_path.glob("*.png"):
        picture = QImage(str(path))
        size = {"find-a-twin": (1020, 660), "pair-dark": LARGE}.get(path.stem, (1280, 800))
        assert (picture.width(), picture.height()) == size
        colours = {picture.pixel(x, y) for x in range(0, picture.width(), 9) for y in range(0, picture.height(), 9)}
        assert len(colours) > (60 if path.stem.startswith("pair") else 8), path.stem


@pytest.mark.skipif(shutil.which("Xvfb") is None, reason="needs Xvfb, which set-up installs")
def test_window_opens_on_a_real_display(tmp_path, demo_library):
    shutil.copytree(demo_library, demo_folder())
    code = (
        "from PySide6.QtCore import QTimer\n"
        "from waxtwin.ui.shared.application import application\nfrom waxtwin.ui.shell.start import start\n"
        "from waxtwin.ui.model.settings import Settings\n"
        "app = application(); got = []\n"
        "frame = start(Settings(), lambda w: (got.append(w), w.open_demo()))\n"
        "t = QTimer(); t.timeout.connect(lambda: got and got[0].desk.pair.contrast and (frame.close(), app.quit()))\n"
        "t.start(50); QTimer.singleShot(60000, lambda: app.exit(3))\n"
        "code = app.exec(); print(app.platformName()); raise SystemExit(code)\n"
    )
    env = {k: v for k, v in os.environ.items() if k != "QT_QPA_PLATFORM"} | {"XDG_CONFIG_HOME": str(tmp_path)}
    done = subprocess.run(
        ["xvfb-run", "-a", sys.executable, "-c", code], capture_output=True, text=True, env=env, check=False
    )
    assert done.returncode == 0 and "xcb" in done.stdout, done.stderr


@pytest.mark.parametrize("page", ["docs/contributing.md", "docs/architecture.md"])
def test_every_place_that_the_pages_name_exists(page):
    import re

    named = re.findall(r"`((?:src|tests|tools|docs|benchmarks|ui)/[\w/.]+)`", (ROOT / page).read_text())
    assert len(named) > 3
    for place in named:
        assert (ROOT / place).exists() or (ROOT / "src" / "waxtwin" / place).exists(), place
