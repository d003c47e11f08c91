"""Bundles: a pair or an athlete in one file, taken in whole or not at all, whatever is in the file."""

import hashlib
import json
import random
import shutil
import stat
import zipfile

import numpy as np
import pytest

from conftest import DEMO
from test_plan import athlete_of, plan_for
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.steps import finish
from waxtwin.core.stops import StopsByHand
from waxtwin.core.trend import ArmNote
from waxtwin.library.bundles import MANIFEST, Opened, bundle_athlete, bundle_pair, open_bundle
from waxtwin.library.catalogue import entries
from waxtwin.library.importing import bring
from waxtwin.library.log import arm_notes, note_arm
from waxtwin.library.pairs import change_pair, keep_state, open_pair, pin_note
from waxtwin.library.plans import keep_plan, plans_of
from waxtwin.library.store import Library
from waxtwin.library.talks import talks_of, voices_in
from waxtwin.library.throws import fetch, set_events
from waxtwin.talk.sound import samples


@pytest.fixture
def other(tmp_path):
    opened = Library(tmp_path / "other")
    yield opened
    opened.close()


def key_of(library, title):
    return athlete_of(library, title)[1]


def taken(library, path):
    found = finish(open_bundle(library, path))
    assert isinstance(found, Opened)
    return found


def packed_pair(library, path):
    """A bundle of the demo's first pair, with what can be kept about it."""
    one, two = key_of(library, "wren-tollander"), key_of(library, "ines-corvane")
    set_events(library, {one: StopsByHand({"foot_contact": 2.0125})}, "by hand")
    kept = open_pair(library, one, two)
    change_pair(library, kept.id, "why", why="same slot", name="First look")
    pin_note(library, kept.id, "release", "athlete", "look at the <b>hand</b>")
    keep_state(library, kept.id, {"mode": "all", "time": 2.0})
    athlete = athlete_of(library)[0]
    keep_plan(library, athlete, plan_for(), "plan")
    note_arm(library, athlete, ArmNote("2026-11-20", 1, "elbow"))
    shares = list(bundle_pair(library, kept.id, path))
    assert shares == sorted(shares) and shares[-1] <= 1
    return kept


def test_a_pair_comes_out_as_it_went_in(library, other, tmp_path):
    path = tmp_path / "pair.waxtwin"
    packed_pair(library, path)
    found = taken(other, path)
    assert [one.known for one in found.throws] == [False, False] and found.pair is not None
    for side, title in zip(found.pair, ("wren-tollander", "ines-corvane"), strict=True):
        ours, theirs = fetch(library, key_of(library, title)), fetch(other, side)
        assert np.allclose(ours.delivery.track.points, theirs.delivery.track.points, atol=1e-5, equal_nan=True)
        assert theirs.delivery.by_hand.times == ours.delivery.by_hand.times
        assert theirs.delivery.ball_speed == ours.delivery.ball_speed
        assert [c.view for c in theirs.clips] == [c.view for c in ours.clips] and all(
            c.path.is_file() for c in theirs.clips
        )
    kept = open_pair(other, *found.pair)
    assert (kept.why, kept.name, kept.notes[0].text) == ("same slot", "First look", "look at the <b>hand</b>")
    assert kept.state == {"mode": "all", "time": 2.0}
    with other.reading() as session:
        athlete = next(e.athlete_id for e in entries(session) if e.name == "Wren Tollander")
    assert plans_of(other, athlete)[0].focus == plan_for().focus and arm_notes(other, athlete)[0].place == "elbow"


def test_talks_go_along_with_their_voices_once(library, other, tmp_path):
    kept = packed_pair(library, tmp_path / "pair.waxtwin")
    [talk] = talks_of(library, kept.athlete, kept.twin)
    for _ in range(2):
        opened = taken(other, tmp_path / "pair.waxtwin")
        [found] = talks_of(other, *opened.pair)
        assert [one.seconds for one in found.talk.scenes] == [one.seconds for one in talk.talk.scenes]
    mine, theirs = (
        samples(voices_in(place) / one.talk.scenes[3].spoken.file) for place, one in ((library, talk), (other, found))
    )
    assert np.array_equal(mine, theirs) and found.talk.files.isdisjoint(talk.talk.files)
    assert {voice.name for voice in voices_in(other).iterdir()} == found.talk.files


def test_the_same_bundle_twice_brings_nothing_new(library, other, tmp_path):
    path = tmp_path / "pair.waxtwin"
    packed_pair(library, path)
    first, again = taken(other, path), taken(other, path)
    assert all(one.known for one in again.throws) and again.pair == first.pair
    here = taken(library, path)
    assert here.pair == (key_of(library, "wren-tollander"), key_of(library, "ines-corvane"))
    with other.reading() as session:
        assert len(entries(session)) == 2
    assert len(open_pair(other, *first.pair).notes) == 1


def test_everything_of_an_athlete_goes_along(library, other, tmp_path):
    athlete = athlete_of(library)[0]
    finish(bring(library, DEMO / "wren-tollander-2.csv"))
    finish(bring(library, DEMO / "ines-corvane-front.mp4"))  # a clip that is not prepared, of nobody yet
    path = tmp_path / "wren.waxtwin"
    finish(bundle_athlete(library, athlete, path))
    found = taken(other, path)
    assert len(found.throws) == 2 and found.pair is None


def test_a_clip_without_a_track_goes_along_too(library, other, tmp_path):
    finish(bring(library, DEMO / "wren-tollander-front.mp4"))
    with library.reading() as session:
        entry = next(e for e in entries(session) if not e.ready)
    path = tmp_path / "raw.waxtwin"
    finish(bundle_athlete(library, entry.athlete_id, path))
    taken(other, path)
    with other.reading() as session:
        [one] = entries(session)
    assert not one.ready and len(one.views) == 1


def test_a_blend_stays_known_as_one(library, other, tmp_path):
    from waxtwin.library.blending import keep_blend

    keys = [key_of(library, title) for title in ("ines-corvane", "juno-wexcombe")]
    made = finish(keep_blend(library, keys, "Blend <i>"))
    with library.reading() as session:
        athlete = next(e.athlete_id for e in entries(session) if e.id == made)
    path = tmp_path / "blend.waxtwin"
    finish(bundle_athlete(library, athlete, path))
    [one] = taken(other, path).throws
    assert any("nobody threw it" in note for note in fetch(other, one.key).delivery.notes)


# hostile files --------------------------------------------------------------------------------------------------------
def rewritten(source, target, change):
    """The bundle with its entries {name: (ZipInfo, bytes)} and manifest changed."""
    with zipfile.ZipFile(source) as packed:
        held = {info.filename: (info, packed.read(info)) for info in packed.infolist()}
    manifest = json.loads(held.pop(MANIFEST)[1])
    change(held, manifest)
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as out:
        for name, (info, data) in held.items():
            fresh = zipfile.ZipInfo(name)
            fresh.external_attr = info.external_attr
            out.writestr(fresh, data)
        if manifest is not None:
            out.writestr(MANIFEST, json.dumps(manifest))
    return target


def put(held, manifest, name, data=b"x", link=False):
    info = zipfile.ZipInfo(name)
    if link:
        info.external_attr = (stat.S_IFLNK | 0o777) << 16
    held[name] = (info, data)
    manifest["files"][name] = {"bytes": len(data), "sha256": hashlib.sha256(data).hexdigest()}


def longer(held, manifest):
    name = next(name for name in held if name.endswith(".csv"))
    held[name] = (held[name][0], held[name][1] + b"0")
    manifest["files"][name]["bytes"] += 1


FAULTS = {
    "a path upward": (lambda h, m: put(h, m, "../../outside.csv"), "name that is not allowed"),
    "an absolute path": (lambda h, m: put(h, m, "/tmp/outside.csv"), "name that is not allowed"),
    "a backslash": (lambda h, m: put(h, m, "a\\..\\outside.csv"), "name that is not allowed"),
    "a drive": (lambda h, m: put(h, m, "C:/outside.csv"), "name that is not allowed"),
    "a link": (lambda h, m: put(h, m, "people/link.csv", b"/etc/passwd", link=True), "it holds a link"),
    "a file not named": (lambda h, m: h.update({"more.csv": (zipfile.ZipInfo("more.csv"), b"x")}), "not those that"),
    "a file that is missing": (lambda h, m: h.pop(next(iter(h))), "not those that"),
    "another sum": (longer, "its sum differs"),
    "another length": (lambda h, m: m["files"][next(iter(h))].update(bytes=3), "not as long as"),
    "a newer version": (lambda h, m: m.update(version=99), "newer Wax Twin"),
    "another format": (lambda h, m: m.update(format="zip"), "manifest cannot be read"),
    "a pair of nothing": (lambda h, m: m["pair"].update(twin=7), "throws that it does not hold"),
    "a throw of nothing": (lambda h, m: m["throws"].append({"file": "no.csv"}), "does not hold"),
    "numbers as words": (lambda h, m: m.update(files="x"), "manifest cannot be read"),
}


@pytest.fixture(scope="module")
def good_bundle(demo_library, tmp_path_factory):
    place = tmp_path_factory.mktemp("bundles")
    opened = Library(shutil.copytree(demo_library, place / "library"))
    packed_pair(opened, place / "good.waxtwin")
    opened.close()
    return place / "good.waxtwin"


@pytest.mark.parametrize("name", FAULTS)
def test_a_bundle_that_is_not_in_order_is_refused_in_one_sentence(good_bundle, other, tmp_path, name):
    change, words = FAULTS[name]
    path = rewritten(good_bundle, tmp_path / "bad.waxtwin", change)
    with pytest.raises(WaxTwinError, match=r"^bad\.waxtwin: ") as fault:
        finish(open_bundle(other, path))
    assert words in str(fault.value) and "\n" not in str(fault.value)
    with other.reading() as session:
        assert entries(session) == []
    assert other.next_undo() is None and not list(other.folder.glob(".bundle-*"))
    assert not (tmp_path / "outside.csv").exists()


def test_a_damaged_track_inside_leaves_the_library_as_it_was(good_bundle, other, tmp_path):
    def spoil(held, manifest):
        name = sorted(name for name in held if name.endswith(".csv"))[1]
        put(held, manifest, name, b"time,nonsense\n0,x\n")

    finish(bring(other, DEMO / "pell-ardmoor.csv"))
    before = other.next_undo()
    with pytest.raises(WaxTwinError, match=r"^bad.waxtwin: .*\.csv"):
        finish(open_bundle(other, rewritten(good_bundle, tmp_path / "bad.waxtwin", spoil)))
    with other.reading() as session:
        assert [entry.name for entry in entries(session)] == ["Pell Ardmoor"]
    assert other.next_undo() == before


def test_a_bundle_cut_short_or_scrambled_is_never_a_traceback(good_bundle, other, tmp_path):
    whole = good_bundle.read_bytes()
    rng = random.Random(5)
    for n in range(12):
        data = bytearray(whole[: rng.randrange(len(whole))] if n % 2 else whole)
        for _ in range(40):
            data[rng.randrange(len(data))] = rng.randrange(256) if data else 0
        path = tmp_path / f"{n}.waxtwin"
        path.write_bytes(data)
        with pytest.raises(WaxTwinError, match=f"^{n}.waxtwin: "):
            finish(open_bundle(other, path))
    with other.reading() as session:
        assert entries(session) == []


def test_writing_that_fails_or_is_cancelled_leaves_the_old_file(library, tmp_path, monkeypatch):
    target = tmp_path / "b.waxtwin"
    target.write_bytes(b"old")
    kept = open_pair(library, key_of(library, "wren-tollander"), key_of(library, "ines-corvane"))
    work = bundle_pair(library, kept.id, target)
    for _ in range(4):
        next(work)
    work.close()
    assert target.read_bytes() == b"old"
    monkeypatch.setattr(
        zipfile.ZipFile, "write", lambda *a: (_ for _ in ()).throw(OSError(28, "No space left on device"))
    )
    with pytest.raises(WaxTwinError, match=r"b\.waxtwin: it cannot be written \(No space left"):
        finish(bundle_pair(library, kept.id, target))
    assert target.read_bytes() == b"old" and [p.name for p in tmp_path.iterdir() if "waxtwin" in p.name] == [
        "b.waxtwin"
    ]


def test_the_command_line_packs_and_takes_in(run, tmp_path):
    out = tmp_path / "p.waxtwin"
    code, said, _ = run("bundle", DEMO / "wren-tollander.csv", DEMO / "ines-corvane.csv", "-o", out)
    assert code == 0 and said.strip() == str(out)
    code, said, _ = run("import", out, "--library", tmp_path / "lib", "--json")
    assert code == 0 and [f["known"] for f in json.loads(said)["files"]] == [False, False]
    code, _, err = run("bundle", "--library", tmp_path / "lib", "--athlete", "Nobody", "-o", out)
    assert code == 2 and "nobody named “Nobody”" in err and "Wren Tollander" in err
    code, _, _ = run("bundle", "--library", tmp_path / "lib", "--athlete", "wren tollander", "-o", out)
    assert code == 0
    code, _, err = run("bundle", DEMO / "wren-tollander.csv", "-o", out)
    assert code == 2 and "name an athlete and a twin" in err
