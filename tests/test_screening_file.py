"""Screening that somebody hands over as a CSV file."""

import pytest

from conftest import idle
from waxtwin.core.capacity import FAILED, MEASURED, Examination
from waxtwin.formats.files import FormatError
from waxtwin.library.judging import load_screening
from waxtwin.library.screening_file import read_screening

ITEMS = load_screening().items
HEAD = "item,side,value,state,mode,position,date,by\n"


def test_a_file_of_readings_is_read_with_how_they_were_tested(tmp_path):
    path = tmp_path / "screening.csv"
    path.write_text("\ufeff" + HEAD + "hip_flexion,throwing,121,,passive,\"lying on the back, knee bent\",2026-11-20,a coach\n"
                    "medicine_ball,glove,9.4,,active,2 kg standing side-on,,\njump,,51,,,,,\ngrip,glove,,failed,,,2026-11-20,\n")  # fmt: skip
    found = read_screening(path, ITEMS)
    hip = found["hip_flexion:throwing"]
    assert hip.value == 121 and hip.by == "a coach" and hip.date == "2026-11-20"
    assert hip.test == Examination("passive", "lying on the back, knee bent") == ITEMS["hip_flexion"].tests[0]
    assert found["medicine_ball:glove"].value == 9.4 and found["jump"].state == MEASURED
    assert found["grip:glove"].state == FAILED and found["grip:glove"].value is None and len(found) == 4


@pytest.mark.parametrize(
    ("line", "says"),
    [("elbow,,3,,,,,\n", "line 2: there is no item named “elbow”"), ("grip,,0.6,,,,,\n", "grip is measured on a side"),
     ("jump,glove,40,,,,,\n", "jump is measured without a side"), ("jump,,high,,,,,\n", "“high” is not a number"),
     ("jump,,40,perhaps,,,,\n", "a state is"), ("jump,,1e30,,,,,\n", "no reading of jump"), ("", "nothing in it")],
)  # fmt: skip
def test_a_wrong_file_is_refused_in_words(tmp_path, line, says):
    path = tmp_path / "screening.csv"
    path.write_text(HEAD + line)
    with pytest.raises(FormatError, match=says) as fault:
        read_screening(path, ITEMS)
    assert str(fault.value).startswith("screening.csv: ")
    path.write_text("name;value\n")
    with pytest.raises(FormatError, match="needs a column “item”"):
        read_screening(path, ITEMS)


def test_the_body_page_takes_a_file_and_says_what_is_wrong_with_another(desk_window, qtbot, tmp_path, monkeypatch):
    app = desk_window(explained=True)
    qtbot.waitUntil(lambda: app.desk.pair.explanation is not None and not app.jobs.busy, timeout=60000)
    app.go_to("Gap")
    app.gap.turn_to("body")
    body = app.gap.body
    good, bad = tmp_path / "good.csv", tmp_path / "bad.csv"
    good.write_text(HEAD + 'medicine_ball,throwing,5.5,,active,"2 kg, standing side-on",,\n')
    bad.write_text(HEAD + "jump,,high,,,,,\n")
    chosen = iter((bad, good))
    monkeypatch.setattr("waxtwin.ui.rooms.gap.body_view.ask_one", lambda *_: next(chosen))
    body.bring.click()
    assert body.fault.text().startswith("bad.csv: line 2")
    body.bring.click()
    idle(qtbot, app)
    readings = app.desk.pair.explanation.perspective.capacity.readings
    assert (
        readings["medicine_ball:throwing"].value == 5.5 and body.fields["medicine_ball:throwing"].value.value() == 5.5
    )
    assert "below the band" in body.said.text()
