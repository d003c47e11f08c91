"""The report: what it says, that it is one harmless page, and that PDF and clip are what they claim to be."""

import shutil
from dataclasses import replace
from datetime import date
from html.parser import HTMLParser

import av
import numpy as np
import pytest

from conftest import DEMO, clean
from waxtwin.capture.clip import ClipError
from waxtwin.core.analysis import resolve
from waxtwin.core.cautions import CAUTIONS
from waxtwin.core.contrast import UNTOLD, contrast
from waxtwin.core.explain import Perspective, explain
from waxtwin.core.eye import EyeAnswer, Looked
from waxtwin.core.plan import Focus, Plan, Target
from waxtwin.core.schools import School
from waxtwin.core.standing import verdict
from waxtwin.core.steps import finish
from waxtwin.formats.files import FormatError
from waxtwin.library.eye import load_checks
from waxtwin.library.plans import catalogue
from waxtwin.library.playbook import shipped_playbook
from waxtwin.report.document import compose
from waxtwin.report.film import FPS, encode
from waxtwin.report.page import html
from waxtwin.report.parts import PARTS, WORDS, Material, Wish, wish_document, wish_from
from waxtwin.report.pdf import pdf, sheets

TODAY = date(2026, 11, 26)
NASTY = "<script>alert(1)</script> ../../etc =1+1 \u202eevil\u202c 🐙 " + "x" * 10_000


@pytest.fixture(scope="module")
def material():
    pair = contrast(*(resolve(clean(name), 24) for name in ("wren", "ines")))
    seen = Looked(tuple(load_checks()[0]), {"eye_landing_eyes": EyeAnswer("tilted")})
    common = School("common", "Common", "", "touch", {}, {}, {})
    found = explain(pair, Perspective(shipped_playbook(), common, (), looked=seen))
    return Material(pair, found, tasks=catalogue(None), why="Ines has the same slot.")


class Page(HTMLParser):
    """Tags, their attributes, and the text of a page."""

    def __init__(self, page):
        super().__init__()
        self.tags, self.text, self._skip = [], [], 0
        self.feed(page)

    def handle_starttag(self, tag, attrs):
        self.tags.append((tag, dict(attrs)))
        self._skip = tag == "style"

    def handle_endtag(self, tag):
        self._skip = False

    def handle_data(self, data):
        if not self._skip and data.strip():
            self.text.append(data.strip())


def test_what_to_do_comes_first_and_cautions_are_always_there(material):
    report = compose(material, Wish(), TODAY)
    page = Page(html(report, {}))
    said = "\n".join(page.text)
    order = [said.index(words) for words in (report.things[0].title, "Known to be alike", "Please mind",
                                             "Where the speed is lost", "Every measure", "How this was measured")]  # fmt: skip
    assert order == sorted(order)
    assert len(report.things) <= 2 and all(thing.tasks and thing.target for thing in report.things)
    bare = "\n".join(Page(html(compose(material, Wish(parts=frozenset()), TODAY), {})).text)
    for caution in CAUTIONS:
        assert caution in said and caution in bare
    assert "Every measure" not in bare and "How this was measured" in bare


def test_where_nothing_is_to_be_done_the_first_page_says_what_differs_and_what_would_tell_more(material):
    judged = material.explanation.judgement
    vague = [replace(row, verdict=UNTOLD) for row in material.pair.rows[:3]]
    open_ = {f"Question {n}?": (row,) for n, row in enumerate(vague)}
    found = replace(material.explanation, judgement=replace(judged, findings=(), open=open_))
    report = compose(replace(material, explanation=found), Wish(stops=("release",)), TODAY)
    said = "\n".join(Page(html(report, dict.fromkeys(report.pictures, b""))).text)
    clearest = max(
        (row for row in material.pair.rows if row.apart), key=lambda row: abs(row.difference / row.resolution)
    )
    assert clearest.measure.label in report.apart[0] and verdict(clearest, False) in report.apart[0]
    order = [said.index(words) for words in ("Side by side", "What differs", "does not make it a fault", report.apart[0],
                                             "What would tell more", "3 questions", "Please mind", "Every measure")]  # fmt: skip
    assert order == sorted(order) and said.count("Side by side") == 1
    unwanted = compose(replace(material, explanation=found), Wish(parts=frozenset(PARTS) - {"todo"}), TODAY)
    assert not unwanted.apart


@pytest.mark.parametrize("part", PARTS)
def test_each_part_can_be_left_out(material, part):
    whole = compose(material, Wish(), TODAY)
    less = compose(material, Wish(parts=frozenset(PARTS) - {part}), TODAY)
    assert part == "log" or less != whole  # nothing became of it yet, so there is nothing to leave out


def test_the_page_needs_nothing_from_outside_and_runs_nothing(material):
    report = compose(material, Wish(), TODAY)
    page = html(report, dict.fromkeys(report.all_pictures, b"png"), dict.fromkeys(report.all_drawn, b"drawn"))
    assert report.all_drawn and page.count('class="drawn"') == sum(len(thing.tasks) for thing in report.things)
    found = Page(page)
    assert {"script", "link", "iframe", "object"}.isdisjoint({tag for tag, _ in found.tags})
    links = [value for _, attrs in found.tags for name, value in attrs.items() if name in ("src", "href")]
    assert links and all(link.startswith("data:") for link in links)
    assert not [name for _, attrs in found.tags for name in attrs if name.startswith("on")]
    assert page.count("url(") == page.count("url(data:") and "@import" not in page


def test_names_and_words_are_shown_as_typed_and_harmless(material):
    wording = dict.fromkeys(WORDS, NASTY[:60]) | {"closing": NASTY}
    wish = Wish(frozenset({"todo", "good", "account"}), athlete=NASTY, twin=NASTY[:60], wording=wording)
    page = html(compose(material, wish, TODAY), {})
    found = Page(page)
    assert "script" not in {tag for tag, _ in found.tags}
    assert NASTY.split()[0] in "".join(found.text) and "x" * 10_000 in "".join(found.text)
    assert pdf(page).startswith(b"%PDF")


def test_another_name_keeps_the_own_ones_out(material):
    page = html(compose(material, Wish(athlete="Pitcher 7", twin="Twin"), TODAY), {})
    assert "Pitcher 7" in page
    for word in ("Wren", "Tollander", "Ines", "Corvane"):
        assert word not in page


def test_the_plan_decides_what_there_is_to_do_and_own_words_win(material):
    target = Target("landing_trunk_tilt", 14.0, 5.0, "own")
    plan = Plan(1, (Focus("", "Chest back", "plain", target, ("stay_tall",)),))
    wish = Wish(imperial=True, wording={"first": "Keep your chest back, Wren."})
    report = compose(replace(material, plan=plan), wish, TODAY)
    [thing] = report.things
    assert (thing.title, thing.plain) == ("Chest back", "Keep your chest back, Wren.")
    assert thing.target == "Trunk lean: from 14° to 5° (chosen by hand)"
    assert [task.title for task in thing.tasks] == ["Head behind"]
    said = "\n".join(Page(html(report, {})).text)
    assert "mph" in said and " m/s" not in said and "one thing to work on" in said


def test_shares_stand_as_bars_that_do_not_leave_the_page(material):
    report = compose(material, Wish(), TODAY)
    assert report.shares and report.chain
    for bar in (*report.shares, *report.chain):
        assert 0 <= bar.start <= bar.start + bar.width <= 100 + 1e-6
        assert bar.start == 50 if bar.loses else bar.start + bar.width == pytest.approx(50)


def test_a_wish_is_kept_and_read_again_whatever_is_in_it():
    wish = Wish(frozenset({"todo"}), ("release",), "A", "B", True, {"title": "T"}, True)
    assert wish_from(wish_document(wish), imperial=True) == wish
    odd = {"parts": ["todo", "no such", 5], "stops": "release", "wording": {"title": 1, "x": "y"}, "athlete": None}
    found = wish_from(odd, imperial=False)
    assert found.parts == {"todo"} and found.stops == Wish().stops and found.wording == {"title": "1"}
    assert found.athlete == ""


def test_the_pdf_has_pages_with_the_text_in_them(material):
    from pypdfium2 import PdfDocument

    data = pdf(html(compose(material, Wish(), TODAY), {}))
    pages = list(sheets(data, 300))
    assert 3 <= len(pages) <= 4 and all(page.shape[1:] == (300, 4) and np.ptp(page) > 100 for page in pages)
    document = PdfDocument(data)
    text = "".join(page.get_textpage().get_text_range() for page in document)
    document.close()
    assert "Wren Tollander" in text and "Please mind" in text and "Head behind" in text


def test_nothing_is_fetched_for_the_pdf(material, tmp_path):
    secret = tmp_path / "secret.png"
    secret.write_bytes(b"x")
    wish = Wish(frozenset({"todo"}), wording={"closing": f'<img src="file://{secret}">'})
    page = html(compose(material, wish, TODAY), {}).replace("</main>", f'<img src="file://{secret}"></main>')
    assert pdf(page).startswith(b"%PDF")  # what is outside is left out, not followed


# pictures and the clip ------------------------------------------------------------------------------------------------
@pytest.fixture
def plates(material, qapp):
    from waxtwin.ui.shared.application import application
    from waxtwin.ui.shared.pair_images import PairImages

    application()
    return PairImages(material.pair, ("Wren <b>", "Ines"), False)


def picture_of(data):
    from PySide6.QtGui import QImage

    image = QImage.fromData(data, "JPEG").convertToFormat(QImage.Format.Format_RGB32)
    pixels = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.width(), 4)
    return pixels.astype(int)


def test_a_picture_shows_both_figures_and_the_gauge(plates):
    plain = picture_of(plates.picture("foot_contact", ()))
    lit = picture_of(plates.picture("foot_contact", ("landing_trunk_tilt",)))
    half = plain.shape[1] // 2
    for side, warm in ((plain[:, :half], True), (plain[:, half:], False)):
        amber, teal = (side[..., 2] - side[..., 0] > 60).sum(), (side[..., 0] - side[..., 2] > 30).sum()
        assert (amber > 5000 and teal < 500) if warm else (teal > 5000 and amber < 500)
    assert gauge_in(lit[:, :half]) > 100 and gauge_in(lit[:, half:]) > 100 and gauge_in(plain) == 0


def gauge_in(picture):
    """Pixels in a lit gauge's red."""
    return int((np.abs(picture[..., :3] - [0x7A, 0x8E, 0xFF]).sum(axis=-1) < 50).sum())


def hall_in(picture):
    """Pixels of the planks behind whoever is filmed."""
    return int((np.abs(picture[..., :3].astype(int) - [0x3B, 0x4F, 0x6B]).sum(axis=-1) < 40).sum())


def test_the_clip_runs_once_at_real_time_and_then_slowly(plates, material, tmp_path):
    from waxtwin.ui.shared.pair_images import FILM

    count, frames = plates.frames(("landing_trunk_tilt",))
    real = material.pair.athlete.motion.times
    assert count > (real[-1] - real[0]) * FPS + 8 * 0.5 * FPS
    few = [next(frames) for _ in range(6)]
    assert list(encode(tmp_path / "c.mp4", few, 6, FILM))[-1] == 1.0
    with av.open(str(tmp_path / "c.mp4")) as clip:
        pictures = [frame.to_ndarray(format="bgra") for frame in clip.decode(video=0)]
    assert len(pictures) == 6 and pictures[0].shape == (FILM[1], FILM[0], 4)
    assert np.abs(pictures[0].astype(int) - few[0]).mean() < 6


@pytest.fixture
def footage(material):
    from waxtwin.library.stored import load
    from waxtwin.ui.shared.footage import footage_of

    shown = {"athlete": material.pair.athlete, "twin": material.pair.twin}
    stored = {
        side: replace(load(DEMO / f"{name}.csv"), delivery=shown[side].delivery)
        for side, name in (("athlete", "wren-tollander"), ("twin", "ines-corvane"))
    }
    # a session's typical throw need not be the one that was chosen
    track = shown["twin"].delivery.track
    other = replace(shown["twin"].delivery, track=replace(track, points=track.points + 0.01))
    chosen = replace(stored["twin"], delivery=other, clips=())
    assert footage_of(shown, {"twin": [chosen]}) == {"athlete": (), "twin": ()}
    return footage_of(shown, {"athlete": [stored["athlete"]], "twin": [chosen, stored["twin"]]})


def test_the_clip_shows_footage_only_where_both_sides_have_it(plates, footage):
    from waxtwin.ui.shared.footage import clips_for

    clips = clips_for(footage, ("landing_trunk_tilt",))
    assert {clip.view for clip in clips.values()} == {"open side"}
    assert {clip.view for clip in clips_for(footage, ("stride_offset",)).values()} <= {"front"}
    assert clips_for(footage | {"twin": ()}, ()) == {}
    assert clips_for(footage, ("landing_separation",)) == {}  # seen from above, where no camera stands
    _, frames = replace(plates, footage=footage).frames(("landing_trunk_tilt",))
    filmed = next(frames)[:600]
    frames.close()
    _, drawn = plates.frames(("landing_trunk_tilt",))
    assert (
        hall_in(filmed[:, :640]) > 50_000 and hall_in(filmed[:, 640:]) > 50_000 and hall_in(next(drawn)[:600]) < 5_000
    )


def test_a_picture_shows_the_footage_where_it_was_filmed_from_where_the_gauge_is_seen(plates, footage, tmp_path):
    half = 700

    def seen(clips, measures):
        picture = picture_of(replace(plates, footage=clips).picture("foot_contact", measures))
        return [(hall_in(part) > 20_000, gauge_in(part) > 100) for part in (picture[:, :half], picture[:, half:])]

    assert seen(footage, ()) == [(True, False)] * 2
    assert seen(footage, ("landing_trunk_tilt",)) == [(True, True)] * 2
    assert seen(footage, ("landing_separation",)) == [(False, True)] * 2
    assert seen(footage | {"twin": ()}, ("landing_trunk_tilt",)) == [(True, True), (False, True)]
    behind = [replace(clip, view="rear") for clip in footage["athlete"] if clip.view == "front"]
    assert seen({"athlete": behind}, ("stride_offset",))[0][0] and seen({"athlete": behind}, ())[0][0]
    damaged = [replace(clip, path=tmp_path / "damaged.mp4") for clip in footage["athlete"]]
    (tmp_path / "damaged.mp4").write_bytes(footage["athlete"][0].path.read_bytes()[:40_000])
    with pytest.raises(ClipError, match="damaged"):
        seen({"athlete": damaged}, ())
    gone = [replace(clip, path=tmp_path / "gone.mp4") for clip in footage["athlete"]]
    assert seen({"athlete": gone}, ()) == [(False, False)] * 2


def test_one_delivery_alone_is_seen_in_its_clip_too(material, plates, footage):
    from waxtwin.core.single import Single
    from waxtwin.ui.shared.pair_images import SingleImages

    drawn = SingleImages(Single("athlete", material.pair.athlete, (), {}), "Wren", False)
    filmed = replace(drawn, footage=footage["athlete"])
    assert hall_in(picture_of(drawn.picture("release", ()))) < 5_000
    assert hall_in(picture_of(filmed.picture("release", ()))) > 100_000


@pytest.mark.parametrize(("throws", "frame"), [("R", (1280, 720)), ("L", (720, 1280))])
def test_a_body_is_framed_whole_and_as_tall_as_any_other(throws, frame):
    from waxtwin.core.camera import Camera, look_at, project
    from waxtwin.ui.shared.framing import Framing

    box, body, flips = (400, 340), clean("wren").motion.body_at(1.5), throws == "L"
    tall = []
    for away in (6.0, 18.0):
        matrix = look_at(np.array([0.8, -away, 1.2]), np.array([0.8, 0.0, 1.0]), 900.0, frame)
        framing = Framing.fit(frame, box, Camera(matrix, frame), 1.8, flips=flips).around(body, box, 1.8)
        seen, _ = project(framing.matrix(), body)
        assert (np.nanmin(seen, axis=0) >= 0).all() and (np.nanmax(seen, axis=0) <= box).all()
        tall.append(float(np.nanmax(seen[:, 1]) - np.nanmin(seen[:, 1])))
    assert tall[0] == pytest.approx(tall[1], rel=0.06)


def test_a_clip_that_is_cancelled_or_fails_leaves_the_old_file(tmp_path):
    target = tmp_path / "c.mp4"
    target.write_bytes(b"old")
    black = np.zeros((64, 64, 4), np.uint8)
    work = encode(target, [black] * 5, 5, (64, 64))
    next(work)
    work.close()
    assert target.read_bytes() == b"old" and list(tmp_path.iterdir()) == [target]

    def broken():
        yield black
        raise OSError(28, "No space left on device")

    with pytest.raises(FormatError, match="No space left"):
        finish(encode(target, broken(), 5, (64, 64)))
    assert target.read_bytes() == b"old" and list(tmp_path.iterdir()) == [target]
    with pytest.raises(FormatError, match="clips are written as"):
        next(encode(tmp_path / "c.gif", [], 0, (64, 64)))


def test_the_command_line_writes_a_report(run, tmp_path):
    for kind in ("csv", "delivery.json"):  # and not the clips
        shutil.copy(DEMO / f"pell-ardmoor.{kind}", tmp_path)
    files = (tmp_path / "pell-ardmoor.csv", DEMO / "juno-wexcombe.csv")
    out = tmp_path / "r.html"
    code, said, told = run("report", *files, "-o", out, "--name", "Lefty", "--leave-out", "table", "--say",
                           "closing=See you.", "--footage")  # fmt: skip
    page = out.read_text()
    assert code == 0 and said.strip() == str(out)
    assert "the throw of Lefty" in told and "Wexcombe" not in told
    assert "Lefty" in page and "Ardmoor" not in page and "See you." in page and "Every measure" not in page
    for words, fault in (
        (("-o", tmp_path / "r.doc"), "reports are written as"), (("-o", out, "--leave-out", "x"), "no part named x"),
        (("-o", out, "--stop", "x"), "no stop named x"), (("-o", out, "--say", "x"), "say KEY=TEXT"),
    ):  # fmt: skip
        code, _, err = run("report", *files, *words)
        assert code == 2 and fault in err and len(err.splitlines()) == 1
