"""Files and devices made to do harm, each a case of its own: one plain sentence, in time, within memory."""

import json
import lzma
import os
import time
import zipfile
from contextlib import suppress

import av
import numpy as np
import pytest

from conftest import DEMO, track_of
from films import film
from test_live import connected, polled, server  # noqa: F401  # a fixture
from waxtwin.capture.clip import ClipError, ClipReader
from waxtwin.capture.devices import LineSource
from waxtwin.core.errors import WaxTwinError, plain, shown_name
from waxtwin.core.readings import RADAR
from waxtwin.core.steps import finish
from waxtwin.formats.sidecar import read_sidecar
from waxtwin.formats.tracks import read_track, write_track
from waxtwin.library.athletes import take_person
from waxtwin.library.bundles import open_bundle
from waxtwin.library.importing import bring_one
from waxtwin.library.store import Library
from waxtwin.library.throws import fetch, sidecar_of


def refused(read, path, *words):
    began = time.monotonic()
    with pytest.raises(WaxTwinError) as fault:
        read(path)
    said = str(fault.value)
    assert said.isprintable() and len(said) <= 600 and time.monotonic() - began < 10
    assert said.startswith(shown_name(path)) or str(path.name)[:20] in said
    for word in words:
        assert word in said
    return said


# tracks -------------------------------------------------------------------------------------------------------------
TEXTS = {
    "a quotation mark that is never closed": ("t.csv", 'time,head_x,head_y,head_z\n0,1,"2,3\n' + "0,1,2,3\n" * 9, "is the"),
    "a cell without an end": ("t.csv", "time,head_x,head_y,head_z\n0," + "1" * 200_000 + ",2,3\n", "than any figure"),
    "more columns than a body": ("t.csv", "time," + ",".join(f"a{n}_x" for n in range(3000)) + "\n", "columns"),
    "frames of unlike lengths": ("t.json", '{"version": 1, "landmarks": ["head"], "frames": [{"time": 0, "points": []}]}',
                                 "0 points for 1"),
    "depth": ("t.json", "[" * 200_000, "not valid JSON"),
    "a number that is none": ("t.trc", "PathFileType\t4\n" + "9" * 400 + "\n", ""),
}  # fmt: skip


@pytest.mark.parametrize("case", TEXTS)
def test_tracks(tmp_path, case):
    name, text, words = TEXTS[case]
    (tmp_path / name).write_text(text)
    refused(read_track, tmp_path / name, words)


def test_a_pipe_and_a_folder_are_not_waited_for(tmp_path):
    os.mkfifo(tmp_path / "pipe.csv")
    (tmp_path / "folder.csv").mkdir()
    os.mkfifo(tmp_path / "pipe.mp4")
    refused(read_track, tmp_path / "pipe.csv", "not a plain file")
    refused(read_track, tmp_path / "folder.csv")
    refused(ClipReader, tmp_path / "pipe.mp4", "not a plain file")


def test_a_text_file_too_large_to_be_one_is_not_read(tmp_path):
    with (tmp_path / "huge.csv").open("wb") as out:
        out.truncate(300 * 1024**2)
    refused(read_track, tmp_path / "huge.csv", "too large")


@pytest.mark.parametrize("name", [b"t\xff\xfe.csv", b"t\x1b[31m.csv", b"n" * 240 + b".csv"])
def test_names_that_are_no_text(tmp_path, name):
    file = tmp_path / os.fsdecode(name)
    file.write_bytes(b"nothing")
    with pytest.raises(WaxTwinError) as fault:
        read_track(file)
    assert str(fault.value).isprintable() and len(str(fault.value)) < 300
    track = track_of("wren", fps=60)
    write_track(track, tmp_path / "good.csv")
    (tmp_path / "good.csv").rename(file)
    library = Library(tmp_path / "library")
    try:
        found = bring_one(library, file)
        assert found.fault or fetch(library, found.key).title.isprintable()
    finally:
        library.close()


def test_counts_that_promise_gigabytes_are_not_laid_out_for(tmp_path):
    names, frames = [f"m{n}" for n in range(400)], [{"t": n / 100, "points": []} for n in range(20_000)]
    path = tmp_path / "t.json"
    path.write_text(json.dumps({"version": 1, "landmarks": names, "frames": frames}))
    refused(read_track, path, "0 points for 400")
    path.write_text(json.dumps({"version": 1, "landmarks": [""] * 60_000, "frames": frames[:1]}))
    refused(read_track, path, "60000 landmarks")


# sidecars and people ------------------------------------------------------------------------------------------------
@pytest.mark.parametrize(
    "said",
    [
        {"events": {"release": 1e308}},
        {"events": {"release": float("nan")}},
        {"events": {"<b>": 1.0}},
        {"height_m": 1e9, "athlete": {"name": "Sam Netherby", "height_m": 1e9}},
        {"views": [{"file": "x.mp4", "calibration": {"projection": [[0.0] * 4] * 2}}]},
    ],
)
def test_sidecars(tmp_path, said):
    path = tmp_path / "x.delivery.json"
    path.write_text(json.dumps(said))
    refused(read_sidecar, path)


def test_what_a_sidecar_brings_along_never_shadows_what_is_known(tmp_path):
    write_track(track_of("wren", fps=60), tmp_path / "x.csv")
    said = json.loads((DEMO / "wren-tollander.delivery.json").read_text())
    said["views"] = []
    extra = {"track": "no hash", "athlete_id": 99, "id": 7, "_sa_instance_state": 1, "model_config": {}, "mood": "good"}
    (tmp_path / "x.delivery.json").write_text(json.dumps(said | extra))
    library = Library(tmp_path / "library")
    try:
        key = bring_one(library, tmp_path / "x.csv").key
        assert fetch(library, key).delivery.name == "Wren Tollander"
        from waxtwin.library.records import DeliveryRow

        with library.reading() as session:
            assert sidecar_of(session.get_one(DeliveryRow, key)).model_extra["mood"] == "good"
    finally:
        library.close()


@pytest.mark.parametrize(
    "said", [{"keep_until": "never"}, {"plans": [{"version": 10**30}]}, {"sessions": [{"date": ""}]}, {"name": ""}]
)
def test_people(tmp_path, said):
    path = tmp_path / "p.athlete.json"
    path.write_text(json.dumps({"version": 1, "name": "Sam Netherby"} | said))
    library = Library(tmp_path / "library")
    try:
        refused(lambda file: take_person(library, file), path)
        assert library.next_undo() is None
    finally:
        library.close()


def test_what_a_person_brings_along_never_shadows_a_column(tmp_path):
    path = tmp_path / "p.athlete.json"
    extra = {"name": "Somebody else", "born": "never", "throws": "?", "height_m": "tall", "mood": "good"}
    path.write_text(json.dumps({"version": 1, "name": "Sam Netherby", "extra": extra}))
    write_track(track_of("wren", fps=60), tmp_path / "x.csv")
    (tmp_path / "x.delivery.json").write_text(json.dumps({"athlete": {"name": "Sam Netherby", "throws": "R"}}))
    library = Library(tmp_path / "library")
    try:
        key = bring_one(library, tmp_path / "x.csv").key
        take_person(library, path)
        who = fetch(library, key).sidecar.athlete
        assert who.name == "Sam Netherby" and who.throws == "R" and who.height_m is None
        assert who.model_extra["mood"] == "good"
    finally:
        library.close()


# bundles ------------------------------------------------------------------------------------------------------------
def bundle(path, method, files):
    manifest = {"format": "waxtwin-bundle", "version": 1, "files": {n: {"bytes": len(d), "sha256": "0" * 64}
                                                                     for n, d in files.items()}}  # fmt: skip
    with zipfile.ZipFile(path, "w", method) as out:
        for name, data in files.items():
            out.writestr(name, data)
        out.writestr("manifest.json", json.dumps(manifest))
    return path


def test_bundles_that_unpack_to_far_more_than_they_are(tmp_path):
    zeros = bundle(tmp_path / "zeros.waxtwin", zipfile.ZIP_DEFLATED, {"people.csv": bytes(60 * 1024**2)})
    lzma_ = bundle(tmp_path / "lzma.waxtwin", zipfile.ZIP_LZMA, {"people.csv": bytes(1000)})
    library = Library(tmp_path / "library")
    try:
        for path in (zeros, lzma_):
            refused(lambda file: finish(open_bundle(library, file)), path)
        (tmp_path / "odd.waxtwin").write_bytes(lzma.compress(b"x" * 1000))
        refused(lambda file: finish(open_bundle(library, file)), tmp_path / "odd.waxtwin", "not a bundle")
        assert not list(library.folder.glob(".bundle-*")) and library.next_undo() is None
    finally:
        library.close()


# clips --------------------------------------------------------------------------------------------------------------
def test_a_list_that_points_at_other_files_is_no_clip(tmp_path):
    secret = film(tmp_path / "secret.mp4", count=5)
    (tmp_path / "list.mp4").write_text(f"ffconcat version 1.0\nfile '{secret.name}'\n")
    (tmp_path / "list.mkv").write_text(f"#EXTM3U\n#EXTINF:1,\n{secret}\n")
    for name in ("list.mp4", "list.mkv"):
        refused(ClipReader, tmp_path / name, "not a clip that can be read")


def test_a_name_that_looks_like_an_address_is_a_file_all_the_same(tmp_path):
    path = film(tmp_path / "concat:a|b.mp4", count=5)
    with ClipReader(path) as reader:
        assert reader.times.size == 5


def test_a_clip_of_a_codec_that_nobody_has(tmp_path):
    path = tmp_path / "odd.avi"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("mpeg4", rate=30)
        stream.width, stream.height = 64, 48
        for _ in range(4):
            out.mux(stream.encode(av.VideoFrame.from_ndarray(np.zeros((48, 64, 3), np.uint8), format="rgb24")))
        out.mux(stream.encode(None))
    path.write_bytes(path.read_bytes().replace(b"FMP4", b"Q9Z9"))
    with pytest.raises(ClipError, match=r"^odd\.avi: this is not a clip that can be read"):
        ClipReader(path)


# devices ------------------------------------------------------------------------------------------------------------
def test_a_flood_costs_no_look_more_than_fifty_milliseconds(server):  # noqa: F811
    with connected(server, 1700000000.0) as (hub, other):
        other.setblocking(False)
        longest, taken = 0.0, 0
        for _ in range(40):
            with suppress(BlockingIOError):
                other.send(b"radar 1700000000 30\n" * 5000)
            began = time.process_time()
            taken += len(hub.poll()[0])
            longest = max(longest, time.process_time() - began)
        assert taken == 20 and longest < 0.05
        assert "more than 20 readings a second" in hub.states()[RADAR] and hub.ignored > 1000


def test_a_device_whose_clock_is_off_is_taken_as_it_arrives_and_says_so(server):  # noqa: F811
    with connected(server, 1700000000.0) as (hub, other):
        other.sendall(b"radar 86400 31.5\n")
        [found] = polled(hub, 1)
        assert found.at == 1700000000.0 and "clock is off" in found.note
        assert "its clock is off by" in hub.states()[RADAR]


def test_a_plain_file_is_no_terminal(tmp_path):
    (tmp_path / "lines").write_text("radar 1700000000 30\n")
    source = LineSource(str(tmp_path / "lines"))
    assert source.poll() == [] and "no terminal" in source.state


# what is shown ------------------------------------------------------------------------------------------------------
def test_a_sentence_holds_nothing_that_a_file_smuggled_in():
    said = plain("a\x1b[31m\n\u202eb\ud800" + "x" * 5000)
    assert said.isprintable() and len(said) <= 600 and "\u202e" not in said
