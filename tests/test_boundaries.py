"""The guards on the layers work, and have been seen to fail."""

import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent


@pytest.mark.parametrize(
    ("file", "line"),
    [("core/track.py", "import PySide6"), ("core/track.py", "from waxtwin.formats import read_track"),
     ("ui/model/desk.py", "from PySide6 import QtCore"), ("simulate/params.py", "import waxtwin.library.store")],
)  # fmt: skip
def test_a_planted_violation_is_caught(tmp_path, file, line):
    shutil.copytree(
        ROOT / "src" / "waxtwin", tmp_path / "src" / "waxtwin", ignore=shutil.ignore_patterns("assets", "__pycache__")
    )
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    target = tmp_path / "src" / "waxtwin" / file
    target.write_text(target.read_text() + f"\n{line}\n")
    command = [sys.executable, "-c", "from importlinter.cli import lint_imports_command as c; c(['--no-cache'])"]
    done = subprocess.run(
        command,
        cwd=tmp_path,
        env={"PYTHONPATH": str(tmp_path / "src"), "PATH": ""},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 1 and "BROKEN" in done.stdout


@pytest.mark.parametrize(
    ("line", "said"),
    [("import sqlalchemy", "the core knows NumPy and SciPy alone"),
     ("def late():\n    from waxtwin.core import motion", "in a circle")],
)  # fmt: skip
def test_a_circle_or_a_stranger_in_the_core_is_caught(tmp_path, line, said):
    shutil.copytree(
        ROOT / "src" / "waxtwin", tmp_path / "waxtwin", ignore=shutil.ignore_patterns("assets", "__pycache__", "ui")
    )
    (tmp_path / "waxtwin" / "core" / "track.py").open("a").write(f"\n{line}\n")
    done = subprocess.run(
        [sys.executable, ROOT / "tools" / "check_imports.py"], env={"PYTHONPATH": str(tmp_path), "PATH": ""},
        cwd=tmp_path, capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 1 and said in done.stdout, done.stdout + done.stderr


def test_core_runs_without_qt_video_or_files():
    code = (
        "import sys\n"
        "for name in ('PySide6', 'pyqtgraph', 'av', 'cv2', 'mediapipe', 'pydantic', 'typer'): sys.modules[name] = None\n"
        "from waxtwin.core import analysis, contrast, ledger, alignment, camera\n"
    )
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0


def test_qt_binding_survives_many_signals():
    """Some releases of the binding drop a reference per call and abort later; the pin must not be one of them."""
    code = (
        "from PySide6.QtCore import QCoreApplication, QObject, Signal\n"
        "class A(QObject):\n    s = Signal(bool)\n"
        "app = QCoreApplication([])\na = A(); a.s.connect(lambda v: None)\n"
        "for i in range(20000): a.s.emit(True); a.objectName(); a.setObjectName('x')\n"
    )
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0
