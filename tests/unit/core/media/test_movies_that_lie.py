"""Media that lies or breaks: what can be read is used, and one sentence says what is wrong."""

from __future__ import annotations

import shutil
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import av
import numpy as np
import pytest

from films import encode, number_in, picture_of, scene
from offcut.core.errands.bringing_in import bring_in
from offcut.core.errands.seams import find_seams
from offcut.core.errors import MediaError
from offcut.core.measure import film_pass
from offcut.core.media.arrivals import arrived
from offcut.core.media.movie import MovieReader
from offcut.core.media.pictures import rgb_of
from offcut.core.media.probe import open_source
from offcut.core.media.reader import Reader
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.model.project import Project
from offcut.core.model.seam import Certainty
from offcut.core.model.verbs.sources import name_project
from offcut.core.store.caches import empty_caches
from offcut.core.store.project_file import read_project, save_project


def numbers(path: Path, frames: list[int]) -> list[int]:
    film = open_source(path)
    with MovieReader(path, film.index) as reader:
        return [number_in(rgb_of(reader.frame(n), 160, 96)) for n in frames]


def note_of(path: Path) -> str:
    return " / ".join(open_source(path).notes)


@pytest.fixture(scope="module")
def whole(films: Path) -> Path:
    return encode(films / "numbers.mkv", (picture_of(n) for n in range(60)))


def test_a_picture_size_that_changes_on_the_way_is_read_and_told(films: Path) -> None:
    first = encode(films / "small.ts", (picture_of(n) for n in range(40)))
    pictures = (picture_of(n, 320, 192) for n in range(40, 80))
    second = encode(films / "large.ts", pictures, times=lambda n: n + 40)
    path = films / "two-sizes.ts"
    path.write_bytes(first.read_bytes() + second.read_bytes())
    assert numbers(path, [0, 39, 40, 79]) == [0, 39, 40, 79]
    assert "two-sizes.ts changes its picture size on the way: 160x96, then 320x192" in note_of(path)
    assert not find_seams(open_source(path)).damaged


def test_a_rate_that_lies_is_not_believed(films: Path) -> None:
    path = encode(films / "lying.mkv", (picture_of(n) for n in range(60)), times=lambda n: 2 * n)
    film = open_source(path)
    assert film.media.rate == 12.5
    assert "lying.mkv says 25 frames per second, its pictures come at 12.5" in film.notes


def test_a_length_that_lies_is_told(whole: Path, tmp_path: Path) -> None:
    half = tmp_path / "half.mkv"
    half.write_bytes(whole.read_bytes()[: whole.stat().st_size // 2])
    film = open_source(half)
    assert 5 < film.media.frames < 40
    assert any("half.mkv says it lasts 2.4 s, its pictures last" in n for n in film.notes)
    assert numbers(half, [3]) == [3]


def test_a_hole_in_the_film_is_told_and_its_rate_believed(films: Path) -> None:
    path = encode(
        films / "hole.mkv",
        (picture_of(n) for n in range(60)),
        options={"x264-params": "keyint=10:bframes=0"},
        times=lambda n: n if n < 30 else n + 25,
    )
    film = open_source(path)
    assert film.media.rate == 25
    assert film.holes == (30,)
    assert "hole.mkv: pictures are missing before frame 30" in film.notes
    assert numbers(path, [29, 30]) == [29, 30]


def test_encrypted_pictures_get_one_sentence(whole: Path, tmp_path: Path) -> None:
    path = tmp_path / "locked.mp4"
    locked = {
        "encryption_scheme": "cenc-aes-ctr",
        "encryption_key": "76a6c65c5ea762046bd749a2e632ccbb",
        "encryption_kid": "a7e61c373e219033c21091fa607bf3b8",
        "fflags": "+bitexact",  # the same noise every time
    }
    with av.open(str(whole)) as source, av.open(str(path), "w", options=locked) as out:
        stream = out.add_stream_from_template(source.streams.video[0])
        for packet in source.demux(video=0):
            if packet.size:
                packet.stream = stream
                out.mux(packet)
    with pytest.raises(MediaError, match=r"locked\.mp4: its pictures cannot be decoded; .*encrypt"):
        open_source(path)


def test_an_unknown_codec_gets_one_sentence(films: Path, tmp_path: Path) -> None:
    whole = encode(films / "known.mp4", (picture_of(n) for n in range(10)))
    path = tmp_path / "unknown.mp4"
    path.write_bytes(whole.read_bytes().replace(b"avc1", b"zzz1"))
    with pytest.raises(MediaError, match=r"unknown\.mp4: its video codec is not supported"):
        open_source(path)


def test_a_film_without_pictures_gets_one_sentence(tmp_path: Path) -> None:
    path = tmp_path / "none.mkv"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=25)
        stream.width = stream.height = 64
        stream.pix_fmt = "yuv420p"
        out.start_encoding()
    with pytest.raises(MediaError, match=r"none\.mkv"):
        open_source(path)


def test_a_film_still_being_written_is_told(films: Path, tmp_path: Path) -> None:
    whole = encode(films / "long.ts", scene(4, 150)).read_bytes()
    path = tmp_path / "growing.ts"
    path.write_bytes(whole[: len(whole) // 3 // 188 * 188])
    done, begun = threading.Event(), threading.Event()

    def write() -> None:
        with path.open("ab") as out:
            at = path.stat().st_size
            while not done.is_set():
                out.write(whole[at : at + 188] or bytes([0x47, 0x1F, 0xFF, 0x10]) + bytes(184))
                out.flush()
                at += 188
                begun.set()
                done.wait(0.001)

    writer = threading.Thread(target=write)
    writer.start()
    begun.wait()
    film = open_source(path)
    done.set()
    writer.join()
    assert any("growing.ts is still being written" in note for note in film.notes)
    assert film.media.frames >= 20


def test_an_mp4_that_is_not_finished_gets_one_sentence(films: Path, tmp_path: Path) -> None:
    whole = encode(films / "finished.mp4", scene(4, 30)).read_bytes()
    path = tmp_path / "unfinished.mp4"
    path.write_bytes(whole[: whole.rindex(b"moov") - 4])
    with pytest.raises(MediaError, match=r"unfinished\.mp4: .*not finished yet"):
        open_source(path)


def test_a_film_that_disappears_while_it_is_read(films: Path, tmp_path: Path) -> None:
    options = {"x264-params": "keyint=20:min-keyint=20"}
    whole = encode(films / "gone.mp4", scene(4, 400), options=options)
    path = Path(shutil.copy(whole, tmp_path / "gone.mp4"))
    film = open_source(path)
    with MovieReader(path, film.index) as reader:
        reader.frame(10)
        path.unlink()
        reader.frame(200)  # what is open stays readable
        reader.close()
        with pytest.raises(MediaError, match=r"gone\.mp4: there is no such file"):
            reader.frame(10)
    empty_caches()
    with pytest.raises(MediaError, match=r"gone\.mp4: there is no such file"):
        find_seams(film)


def test_a_film_that_disappears_during_the_search_keeps_what_was_measured(
    films: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    options = {"x264-params": "keyint=20:min-keyint=20", "preset": "ultrafast"}
    pictures = list(scene(4, 400, 64, 48)) * 10
    whole = encode(films / "going.mp4", pictures, options=options)
    path = Path(shutil.copy(whole, tmp_path / "going.mp4"))
    film = open_source(path)

    def told(done: int, _whole: int) -> None:
        if done > 1000:
            path.unlink(missing_ok=True)

    @contextmanager
    def anew(_readers: object, threads: int, *, whole: bool) -> Iterator[Reader]:
        """Open the film for each part, as where what was open is lost with its drive."""
        assert not whole
        with open_reader(film, Purpose.MEASURE, threads=threads) as reader:
            yield reader

    with monkeypatch.context() as patched:
        patched.setattr(film_pass._Readers, "one", anew)
        with pytest.raises(MediaError, match=r"going\.mp4: there is no such file"):
            find_seams(film, progress=told)
    shutil.copy(whole, path)
    first: list[int] = []
    finding = find_seams(film, progress=lambda done, _whole: first.append(done))
    assert first[0] > 500  # a piece of what was measured before came from the disk
    assert finding.complete


def hurt(whole: Path, pictures: slice, folder: Path) -> Path:
    """Copy a film with noise in place of some pictures."""
    with av.open(str(whole)) as film:
        places = [(p.pos, p.size) for p in film.demux(video=0) if p.size]
    data = bytearray(whole.read_bytes())
    for at, size in places[pictures]:
        data[at + 4 : at + size] = np.random.default_rng(1).bytes(size - 4)
    path = folder / "hurt.mp4"
    path.write_bytes(bytes(data))
    return path


def test_damaged_pictures_are_stepped_over_and_their_place_told(
    films: Path, tmp_path: Path
) -> None:
    options = {"x264-params": "keyint=1"}
    whole = encode(films / "intra.mp4", (picture_of(n) for n in range(60)), options=options)
    path = hurt(whole, slice(20, 25), tmp_path)
    film = open_source(path)
    assert film.media.frames == 60
    finding = find_seams(film)
    assert finding.damaged
    assert finding.damaged[0][0] >= 20
    assert finding.damaged[-1][1] <= 25
    assert numbers(path, [19, 25, 59]) == [19, 25, 59]


def test_a_seam_beside_damaged_pictures_is_never_sure(films: Path, tmp_path: Path) -> None:
    pictures = (p for seed in range(2) for p in scene(seed, 60))
    whole = encode(films / "two-intra.mp4", pictures, options={"x264-params": "keyint=1"})
    (sure,) = (s for s in find_seams(open_source(whole)).seams if s.score >= 50)
    assert (sure.frame, sure.certainty) == (60, Certainty.SURE)
    path = hurt(whole, slice(62, 66), tmp_path)
    seam = next(s for s in find_seams(open_source(path)).seams if s.frame == 60)
    assert seam.certainty is Certainty.DOUBTFUL
    assert "damaged picture" in seam.reasons[0].text
    assert seam.score > 50  # it still counts


def test_tags_that_are_no_text_end_no_film_and_can_be_saved(films: Path, tmp_path: Path) -> None:
    """Titles of old cameras and of other alphabets come as bytes that are no UTF-8."""
    tags = {"title": "Quay XXXX", "artist": "YYYY"}
    plain = encode(films / "tagged.mkv", scene(3, 12), tags=tags)
    film = tmp_path / "tagged.mkv"
    told = plain.read_bytes().replace(b"XXXX", b"\xe9\xff\xa9!").replace(b"YYYY", b"\xed\xa0\x80?")
    film.write_bytes(told)
    assert arrived([tmp_path]).paths == (film,)
    opened = open_source(film)
    assert opened.title.startswith("Quay \ufffd")
    assert opened.title.endswith("!")
    assert opened.media.frames == 12
    project = name_project(bring_in(Project(), opened), opened.title)
    save_project(project, tmp_path / "tagged.offcut")
    assert read_project(tmp_path / "tagged.offcut").project.name == opened.title
