"""Turnover: what is written is what the shots are, to the frame and to the sample."""

from __future__ import annotations

import csv
import io
import json
import shutil
import signal
import threading
import xml.etree.ElementTree as ElementTree
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
import openpyxl
import opentimelineio as otio
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from films import encode, number_in, picture_of
from offcut.core.errors import OffcutError
from offcut.core.files import LONGEST, safe_name
from offcut.core.lists.csv import HEADS
from offcut.core.lists.ffmetadata import ffmetadata_text
from offcut.core.lists.registry import read_list, written_formats
from offcut.core.lists.webvtt import webvtt_text
from offcut.core.media.index import FrameIndex
from offcut.core.media.movie import MovieReader
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.pictures import rgb_of
from offcut.core.media.probe import open_source
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.model.card import Card, Original
from offcut.core.model.handover import Asked
from offcut.core.model.project import Project, ShotRef
from offcut.core.model.scenes import scenes_in
from offcut.core.model.seam import Certainty, Kind, Seam
from offcut.core.model.shots import Shot, shots_of
from offcut.core.model.source import Media
from offcut.core.model.verbs.cards import name_shot, note_shot, put_in_scene, set_shot_aside
from offcut.core.model.verbs.judging import keep_seams, strike_seams
from offcut.core.model.verbs.markers import add_marker
from offcut.core.model.verbs.orders import add_order
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.replacing import with_card
from offcut.core.model.verbs.rolling import roll_seam
from offcut.core.model.verbs.searching import take_found
from offcut.core.model.verbs.sources import add_source
from offcut.core.turnover.checks import Weight, checked
from offcut.core.turnover.copying import PacketMap, copying_of
from offcut.core.turnover.plan import Item, plan_of
from offcut.core.turnover.readers_in_use import TrailingReader
from offcut.core.turnover.sheet import pages_of
from offcut.core.turnover.work_shares import Shares
from offcut.core.turnover.writing import copying_for, hand_over, with_handover
from offcut.core.words import size_words
from projects import FIRST, cut_film, list_of

COUNT = 120


@pytest.fixture(scope="module")
def numbers(films: Path) -> OpenedFilm:
    """A film of numbered pictures with sound of which every sample tells its place."""
    path = films / "numbers.mov"
    with av.open(str(path), "w") as out:
        stream = out.add_stream(
            "libx264", rate=25, options={"x264-params": "bframes=3:keyint=24:scenecut=0"}
        )
        stream.width, stream.height, stream.pix_fmt = 320, 192, "yuv420p"
        stream.codec_context.time_base = Fraction(1, 25)
        stream.codec_context.color_primaries = stream.codec_context.color_trc = 1
        stream.codec_context.colorspace = 1
        stream.metadata["timecode"] = "01:00:00:00"
        voice = out.add_stream("pcm_s16le", rate=48000, layout="mono")
        for n in range(COUNT):
            frame = av.VideoFrame.from_ndarray(picture_of(n, 320, 192), "rgb24")
            frame.pts, frame.time_base = n, Fraction(1, 25)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
        for first in range(0, COUNT * 1920, 1000):  # no packet ends where a picture does
            ramp = np.arange(first, min(first + 1000, COUNT * 1920)) % 30_000
            sound = av.AudioFrame.from_ndarray(ramp.astype(np.int16)[None], "s16", "mono")
            sound.sample_rate, sound.pts = 48000, first
            out.mux(voice.encode(sound))
        out.mux(voice.encode(None))
    return open_source(path)


@pytest.fixture
def cut(numbers: OpenedFilm) -> Project:
    """The film cut at 24, 48 (a dissolve), 71 and 100."""
    project = add_source(Project(name="Line 7"), numbers.media)
    for frame in (24, 71, 100):
        project = place_seam(project, FIRST, frame)
    project = place_seam(project, FIRST, 48, kind=Kind.DISSOLVE, span=8)
    project = replace(project, sources=(replace(project.sources[0], searched=True),))
    return name_shot(project, FIRST, 30, "The quay")


def shown(path: Path) -> list[int]:
    film = open_source(path)
    with MovieReader(path, film.index) as reader:
        return [number_in(rgb_of(reader.frame(n), 320, 192)) for n in range(film.media.frames)]


def heard(path: Path) -> Iterator[int]:
    with av.open(str(path)) as film:
        for frame in film.decode(audio=0):
            yield from frame.to_ndarray().reshape(-1).tolist()


@pytest.mark.parametrize("handles", [0, 12])
@pytest.mark.parametrize("way", ["prores", "dnxhr", "h264", "ffv1"])
def test_movies_have_every_frame_and_sample_of_their_shot(
    way: str, handles: int, cut: Project, numbers: OpenedFilm, tmp_path: Path
) -> None:
    plan = plan_of(cut, Asked(lists=(), movies=way, handles=handles))
    report = hand_over(plan, tmp_path, {FIRST: numbers})
    assert not report.problems
    assert len(report.written) == 5
    for item, (name, _) in zip(plan.items, report.written, strict=True):
        path = tmp_path / name
        assert shown(path) == list(range(item.start, item.end))
        media = open_source(path).media
        assert (media.rate, media.width, media.height) == (25, 320, 192)
        assert media.start == 90_000 + item.start
        with av.open(str(path)) as film:
            context = film.streams.video[0].codec_context
            assert (context.color_primaries, context.color_trc, context.colorspace) == (1, 1, 1)
        samples = [n % 30_000 for n in range(item.start * 1920, item.end * 1920)]
        assert list(heard(path)) == samples
    assert not list(tmp_path.glob(".*"))


def test_copied_movies_begin_at_the_keyframe_before_and_it_is_said(
    cut: Project, numbers: OpenedFilm, tmp_path: Path
) -> None:
    plan = plan_of(cut, Asked(lists=(), movies="copy"))
    told = copying_for(plan, {FIRST: numbers})
    # keyframes at 0, 24, 48 ...; a shot that ends between two brings a picture along that others
    # were made from
    assert [c.early for c in told] == [0, 0, 0, 23, 4]
    words = [f.words for f in checked(plan, tmp_path, films={FIRST: numbers}, copying=told)]
    assert any("of 5 shots can be copied to the frame; others begin up to 23" in w for w in words)
    report = hand_over(plan, tmp_path, {FIRST: numbers})
    assert not report.problems
    for item, copying, (name, _) in zip(plan.items, told, report.written, strict=True):
        wanted = list(range(item.start - copying.early, item.end + copying.late))
        assert shown(tmp_path / name) == wanted
        samples = [n % 30_000 for n in range(wanted[0] * 1920, (wanted[-1] + 1) * 1920)]
        assert list(heard(tmp_path / name)) == samples


def test_a_film_of_keyframes_alone_is_copied_to_the_frame(films: Path, tmp_path: Path) -> None:
    path = encode(
        films / "intra.mov", (picture_of(n) for n in range(60)), "prores_ks", pixels="yuv422p10le"
    )
    film = open_source(path)
    project = add_source(Project(name="x"), film.media)
    for frame in (17, 33):
        project = place_seam(project, FIRST, frame)
    assert all(c.exact for c in copying_of(film, [(0, 17), (17, 33), (33, 60)]))
    report = hand_over(plan_of(project, Asked(lists=(), movies="copy")), tmp_path, {FIRST: film})
    numbers = [
        [number_in(rgb_of(f, 160, 96)) for f in _frames(tmp_path / n)] for n, _ in report.written
    ]
    assert numbers == [list(range(17)), list(range(17, 33)), list(range(33, 60))]
    assert len(PacketMap(film.index).frames) == 60


def _frames(path: Path) -> Iterator[av.VideoFrame]:
    with av.open(str(path)) as film:
        yield from film.decode(video=0)


def test_stopping_leaves_whole_files_only(
    cut: Project, numbers: OpenedFilm, tmp_path: Path
) -> None:
    stop = threading.Event()

    def told(done: int, _whole: int) -> None:
        if done > 40:
            stop.set()

    plan = plan_of(cut, Asked(movies="h264"))
    report = hand_over(plan, tmp_path, {FIRST: numbers}, stop=stop, progress=told, workers=1)
    assert report.stopped
    assert 1 <= len(report.written) < 6
    assert sorted(p.name for p in tmp_path.iterdir()) == sorted(n for n, _ in report.written)
    for name, _ in report.written:
        if name.endswith(".mov"):
            assert len(shown(tmp_path / name)) == 24


def test_ctrl_c_ends_the_shots_under_way_and_leaves_no_half_file(
    cut: Project, numbers: OpenedFilm, tmp_path: Path
) -> None:
    told: list[int] = []
    main = threading.main_thread().ident
    assert main is not None

    def tell(done: int, _whole: int) -> None:
        told.append(done)
        if done == 30:
            signal.pthread_kill(main, signal.SIGINT)

    many = cut
    for frame in range(5, COUNT, 5):
        many = place_seam(many, FIRST, frame)
    plan = plan_of(many, Asked(lists=(), movies="h264"))
    with pytest.raises(KeyboardInterrupt):
        hand_over(plan, tmp_path, {FIRST: numbers}, progress=tell)
    files = [p.name for p in tmp_path.iterdir()]
    assert len(files) < len(plan.items)
    assert not [n for n in files if n.startswith(".")]
    assert max(told) < COUNT


@pytest.mark.parametrize("by_link", [False, True])
def test_the_film_itself_is_never_written_over(
    by_link: bool, numbers: OpenedFilm, tmp_path: Path
) -> None:
    own = shutil.copy(numbers.media.path, tmp_path / "numbers.mov")
    film, folder = open_source(own), tmp_path
    if by_link:
        folder = tmp_path / "elsewhere"
        folder.mkdir()
        (folder / "numbers.mov").symlink_to(own)
    before = own.read_bytes()
    project = add_source(Project(name="x"), film.media)
    plan = plan_of(project, Asked(lists=(), movies="copy", pattern="{source}"))
    with pytest.raises(OffcutError, match=r"numbers\.mov: is the film itself"):
        hand_over(plan, folder, {FIRST: film}, overwrite=True)
    assert own.read_bytes() == before
    assert any(f.weight is Weight.STOP for f in checked(plan, folder, films={FIRST: film}))


def test_a_file_that_is_there_stays_without_a_word(
    cut: Project, numbers: OpenedFilm, tmp_path: Path
) -> None:
    (tmp_path / "Line 7.edl").write_text("mine")
    plan = plan_of(cut, Asked())
    with pytest.raises(OffcutError, match=r"Line 7\.edl: is there already"):
        hand_over(plan, tmp_path, {FIRST: numbers})
    assert (tmp_path / "Line 7.edl").read_text() == "mine"
    assert [f.code for f in checked(plan, tmp_path, films={FIRST: numbers})] == ["exists"]


@pytest.mark.parametrize(("form", "kind"), [("png", "PNG"), ("tiff", "TIFF"), ("jpeg", "JPEG")])
def test_stills_show_a_clean_frame(
    form: str, kind: str, cut: Project, numbers: OpenedFilm, tmp_path: Path
) -> None:
    for which, wanted in (
        ("first", [0, 24, 52, 71, 100]),
        ("last", [23, 43, 70, 99, 119]),
        ("middle", [12, 34, 61, 85, 110]),
    ):
        plan = plan_of(cut, Asked(lists=(), stills=which, still_format=form))
        report = hand_over(plan, tmp_path / which, {FIRST: numbers})
        read = []
        for name, _ in report.written:
            with Image.open(tmp_path / which / name) as image:
                assert image.format == kind
                read.append(number_in(np.asarray(image.convert("RGB"))))
        assert read == wanted


def test_the_sharpest_still_is_the_sharpest(films: Path, tmp_path: Path) -> None:
    rng = np.random.default_rng(2)
    sharp = rng.integers(0, 255, (96, 160, 3)).astype(np.uint8)
    pictures = [sharp if n == 11 else cv2.GaussianBlur(sharp, (9, 9), 3) for n in range(12)]
    film = open_source(encode(films / "sharp.mkv", pictures, "ffv1"))
    project = add_source(Project(name="x"), film.media)
    plan = plan_of(project, Asked(lists=(), stills="sharpest"))
    hand_over(plan, tmp_path, {FIRST: film})
    with Image.open(tmp_path / plan.outputs[0].name) as image:
        grey = cv2.Laplacian(np.asarray(image.convert("L")).astype(np.float32), cv2.CV_32F)
    assert (
        grey.var()
        > 5
        * cv2.Laplacian(
            cv2.cvtColor(pictures[0], cv2.COLOR_RGB2GRAY).astype(np.float32), cv2.CV_32F
        ).var()
    )


def test_a_deep_film_gives_stills_of_16_bits(films: Path, tmp_path: Path) -> None:
    path = encode(
        films / "deep.mov", (picture_of(n) for n in range(5)), "prores_ks", pixels="yuv422p10le"
    )
    film = open_source(path)
    plan = plan_of(add_source(Project(name="x"), film.media), Asked(lists=(), stills="first"))
    hand_over(plan, tmp_path, {FIRST: film})
    read = cv2.imread(str(tmp_path / plan.outputs[0].name), cv2.IMREAD_UNCHANGED)
    assert read is not None
    assert read.dtype == np.uint16


@pytest.mark.parametrize(("paper", "size"), [("A4", (595, 842)), ("Letter", (612, 792))])
def test_a_contact_sheet_is_made_to_print(
    paper: str, size: tuple[int, int], cut: Project, numbers: OpenedFilm, tmp_path: Path
) -> None:
    project = note_shot(
        cut, FIRST, 30, "=SUM(A1) and a long note about the bell that rings at the quay"
    )
    plan = plan_of(project, Asked(lists=(), sheets=("pdf", "png"), paper=paper))
    report = hand_over(plan, tmp_path, {FIRST: numbers})
    assert [n for n, _ in report.written] == ["Line 7.pdf", "Line 7.png"]
    data = (tmp_path / "Line 7.pdf").read_bytes()
    assert data.startswith(b"%PDF-")
    box = data.split(b"/MediaBox [")[1].split(b"]")[0].split()
    assert (round(float(box[2])), round(float(box[3]))) == size
    with Image.open(tmp_path / "Line 7.png") as image:
        assert image.size == (round(size[0] / 72 * 150), round(size[1] / 72 * 150)) or (
            abs(image.size[0] - size[0] / 72 * 150) < 2
        )
    (page,) = pages_of(plan)
    texts = [line.text for line in page.lines]
    assert "The quay" in texts
    assert "01:00:00:24" in texts
    assert len(page.boxes) == 5
    wide, high = (210, 297) if paper == "A4" else (215.9, 279.4)
    assert all(b.x > 0 and b.x + b.wide < wide and b.y + b.high < high for b in page.boxes)
    assert all(0 < line.y < high for line in page.lines)


@pytest.mark.parametrize(("which", "place"), [("first", 0), ("last", -1)])
def test_a_contact_sheet_shows_the_frame_that_is_asked_for(
    which: str, place: int, cut: Project, numbers: OpenedFilm, tmp_path: Path
) -> None:
    asked = Asked(lists=(), sheets=("png",), sheet_still=which)
    drawn = []
    for name, one in (("asked", asked), ("middle", Asked(lists=(), sheets=("png",)))):
        plan = plan_of(cut, one)
        hand_over(plan, tmp_path / name, {FIRST: numbers})
        (page,) = pages_of(plan)
        with Image.open(tmp_path / name / "Line 7.png") as image:
            dots = image.size[0] / 210
            box = page.boxes[0]
            area = [box.x, box.y, box.x + box.wide, box.y + box.high]
            drawn.append(np.asarray(image.crop([round(v * dots) for v in area]).convert("L")))
    with open_reader(numbers, Purpose.HAND_OVER) as reader:
        shot = shots_of(cut.source(FIRST))[0]
        frame = range(shot.start, shot.end)[place]
        seen = rgb_of(reader.frame(frame), drawn[0].shape[1], drawn[0].shape[0]).mean(2)
    off = [float(np.abs(seen - d).mean()) for d in drawn]
    assert off[0] < off[1]


# lists


def rich() -> Project:
    project = name_shot(cut_film(Fraction(25), False, start=1000), FIRST, 0, "=HYPERLINK(1)")
    project = note_shot(project, FIRST, 200, "-1 <b>&\nnote")
    project = add_marker(project, FIRST, 150, 160, "bell", "twice")
    shot_words = replace(
        project.sources[0].first, original=Original("A 12", 5000, 0, "quay", False)
    )
    return with_card(project, FIRST, None, shot_words)


def opener(project: Project, frame: int) -> int:
    """The id of the seam at a frame of the first film."""
    return next(s.id for s in project.sources[0].seams if s.frame == frame)


def test_chosen_shots_go_in_their_running_order(tmp_path: Path) -> None:
    project = rich()
    asked = Asked(which="chosen", chosen=(opener(project, 2500), 0, 0, 77), lists=("edl", "otio"))
    plan = plan_of(project, asked)
    assert [(i.shot.start, i.name) for i in plan.items] == [
        (2500, "Line 7-001"),
        (0, "Line 7-002"),
    ]
    assert "another order than the film" in words_of(project, asked, tmp_path)
    hand_over(plan, tmp_path, {})
    edl = read_list(tmp_path / "Line 7.edl", Fraction(25))
    assert [e.source_in - 1000 for e in edl.events] == [2500, 0]
    assert [e.record_in for e in edl.events] == [90_000, 91_100]
    second = otio.adapters.read_from_file(str(tmp_path / "Line 7.otio"))
    assert [c.source_range.start_time.value - 1000 for c in second.find_clips()] == [2500, 0]
    # chapters and captions lie in the film, in whatever order the shots go (WebVTT asks for it)
    backwards = plan.events(plan.formats[0])
    for text in (ffmetadata_text(backwards), webvtt_text(backwards)):
        assert text.index("=HYPERLINK") < text.index("Shot 4")
    plan = plan_of(project, replace(asked, film_order=True))
    assert [i.shot.start for i in plan.items] == [0, 2500]


def test_a_running_order_takes_shots_of_several_films_the_same_twice_if_wished(
    tmp_path: Path,
) -> None:
    project = add_source(rich(), Media("/films/Quay.mov", Fraction(25), 900, 1280, 720))
    other = project.sources[1].id
    refs = (ShotRef(other), ShotRef(FIRST, opener(project, 2500)), ShotRef(other))
    project = add_order(project, "Trailer", refs)
    asked = Asked(which="order", order=project.orders[0].id, lists=("edl", "otio", "json", "vtt"))
    plan = plan_of(project, asked)
    assert [(i.source.id, i.shot.start) for i in plan.items] == [
        (other, 0),
        (FIRST, 2500),
        (other, 0),
    ]
    assert len({i.name for i in plan.items}) == 3
    assert not hand_over(plan, tmp_path, {}).problems
    edl = read_list(tmp_path / "Line 7.edl", Fraction(25))
    assert [e.reel for e in edl.events] == ["QUAY", "LINE7", "QUAY"]
    assert [e.record_in for e in edl.events] == [90_000, 90_900, 92_000]
    clips = list(otio.adapters.read_from_file(str(tmp_path / "Line 7.otio")).find_clips())
    assert [Path(c.media_reference.target_url).name for c in clips] == [
        "Quay.mov", "Line%207.mov", "Quay.mov",
    ]  # fmt: skip
    # chapters and captions of several films are timed by where the shots lie after one another
    assert "00:00:36.000 --> 00:01:20.000" in (tmp_path / "Line 7.vtt").read_text()


def test_rolling_keeps_a_place_striking_shows_it_gone_and_reopening_brings_it_back(
    tmp_path: Path,
) -> None:
    project = rich()
    seam = opener(project, 2500)
    project = add_order(project, shots=(ShotRef(FIRST, seam), ShotRef(FIRST)))
    asked = Asked(which="order", order=project.orders[0].id)
    rolled = roll_seam(project, FIRST, seam, 7)
    assert [i.shot.start for i in plan_of(rolled, asked).items] == [2507, 0]
    struck = strike_seams(rolled, FIRST, [seam])
    assert [i.shot.start for i in plan_of(struck, asked).items] == [0]
    assert "1 place shows no shot now" in words_of(struck, asked, tmp_path)
    back = keep_seams(struck, FIRST, [seam])
    assert [i.shot.start for i in plan_of(back, asked).items] == [2507, 0]


def test_films_of_different_rates_make_no_list_together(tmp_path: Path) -> None:
    project = add_source(rich(), Media("/films/Quay.mov", Fraction(24), 900, 1280, 720))
    refs = (ShotRef(project.sources[1].id), ShotRef(FIRST))
    project = add_order(project, shots=refs)
    asked = Asked(which="order", order=project.orders[0].id)
    assert "stop: The shots are of films that run at different rates" in words_of(
        project, asked, tmp_path
    )


def test_a_scene_goes_alone_and_lists_say_which_it_is(tmp_path: Path) -> None:
    project = put_in_scene(
        put_in_scene(rich(), FIRST, 100, " At  the\tquay "), FIRST, 2600, "At the quay"
    )
    (scene,) = scenes_in(project, project.sources[0])
    assert scene.name == "At the quay"
    asked = Asked(
        which="scene",
        scene=scene.id,
        pattern="{scene}-{number}",
        lists=("edl", "otio", "csv", "json"),
    )
    plan = plan_of(project, asked)
    assert [i.name for i in plan.items] == ["At the quay-001", "At the quay-002"]
    assert not hand_over(plan, tmp_path, {}).problems
    for suffix in ("edl", "otio", "csv"):
        read = read_list(tmp_path / f"Line 7.{suffix}", Fraction(25))
        assert [e.scene for e in read.events] == ["At the quay"] * 2, suffix
    document = json.loads((tmp_path / "Line 7.json").read_text())
    assert document["shots"][0]["scene"] == "At the quay"
    assert "No shot goes" in words_of(project, Asked(which="scene", scene=99), tmp_path)


def test_every_form_is_written_and_its_reader_agrees(tmp_path: Path) -> None:
    project = rich()
    codes = tuple(f.code for f in written_formats())
    report = hand_over(plan_of(project, Asked(lists=codes)), tmp_path, {})
    assert not report.problems
    assert len(report.written) == len(codes)
    starts = [0, 100, 1801, 2500, 3600]

    edl = read_list(tmp_path / "Line 7.edl", Fraction(25))
    assert [e.source_in - 1000 for e in edl.events] == starts
    assert [(m.frame, m.name) for m in edl.markers] == [(90_150, "bell")]

    originals = read_list(tmp_path / "Line 7.originals.edl", Fraction(25))
    assert (originals.events[0].reel, originals.events[0].source_in) == ("A_12", 5000)
    assert originals.events[1].source_in == 1100

    timeline = otio.adapters.read_from_file(str(tmp_path / "Line 7.otio"))
    clips = list(timeline.find_clips())
    assert [m.name for m in clips[1].markers] == ["bell"]
    assert clips[1].markers[0].marked_range.start_time.value == 1150

    shelf = otio.adapters.read_from_file(str(tmp_path / "Line 7.subclips.otio"))
    assert [c.markers[-1].marked_range.start_time.value - 1000 for c in shelf] == starts

    rows = list(csv.reader(io.StringIO((tmp_path / "Line 7.csv").read_text("utf-8-sig"))))
    assert tuple(rows[0]) == HEADS
    assert rows[1][1] == "'=HYPERLINK(1)"
    assert rows[2][10].startswith("'-1")
    assert rows[2][14] == "01:00:06:00 bell"
    assert rows[1][11:14] == ["A 12", "00:03:20:00", "00:03:24:00"]
    assert rows[2][11:14] == ["", "", ""]

    book = openpyxl.load_workbook(tmp_path / "Line 7.xlsx")
    sheet = book.active
    assert sheet is not None
    assert sheet["B2"].value == "'=HYPERLINK(1)"
    assert sheet["B2"].data_type == "s"
    assert sheet["G3"].value == 100

    root = ElementTree.parse(tmp_path / "Line 7.chapters.xml").getroot()
    times = [e.text for e in root.iter("ChapterTimeStart")]
    assert times[:2] == ["00:00:00.000000000", "00:00:04.000000000"]

    document = json.loads((tmp_path / "Line 7.json").read_text())
    assert [s["start"] for s in document["shots"]] == starts


def test_chapters_are_read_back_by_ffmpeg(tmp_path: Path) -> None:
    text = ffmetadata_text(list_of(rich()))
    path = tmp_path / "chapters.ffmeta"
    path.write_text(text)
    with av.open(str(path), format="ffmetadata") as read:
        chapters = read.chapters()
    starts = [round(c["start"] * c["time_base"] * 25) for c in chapters]
    assert starts == [0, 100, 1801, 2500, 3600]
    assert chapters[0]["metadata"]["title"] == "=HYPERLINK(1)"


def test_captions_are_read_back_by_ffmpeg(tmp_path: Path) -> None:
    path = tmp_path / "captions.vtt"
    path.write_text(webvtt_text(list_of(rich())))
    with av.open(str(path)) as read:
        packets = [p for p in read.demux() if p.size]
    assert [round(p.pts * p.time_base * 25) for p in packets] == [0, 100, 1801, 2500, 3600]
    assert b"<b>" not in bytes(packets[1])


def test_handles_are_cut_short_by_the_films_ends_and_it_is_said(tmp_path: Path) -> None:
    plan = plan_of(cut_film(Fraction(25), False), Asked(lists=("subclips",), handles=24))
    assert [(i.head, i.tail) for i in plan.items] == [
        (0, 24), (24, 24), (24, 24), (24, 24), (24, 0),
    ]  # fmt: skip
    words = [f.words for f in checked(plan, tmp_path, films={FIRST: stand_in(plan.media)})]
    assert "Handles are cut short by the film’s ends at shot 1, shot 5" in words
    hand_over(plan, tmp_path, {})
    shelf = otio.adapters.read_from_file(str(tmp_path / "Line 7.subclips.otio"))
    ranges = [(c.source_range.start_time.value, c.source_range.duration.value) for c in shelf]
    assert ranges[:2] == [(0, 124), (76, 1749)]
    assert all(c.available_range().duration.value == 5000 for c in shelf)


# names


@given(st.text(max_size=400))
def test_no_name_leaves_the_folder_or_breaks_a_file_system(raw: str) -> None:
    name, why = safe_name(raw)
    assert name
    assert 0 < len(name.encode()) <= LONGEST + 1
    assert not set(name) & set('/\\:*?"<>|\0\n')
    assert name not in (".", "..")
    assert ".." not in name
    assert name == name.strip(" .")
    assert Path("folder", name).parent == Path("folder")
    assert bool(why) or name == " ".join(name.split())


@pytest.mark.parametrize(
    ("raw", "name"),
    [
        ("../../etc/passwd", "-.-etc-passwd"),
        ("CON", "_CON"),
        ("com1.mov", "_com1.mov"),
        ("a/b:c", "a-b-c"),
        ("  . ", "shot"),
    ],
)
def test_unsafe_names_are_mended(raw: str, name: str) -> None:
    assert safe_name(raw)[0] == name


def test_names_come_from_the_pattern_and_doubles_get_a_number() -> None:
    project = cut_film(Fraction(25), False)
    asked = Asked(pattern="{source}_{number}_{in}", first=10, step=10, padding=4)
    assert [i.name for i in plan_of(project, asked).items][:2] == [
        "Line 7_0010_00-00-00-00",
        "Line 7_0020_00-00-04-00",
    ]
    same = plan_of(project, Asked(pattern="{project}"))
    assert [i.name for i in same.items] == [
        "Line 7", "Line 7-2", "Line 7-3", "Line 7-4", "Line 7-5",
    ]  # fmt: skip
    assert same.mended == ("names that would be the same got a number",)
    assert "no field {what}" in plan_of(project, Asked(pattern="{what}")).problem


# the check


def stand_in(media: Media) -> OpenedFilm:
    """An even film of those facts, without a file."""
    times = np.arange(media.frames, dtype=np.int64)
    return OpenedFilm(media, FrameIndex(times, times[:1], 1 / media.rate))


def words_of(project: Project, asked: Asked, folder: Path | None, film: bool = True) -> str:
    return " / ".join(
        f"{f.weight}: {f.words}"
        for f in checked(
            plan_of(project, asked),
            folder,
            films={FIRST: stand_in(project.sources[0].media)} if film else {},
        )
    )


def test_the_check_says_what_would_make_somebody_call_back(tmp_path: Path) -> None:
    project = cut_film(Fraction(25), False)
    project = replace(project, sources=(replace(project.sources[0], searched=True),))
    assert words_of(project, Asked(), tmp_path) == ""
    assert "stop: Choose a folder" in words_of(project, Asked(), None)
    assert "passes 24 hours" in words_of(project, Asked(record_start="23:59:00:00"), tmp_path)
    assert "stop: Where the record" in words_of(project, Asked(record_start="1:61:00:00"), tmp_path)
    assert "look: Line 7.mov is missing" in words_of(project, Asked(), tmp_path, False)
    assert "stop: Line 7.mov is missing" in words_of(
        project, Asked(movies="prores"), tmp_path, False
    )
    assert "1 shot under 4.4 s: 1" in words_of(project, Asked(shortest=110), tmp_path)
    assert "stop: No shot goes" in words_of(project, Asked(which="chosen"), tmp_path)
    assert "stop: Nothing is asked for" in words_of(project, Asked(lists=()), tmp_path)
    aside = set_shot_aside(project, FIRST, 150)
    said = words_of(aside, Asked(), tmp_path)
    assert "said: 1 gap where shots stay out" in said
    assert "said: 1 offcut stays out" in said
    found = [Seam(0, 4000, 4000, 4000, score=60, certainty=Certainty.DOUBTFUL)]
    doubtful = take_found(project, FIRST, found, 0, 5000)
    plan = plan_of(doubtful, Asked())
    (finding,) = checked(plan, tmp_path, films={FIRST: stand_in(plan.media)})
    assert (finding.weight, finding.frame) == (Weight.LOOK, 4000)
    large = replace(project.sources[0].media, width=20_000, height=20_000)
    huge = replace(project, sources=(replace(project.sources[0], media=large, end=5000),))
    assert "are free in" in words_of(huge, Asked(movies="prores"), tmp_path)


def test_sizes_are_said_as_people_say_them() -> None:
    assert [size_words(n) for n in (0, 999, 1500, 26_000_000, 5 * 10**12)] == [
        "0 bytes", "999 bytes", "1.5 kB", "26 MB", "5000 GB",
    ]  # fmt: skip


def test_a_hand_over_is_kept_with_the_project(tmp_path: Path) -> None:
    project = cut_film(Fraction(25), False)
    plan = plan_of(project, Asked(lists=("edl", "vtt")))
    report = hand_over(plan, tmp_path, {})
    kept = with_handover(project, report.handover(plan)).handovers[-1]
    assert kept.files == ("Line 7.edl", "Line 7.vtt")
    assert kept.asked == plan.asked


# shared out between workers


@given(st.lists(st.integers(1, 90), max_size=40), st.integers(1, 6), st.data())
def test_every_shot_is_written_once_however_fast_the_workers_are(
    lengths: list[int], workers: int, data: st.DataObject
) -> None:
    items, at, source = [], 0, cut_film(Fraction(25), False).sources[0]
    for n, length in enumerate(lengths):
        shot = Shot(n + 1, at, at + length, Card(), None)
        items.append(Item(source, shot, n + 1, f"{n}", at, at + length, 0, 0, 0))
        at += length
    shares = Shares(items, workers)
    given: list[Item] = []
    idle: set[int] = set()
    while len(idle) < workers:
        worker = data.draw(st.sampled_from(sorted(set(range(workers)) - idle)))
        item = shares.next(worker)
        if item is None:
            idle.add(worker)
        else:
            given.append(item)
    assert sorted(i.start for i in given) == [i.start for i in items]


def test_a_trailing_reader_gives_the_same_frames(numbers: OpenedFilm) -> None:
    with MovieReader(numbers.media.path, numbers.index) as inner:
        reader = TrailingReader(inner, 24)
        wanted = [*range(10, 50), *range(30, 60), 5, 6, 59]
        read = [number_in(rgb_of(reader.frame(n), 320, 192)) for n in wanted]
    assert read == wanted
