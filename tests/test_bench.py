"""The Bench as an analyst uses it: throws by pitcher and session, searched, tagged, removed."""

from dataclasses import replace

from PySide6.QtCore import Qt


def test_tags_search_and_removal_on_the_bench(desk_window, qtbot, monkeypatch):
    app = desk_window()
    app.go_to("Bench")
    bench = app.bench
    bench.select(1)
    monkeypatch.setattr("waxtwin.ui.rooms.bench.room.QInputDialog.getItem", lambda *a, **k: ("cold day", True))
    qtbot.mouseClick(bench._more["tag"], Qt.MouseButton.LeftButton)
    assert bench.tag.findText("cold day") > 0 and bench.selected_ids() == [1]
    qtbot.keyClicks(bench.search, "cold")
    assert [e.id for e in bench.model.entries] == [1]
    bench.search.clear()
    bench.select(2)
    qtbot.mouseClick(bench._more["remove"], Qt.MouseButton.LeftButton)
    assert len(bench.model.entries) == 3
    app.actions["undo"].trigger()
    assert len(bench.model.entries) == 4


def test_a_long_library_opens_a_pitcher_at_a_time_and_a_search_all_that_it_finds(desk_window, qtbot):
    app = desk_window()
    app.go_to("Bench")
    bench, first = app.bench, app.library.entries[0]
    app.library.entries = [
        replace(first, id=100 * who + n, athlete_id=who, name=f"Pitcher {who:02d}", recorded=f"2026-1{n % 2}-0{n % 3 + 1}")
        for who in range(1, 41) for n in range(who % 7 + 5)
    ]  # fmt: skip
    bench.fill()
    model, table = bench.model, bench.table
    throws = model.index(5, 0)
    said = {"\n" in model.data(model.index(n, 0, throws)) for n in range(model.rowCount(throws))}
    assert said == {True, False}  # a note that the throw above has is told once
    assert model.rowCount() == 40 and not any(table.isExpanded(model.index(n, 0)) for n in range(40))
    at = model.index(0, 0)
    table.setCurrentIndex(at)
    qtbot.keyClick(table, Qt.Key.Key_Right)
    assert table.isExpanded(at)
    dates = [model.entry(model.index(n, 0, at)).recorded for n in range(model.rowCount(at))]
    assert dates == sorted(dates, reverse=True), "the newest session first"
    qtbot.keyClicks(bench.search, "Pitcher 07")
    assert model.rowCount() == 1 and table.isExpanded(model.index(0, 0))
    bench.search.clear()
    assert [n for n in range(40) if table.isExpanded(model.index(n, 0))] == [0], "as it was left"


def test_small_pictures_show_the_clip_or_the_figure_and_go_with_the_throw(desk_window, qtbot, monkeypatch):
    from waxtwin.library.erasing import erase

    app = desk_window()
    app.go_to("Bench")
    bench, store = app.bench, app.library.store
    keys = {entry.title: entry.id for entry in bench.model.entries}
    shown = {
        key: lambda key=key: bench.model.data(bench.model.index_of(key), Qt.ItemDataRole.DecorationRole)
        for key in keys.values()
    }
    qtbot.waitUntil(lambda: all(bench.pictures.of(key) is not None for key in keys.values()), timeout=30000)
    assert {shown[key]().deviceIndependentSize().toSize().toTuple() for key in keys.values()} == {(60, 38)}
    first = shown[keys["wren-tollander"]]().toImage()
    assert first.pixelColor(5, 5) != first.pixelColor(60, 40) and not app.notice.text
    kept = sorted(file.name for file in (store.folder / "small").iterdir())
    assert [int(name.split("-")[0]) for name in kept] == sorted(keys.values())
    made = []
    monkeypatch.setattr("waxtwin.ui.rooms.bench.small_pictures.small_picture", lambda stored: made.append(stored.key))
    bench.pictures._forget()
    qtbot.waitUntil(lambda: all(bench.pictures.of(key) is not None for key in keys.values()), timeout=30000)
    assert not made  # they were kept
    erase(store, next(entry.athlete_id for entry in bench.model.entries if entry.title == "pell-ardmoor"))
    left = {int(file.name.split("-")[0]) for file in (store.folder / "small").iterdir()}
    assert left == set(keys.values()) - {keys["pell-ardmoor"]}
