"""A live session: readings put together, forces, devices over sockets and terminals, clips that land, the log."""

import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import time
from contextlib import closing, contextmanager

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import DEMO, simulated, truth
from test_plan import athlete_of
from waxtwin.capture.devices import CAMERAS, Hub, LineSource, WatchedFolder
from waxtwin.core.readings import (
    CAMERA,
    FAILED,
    MISREAD,
    PLATES,
    RADAR,
    READ,
    ForceWatch,
    Reading,
    gather,
    radar_reading,
    settled,
)
from waxtwin.library.catalogue import entries
from waxtwin.library.live_session import LiveSession
from waxtwin.library.live_throws import log_of, now
from waxtwin.library.log import days_of
from waxtwin.simulate.stand_ins import forces

DRIVE, LEAD = PLATES
ALL = (RADAR, DRIVE, LEAD, CAMERA)


def until(check, seconds=10.0):
    end = time.monotonic() + seconds
    while not check():
        assert time.monotonic() < end, "it did not come to pass in time"
        time.sleep(0.02)


# putting together -----------------------------------------------------------------------------------------------------
def test_readings_of_one_throw_are_put_together_by_time():
    said = [Reading(CAMERA, 10.0, READ), Reading(DRIVE, 11.6, READ, 1000.0), Reading(LEAD, 11.9, READ, 1400.0),
            radar_reading(12.0, 33.1), Reading(CAMERA, 40.0, READ), radar_reading(42.0, None)]  # fmt: skip
    throws, strays = gather(reversed(said), ALL)
    assert [throw.at for throw in throws] == [10.0, 40.0] and strays == ()
    assert (throws[0].speed, throws[0].value(LEAD)) == (33.1, 1400.0)
    assert throws[1].speed is None and throws[1].readings[RADAR].state == MISREAD


def test_steps_on_a_plate_and_things_that_moved_are_no_throws():
    said = [Reading(DRIVE, 5.0, READ, 900.0), radar_reading(20.0, None), radar_reading(60.0, 33.0),
            Reading(DRIVE, 59.0, READ, 990.0), Reading(LEAD, 80.0, READ, 700.0)]  # fmt: skip
    throws, strays = gather(said, (RADAR, DRIVE, LEAD))
    assert [throw.at for throw in throws] == [59.0]
    assert sorted(one.at for one in strays) == [5.0, 20.0, 80.0]
    throws, _ = gather(said[:1], (DRIVE,))
    assert len(throws) == 1  # with plates alone, they are all there is to go by


def test_a_late_good_reading_takes_the_place_of_a_failed_one():
    said = [radar_reading(10.0, None), Reading(LEAD, 10.1, READ, 1400.0), radar_reading(10.4, 33.0)]
    [throw], _ = gather(said, (RADAR, LEAD))
    assert throw.speed == 33.0


@given(st.lists(st.tuples(st.sampled_from(ALL), st.floats(0, 300)), max_size=40))
def test_no_reading_is_lost_or_counted_twice(said):
    readings = [Reading(device, at, READ, 1.0) for device, at in said]
    throws, strays = gather(readings, ALL)
    found = [one for throw in throws for one in throw.readings.values()]
    assert len(found) + len(strays) == len(readings)
    assert all(max(r.at for r in t.readings.values()) - t.at <= 5.0 for t in throws)


def test_what_said_nothing_has_failed_and_nothing_is_filled_in():
    [throw], _ = gather([radar_reading(100.0, 33.0)], (RADAR, DRIVE, LEAD))
    assert settled(throw, (RADAR, DRIVE, LEAD), 105.0) == throw  # it still has time
    late = settled(throw, (RADAR, DRIVE, LEAD), 120.0)
    assert {late.readings[d].state for d in PLATES} == {FAILED} and late.value(LEAD) is None


@pytest.mark.parametrize(
    ("said", "state"), [(33.0, READ), (4.0, MISREAD), (80.0, MISREAD), (None, MISREAD), (float("nan"), MISREAD)]
)
def test_a_speed_that_no_pitch_has_is_a_misread(said, state):
    assert radar_reading(1.0, said).state == state


# forces ---------------------------------------------------------------------------------------------------------------
def fed(watch, force, start=1000.0, chunk=50):
    return [
        one for k in range(0, force.size, chunk) for one in watch.feed(start + k / 1000, 1000.0, force[k : k + chunk])
    ]


@pytest.mark.parametrize("name", ["wren", "pell"])
def test_the_peak_of_a_push_and_of_a_landing_are_found(name):
    delivery = simulated(name)
    times = np.arange(0.0, delivery.times[-1], 0.001)
    rng = np.random.default_rng(1)
    for device, force in zip(PLATES, forces(delivery.params.mass, truth(name)[0], times), strict=True):
        quiet = np.full(3000, force[0])
        noisy = np.concatenate([quiet, force]) + rng.normal(0, 6, 3000 + force.size)
        found = fed(ForceWatch(device), noisy, 997.0)
        assert found[0].at < 997.1 or device == LEAD  # stepping onto the plate is a push as well
        [one] = [one for one in found if one.at > 999]
        assert one.value == pytest.approx(force.max(), abs=25)
        assert one.at == pytest.approx(1000 + times[force.argmax()], abs=0.03)
    landing = truth(name)[0]["foot_contact"]
    assert landing < one.at - 1000 < landing + 0.15


def test_a_plate_that_does_not_change_or_is_no_force_says_so():
    watch = ForceWatch(LEAD)
    assert fed(watch, np.zeros(1500)) == [] and "does not change" in watch.trouble
    fed(watch, np.random.default_rng(0).normal(0, 5, 1000), 1001.5)
    assert watch.trouble == ""
    watch.feed(1003.0, 1000.0, np.full(50, np.nan))
    assert "no forces" in watch.trouble


# devices --------------------------------------------------------------------------------------------------------------
@pytest.fixture
def server():
    with closing(socket.create_server(("127.0.0.1", 0))) as listening:
        listening.settimeout(5)
        yield listening


def address(server):
    return f"127.0.0.1:{server.getsockname()[1]}"


@contextmanager
def connected(server, now):
    """A radar gun's socket, and a hub that listens to it and takes it to be `now`."""
    hub = Hub({"radar": address(server)}, clock=lambda: now)
    try:
        hub.poll()
        other, _ = server.accept()
        with other:
            yield hub, other
    finally:
        hub.close()


def polled(hub, count, seconds=5.0):
    found = []
    until(lambda: found.extend(hub.poll()[0]) or len(found) >= count, seconds)
    return found


def test_lines_come_over_a_socket_in_pieces_and_rubbish_is_left_out(server):
    with connected(server, 1700000003.0) as (hub, other):
        other.sendall(b"hello\nradar x y\nradar 1e300 5\nforce lead 10 1000 a b\n\xff\xfe\nradar 1700000000.5 33")
        hub.poll()
        other.sendall(b".25\nfault lead 1700000001 cable <b>out</b>\n")
        radar, fault = polled(hub, 2)
        assert (radar.value, radar.at) == (33.25, 1700000000.5)
        assert (fault.device, fault.state, fault.note) == (LEAD, FAILED, "cable <b>out</b>")
        assert hub.ignored == 5 and hub.devices == {RADAR, LEAD}


def test_a_lost_device_is_told_and_reached_again(server, monkeypatch):
    monkeypatch.setattr("waxtwin.capture.devices._AGAIN", 0.05)
    source = LineSource(address(server))
    try:
        source.poll()
        server.accept()[0].close()
        until(lambda: source.poll() == [] and source.state.startswith("lost"))
        until(lambda: source.poll() == [] and source.state == "connected")
        other, _ = server.accept()
        other.sendall(b"radar 5 30\n")
        until(lambda: source.poll() == ["radar 5 30"])
        other.close()
    finally:
        source.close()
    gone = LineSource("127.0.0.1:1")
    gone.poll()
    assert gone.state.startswith("not reached")
    odd = LineSource("nonsense")
    odd.poll()
    assert "address is not understood" in odd.state


def test_a_terminal_is_read_as_well():
    ours, theirs = os.openpty()
    hub = Hub({"radar": os.ttyname(theirs)})
    try:
        hub.poll()
        os.write(ours, b"radar 1700000000 31.5\n")
        assert polled(hub, 1)[0].value == 31.5
    finally:
        hub.close()
        os.close(ours)
        os.close(theirs)


def test_a_line_without_end_does_not_fill_the_memory(server):
    source = LineSource(address(server))
    try:
        source.poll()
        other, _ = server.accept()
        with other:
            other.sendall(b"x" * 200_000)
            until(lambda: source.poll() == [] and source.ignored > 0)
            assert len(source._rest) <= 65_536
    finally:
        source.close()


def test_a_clip_counts_once_it_is_whole_and_says_when_it_began(tmp_path):
    (tmp_path / "old.mp4").write_bytes(b"x")
    watched = WatchedFolder(tmp_path)
    target = tmp_path / "20261126T101530.250-side.mp4"
    target.write_bytes(b"part")
    (tmp_path / ".hidden.mp4").write_bytes(b"x")
    assert watched.poll() == []
    target.write_bytes(b"part and more")
    assert watched.poll() == []
    [clip] = watched.poll()
    assert clip.camera == "side" and clip.at == pytest.approx(1795688130.25, abs=1e-3)
    (tmp_path / "holiday.mov").write_bytes(b"x")
    watched.poll()
    [clip] = watched.poll()
    assert clip.camera == "" and abs(clip.at - time.time()) < 5 and watched.poll() == []


@pytest.mark.parametrize(
    "text", ["", "[]", "{", '{"side": 5}', '{"side": {"view": "x", "calibration": {"projection": 3}}}']
)
def test_a_damaged_cameras_file_is_as_good_as_none(tmp_path, text):
    (tmp_path / CAMERAS).write_text(text)
    assert WatchedFolder(tmp_path).cameras() == {}


def looked(live):
    live.look()
    live.take_pending()
    return True


# the log --------------------------------------------------------------------------------------------------------------
def test_clips_of_one_instant_are_one_throw_with_its_readings(library, tmp_path):
    athlete, _ = athlete_of(library)
    sidecar = json.loads((DEMO / "wren-tollander.delivery.json").read_text())
    known = {("side" if v["camera"] == "open side" else "front"): {"view": v["camera"], "calibration": v["calibration"]}
             for v in sidecar["views"]}  # fmt: skip
    watch = tmp_path / "watch"
    watch.mkdir()
    (watch / CAMERAS).write_text(json.dumps(known))
    live = LiveSession(library, athlete, {}, watch, "curveball")
    try:
        began = now()
        stamp = time.strftime("%Y%m%dT%H%M%S", time.gmtime(began)) + ".000"
        for camera in known:
            # other bytes than the demo's own clip, which the library knows already
            data = (DEMO / f"wren-tollander-{camera}.mp4").read_bytes() + b"\0" * 16
            (watch / f"{stamp}-{camera}.mp4").write_bytes(data)
        live.readings = [radar_reading(began + 1.5, 33.4), Reading(LEAD, began + 1.4, FAILED, None, "no signal")]
        live.hub.devices |= {RADAR, LEAD}
        until(lambda: looked(live) and len(live.keys) == 1 and live.has_landed(live.waiting[0]))
        [key] = live.keys.values()
        with library.reading() as session:
            [entry] = [e for e in entries(session) if e.id == key]
        assert (entry.athlete_id, entry.ball_speed_mps, entry.pitch) == (athlete, 33.4, "curveball")
        assert set(entry.views) == {"open side", "front"} and not entry.ready
        live.correct(0, 31.0)
        [logged] = log_of(library, live.session)
        speeds = [one["value"] for one in logged["readings"] if one["device"] == RADAR]
        assert logged["delivery"] == key and speeds == [31.0]
        assert any(one["state"] == FAILED and one["value"] is None for one in logged["readings"])
        assert days_of(library, athlete)[-1].thrown == 1
        live.correct(0, None)
        assert live.throws[0].speed is None
    finally:
        live.close()


def test_a_clip_that_is_none_is_told_and_the_session_goes_on(library, tmp_path):
    live = LiveSession(library, athlete_of(library)[0], {}, tmp_path, "fastball")
    try:
        (tmp_path / "broken.mp4").write_bytes(b"no clip")
        until(lambda: looked(live) and live.faults)
        assert live.faults[0].startswith("broken.mp4: ") and live.throws == ()
    finally:
        live.close()


@pytest.fixture
def stand_ins(tmp_path):
    """Starts the made-up devices; gives where they are."""
    started = []

    def start(*words):
        command = [sys.executable, "-m", "waxtwin", "stand-ins", "--folder", str(tmp_path / "clips"), *words]
        process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        started.append(process)
        return json.loads(process.stdout.readline())

    yield start
    for process in started:
        process.send_signal(signal.SIGTERM)
        process.wait(10)
        process.stdout.close()


def test_a_session_with_the_stand_ins_logs_speeds_forces_and_failures(
    run, demo_library, tmp_path, stand_ins, monkeypatch
):
    for place in ("waxtwin.core.readings.GRACE", "waxtwin.library.live_session.GRACE"):
        monkeypatch.setattr(place, 1.5)
    folder = shutil.copytree(demo_library, tmp_path / "library")
    where = stand_ins("--throws", "3", "--every", "3", "--fps", "0", "--misread", "2", "--unplugged", "3", "--pty")
    code, out, err = run("session", "--library", folder, "--athlete", "wren tollander", "--throws", "3",
                         "--radar", where["radar"], "--plates", where["plates"], "--patience", "20", "--json")  # fmt: skip
    assert code == 0, err
    said = [{one["device"]: one for one in throw["readings"]} for throw in json.loads(out)["throws"]]
    assert [one[RADAR]["state"] for one in said] == [READ, MISREAD, READ]
    assert [one[LEAD]["state"] for one in said] == [READ, READ, FAILED]
    assert said[0][RADAR]["value"] == pytest.approx(33.2, abs=0.5)
    weight = 70 * 9.81
    assert all(1.2 * weight < one[DRIVE]["value"] < 1.7 * weight for one in said)
    assert 1.8 * weight < said[0][LEAD]["value"] < 2.4 * weight
    assert all(0 < one[RADAR]["at"] - one[DRIVE]["at"] < 1 for one in said)


def test_wrong_use_of_the_commands_is_one_sentence(run, demo_library, tmp_path):
    folder = shutil.copytree(demo_library, tmp_path / "library")
    for words, fault in (
        (("session", "--library", folder, "--athlete", "Wren Tollander"), "name at least one device"),
        (("session", "--library", tmp_path, "--athlete", "x", "--radar", "127.0.0.1:1"), "no library"),
        (("session", "--library", folder, "--athlete", "x", "--radar", "127.0.0.1:1"), "nobody named"),
        (("session", "--library", folder, "--athlete", "x", "--watch", tmp_path / "gone"), "no such folder"),
        (("stand-ins", "--folder", tmp_path, "--preset", "nobody"), "no preset named nobody"),
    ):
        code, _, err = run(*words)
        assert code == 2 and fault in err and len(err.splitlines()) == 1
