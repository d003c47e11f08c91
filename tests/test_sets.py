"""Several throws of one athlete: what they share, how they scatter, and how sets are contrasted."""

import json
from dataclasses import replace

import numpy as np
import pytest

from conftest import DEMO
from waxtwin.core.analysis import Delivery, resolve
from waxtwin.core.contrast import SHORT, analyse_alike, contrast, contrast_sets
from waxtwin.core.sets import ThrowSet
from waxtwin.library.simulated import Recording, record, write_simulated
from waxtwin.simulate.delivery import simulate
from waxtwin.simulate.presets import PRESETS
from waxtwin.simulate.scatter import session_of


def throws_of(name, params, seed=1, noise=0.002):
    return [Delivery(name, record(simulate(p), Recording(240, noise, 0, seed + n)), p.throws, p.height)
            for n, p in enumerate(params)]  # fmt: skip


@pytest.fixture(scope="module")
def sets():
    """Four throws of Wren, three of Ines, resolved."""
    params = [session_of(PRESETS[name].params, n, seed=3) for name, n in (("wren", 4), ("ines", 3))]
    analyses = [resolve(a, 30) for a in analyse_alike(throws_of("Wren", params[0]) + throws_of("Ines", params[1], 50))]
    return ThrowSet(tuple(analyses[:4])), ThrowSet(tuple(analyses[4:]))


def test_mean_and_spread_are_those_of_the_throws(sets):
    figures = [throw.measures["stride_length"].value for throw in sets[0].throws]
    spread = sets[0].spreads["stride_length"]
    assert spread.figures == tuple(figures) and spread.count == 4
    assert spread.mean == pytest.approx(np.mean(figures)) and spread.sd == pytest.approx(np.std(figures, ddof=1))


def test_the_error_of_a_mean_holds_the_spread_and_what_a_clip_resolves(sets):
    spread = sets[1].spreads["landing_trunk_tilt"]
    of_clip = np.mean([throw.measures["landing_trunk_tilt"].sd for throw in sets[1].throws])
    # for three throws a 95 % interval is 4.303 standard errors wide (Student), so the error is half of that
    assert spread.error == pytest.approx(np.hypot(of_clip, 4.303 / 2 * spread.sd / np.sqrt(3)), rel=1e-3)


def test_the_typical_throw_is_near_the_middle_and_no_throw_is_odd_by_chance(sets):
    one = sets[0]
    away = [abs(throw.measures["landing_trunk_tilt"].value - one.spreads["landing_trunk_tilt"].mean)
            for throw in one.throws]  # fmt: skip
    assert away[one.typical] < max(away)
    assert one.odd is None and one.odd_in() == ()


def test_a_throw_that_stands_apart_is_named_with_what_sets_it_apart():
    params = session_of(PRESETS["wren"].params, 5, seed=8)
    params[2] = replace(params[2], tilt_landing=20.0, stride=0.68)
    found = ThrowSet(tuple(resolve(a, 20) for a in analyse_alike(throws_of("Wren", params))))
    assert found.odd == 2 and found.typical != 2
    assert set(found.odd_in(8)) & {"landing_trunk_tilt", "stride_length", "trunk_travel", "landing_head_position"}


def test_a_contrast_of_sets_counts_the_throws_that_agree(sets):
    rows = contrast_sets(*sets).rows
    row = next(row for row in rows if row.measure.id == "landing_separation")
    assert row.verdict == SHORT and (row.throws.agree, row.throws.of) == (4, 4)
    assert row.difference == pytest.approx(
        sets[0].spreads["landing_separation"].mean - sets[1].spreads["landing_separation"].mean
    )


def test_throw_to_throw_spread_makes_a_difference_harder_to_claim(sets):
    alone = {row.measure.id: row for row in contrast(sets[0].throws[0], sets[1].throws[0]).rows}
    together = {row.measure.id: row for row in contrast_sets(*sets).rows}
    both = [name for name, row in together.items() if row.resolution and alone[name].resolution]
    wider = [name for name in both if together[name].resolution > alone[name].resolution]
    assert len(wider) > 0.8 * len(both)


def test_two_sessions_of_one_pitcher_are_level():
    params = session_of(PRESETS["pell"].params, 8, seed=5)
    analyses = [resolve(a, 30) for a in analyse_alike(throws_of("Pell", params))]
    rows = contrast_sets(ThrowSet(tuple(analyses[:4])), ThrowSet(tuple(analyses[4:]))).rows
    known = [row for row in rows if row.difference is not None]
    assert sum(row.apart for row in known) <= 0.05 * len(known)


def test_a_set_of_one_throw_gives_what_the_throw_gives(sets):
    single = [ThrowSet(one.throws[:1]) for one in sets]
    pair = contrast_sets(*single)
    assert pair.sets is None
    assert pair.rows == contrast(single[0].throws[0], single[1].throws[0]).rows
    with pytest.raises(ValueError, match="at least one"):
        ThrowSet(())


# files and folders --------------------------------------------------------------------------------------------------
@pytest.fixture(scope="module")
def folders(tmp_path_factory):
    root = tmp_path_factory.mktemp("sets")
    for name, count in (("wren", 3), ("ines", 2)):
        for n, params in enumerate(session_of(PRESETS[name].params, count, seed=2)):
            write_simulated(root / name, f"throw-{n + 1}", params, PRESETS[name].athlete(),
                            recording=Recording(240, 0.002, 0, n))  # fmt: skip
    return root


def test_folders_of_throws_are_contrasted_as_sets(run, folders):
    code, out, _ = run("contrast", folders / "wren", folders / "ines", "--json")
    document = json.loads(out)
    assert code == 0
    assert (document["sets"]["athlete"]["count"], document["sets"]["twin"]["count"]) == (3, 2)
    row = next(row for row in document["rows"] if row["id"] == "stride_length")
    assert row["throws"]["of"] == 3 and len(row["throws"]["twin"]["figures"]) == 2
    assert row["athlete"] == pytest.approx(np.mean(row["throws"]["athlete"]["figures"]), abs=1e-3)
    _, words, _ = run("contrast", folders / "wren", folders / "ines")
    assert "Means of 3 throws" in words and "3 of 3" in words


def test_a_folder_is_measured_as_a_set_and_one_file_as_before(run, folders):
    _, out, _ = run("measure", folders / "wren", "--json")
    document = json.loads(out)
    assert document["set"]["count"] == 3 and document["measures"]["stride_length"]["throws"]["count"] == 3
    _, out, _ = run("measure", folders / "wren" / "throw-1.csv", "--json")
    document = json.loads(out)
    assert document["set"] is None and "throws" not in document["measures"]["stride_length"]


def test_a_folder_that_is_no_set_is_refused_in_one_sentence(run, folders, tmp_path):
    code, _, said = run("measure", tmp_path)
    assert code == 2 and "no track in this folder" in said
    code, _, said = run("measure", folders)
    assert code == 2 and "of another than" in said and said.count("\n") == 1
    code, _, said = run("events", folders)
    assert code == 2 and "folder" in said


# in the window ------------------------------------------------------------------------------------------------------
def test_the_throws_of_a_session_are_taken_together(qtbot, desk_window, monkeypatch):
    monkeypatch.setattr("waxtwin.ui.model.computing._SET_COPIES", 10)
    app = desk_window()
    app.intake.bring([DEMO / f"wren-tollander-{n}.csv" for n in (2, 3)])
    qtbot.waitUntil(lambda: len(app.library.entries) == 6, timeout=30000)
    app.pairs.take("athlete", app.library.find("wren-tollander-2"))
    qtbot.waitUntil(lambda: app.desk.pair.throws is not None, timeout=60000)
    assert [len(app.desk.pair.sessions[side]) for side in ("athlete", "twin")] == [3, 1]
    app.go_to("Contrast")
    row = app.desk.pair.figures.row("stride_length")
    assert row.throws.of == 3 and row.athlete == pytest.approx(row.throws.athlete.mean)
    assert "Means of 3 throws and 1" in app.contrast.footing.text()
    assert "3 throws" in app.contrast.model.data(app.contrast.model.index(1, 0), 3)  # its tip
    # the two throws on the stages alone, and back
    app.desk.pair.set_whole(False)
    assert app.desk.pair.figures is app.desk.pair.contrast and "Means" not in app.contrast.footing.text()
    # another throw of the session from the Pair room's header
    box = app.pair.header.throws["athlete"]
    assert box.count() == 3 and not app.pair.header.throws["twin"].isVisibleTo(app.pair)
    first = app.desk.pair.sessions["athlete"][0].key
    box.setCurrentIndex(0)
    box.activated.emit(0)
    qtbot.waitUntil(lambda: app.desk.pair.stored["athlete"].key == first, timeout=30000)
    qtbot.waitUntil(lambda: app.desk.pair.throws is not None and not app.jobs.busy, timeout=60000)
