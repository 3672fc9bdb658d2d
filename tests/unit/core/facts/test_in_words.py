"""What is in shots, put in words, listed, found by words, and kept."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest

from offcut.core.facts.fact import Fact, FactCertainty, Sort
from offcut.core.facts.fact_words import columns_of, find_words, rows_in_words, shot_words
from offcut.core.facts.film_facts import by_shot, facts_of, kept_facts
from offcut.core.facts.found import BOTH_SIDES, OVER_A_CUT, found_in
from offcut.core.facts.in_shot import in_shots
from offcut.core.facts.kept_facts import KeptFacts, named
from offcut.core.measure.faces import FACES, Face, keep_faces
from offcut.core.measure.ground import Ground
from offcut.core.measure.kept_signals import KeptSignals
from offcut.core.measure.light import FIGURES as LIGHT_FIGURES
from offcut.core.measure.registry import GROUND, LIGHT
from offcut.core.model.project import Project
from offcut.core.model.source import Media, Source
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.sources import add_source

RATE = Fraction(25)


def fact(sort: Sort, value: str | int, start: int, end: int, **figures: float | str) -> Fact:
    return Fact(sort, value, start, end, FactCertainty.SURE, figures)


def shot() -> tuple[Fact, ...]:
    return (
        fact(Sort.CAMERA, "pan left", 0, 30, speed=0.4),
        fact(Sort.CAMERA, "still", 30, 80),
        fact(Sort.STEADINESS, "steady", 0, 80),
        fact(Sort.LIGHT, "low", 0, 80, stops=-1.5, time="night"),
        fact(Sort.FOCUS, "sharp", 0, 80),
        fact(Sort.FACES, 1, 0, 80, size="close"),
        fact(Sort.SOUND, "speech", 10, 50),
        fact(Sort.PART, "programme", 0, 80),
    )


def test_a_shot_in_a_line_leaves_out_what_is_as_usual() -> None:
    assert shot_words(shot()) == "pans left, then still; low light; 1 face, close; speech"
    assert shot_words(()) == ""
    usual = [f for f in shot() if f.sort in (Sort.STEADINESS, Sort.FOCUS, Sort.PART)]
    assert shot_words(usual) == ""


def test_rows_and_columns_say_more() -> None:
    rows = {head: words for _, head, words in rows_in_words(shot())}
    assert rows["Camera"] == "pans left over 30 frames, 0.4 picture widths a second, else still"
    assert rows["Light"] == "low light, night"
    assert rows["Sharp"] == "from head to tail"
    assert rows["Sound"] == "speech 40 frames"
    assert "Part" not in rows
    columns = columns_of(shot())
    assert columns["faces"] == "1 face, close"
    assert columns["text"] == ""
    assert columns_of(()) == {}


@pytest.mark.parametrize("words", ["pan left", "pans left", "night", "close", "speech", "talking"])
def test_a_shot_is_found_by_what_is_in_it(words: str) -> None:
    assert words in find_words(shot())


def test_nobody_who_is_silent_is_found_as_well() -> None:
    told = find_words((fact(Sort.FACES, 0, 0, 9), fact(Sort.SOUND, "silence", 0, 9)))
    assert "nobody" in told
    assert "silent" in told
    assert "face" not in told


def test_what_was_found_is_listed_with_speech_over_cuts_and_faces_on_both_sides() -> None:
    facts = [
        *shot(),
        fact(Sort.FACES, 1, 80, 120, size="close"),
        fact(Sort.SOUND, "speech", 60, 110),
        fact(Sort.LIGHT, "dark", 80, 120),
    ]
    found = {(f.head, f.words): f for f in found_in(facts, [80], 25.0)}
    assert found["Sound", OVER_A_CUT].facts[0].figures["cut"] == 80
    assert [(f.start, f.end) for f in found["Faces", BOTH_SIDES].facts] == [(68, 92)]
    assert found["Light", "too dark"].frames == 40
    assert found["Camera", "pans left"].frames == 30
    assert found["Faces", "close"].frames == 120
    assert not any(words in ("steady", "usual light", "sharp") for _, words in found)


def cut_source() -> tuple[Project, Source]:
    media = Media("film.mp4", RATE, 100, 320, 180, fingerprint="f" * 32)
    project = add_source(Project(), media)
    project = place_seam(project, project.sources[0].id, 40)
    return project, project.sources[0]


def test_sound_is_cut_at_the_shots_it_lies_in() -> None:
    _, source = cut_source()
    facts = [fact(Sort.SOUND, "speech", 30, 60), fact(Sort.LIGHT, "low", 0, 40)]
    told = by_shot(source, facts)
    assert [(f.start, f.end) for f in told[0, 40] if f.sort is Sort.SOUND] == [(30, 40)]
    assert [(f.start, f.end) for f in told[40, 100] if f.sort is Sort.SOUND] == [(40, 60)]
    inside = in_shots(source, facts)
    assert inside[0, 40].line == "low light; speech"
    again = in_shots(source, facts, inside)
    assert again[0, 40] is inside[0, 40]


def test_facts_are_kept_shot_by_shot_and_told_again_without_signals() -> None:
    project, source = cut_source()
    rows = np.zeros((100, 8), np.float16)
    rows[:, 0] = 5
    store = KeptSignals(source.media)
    store.keep(Ground(), 0, [{"ground": rows}])
    told = facts_of(source, (Sort.PART,), keep=True)
    assert [(f.value, f.start, f.end) for f in told] == [
        ("programme", 0, 40),
        ("programme", 40, 100),
    ]
    for piece in (store.folder / "ground-1").glob("*.npz"):
        piece.unlink()
    assert kept_facts(source) == told
    # a shot that is cut elsewhere is another one
    moved = place_seam(project, source.id, 70).sources[0]
    assert [(f.start, f.end) for f in kept_facts(moved)] == [(0, 40)]


def light_of_a_film(source: Source, sharp: dict[int, float], faces: dict[int, list[Face]]) -> None:
    """Keep signals by which the frames of ``sharp`` are the sharpest of a plain film."""
    light = np.zeros((100, len(LIGHT_FIGURES)), np.float16)
    light[:, LIGHT_FIGURES.index("light")] = 0.2
    light[:, LIGHT_FIGURES.index("detail_2")] = 4
    for frame, detail in sharp.items():
        light[frame, LIGHT_FIGURES.index("detail_2")] = detail
    store = KeptSignals(source.media)
    store.keep(LIGHT, 0, [{"light": light}])
    ground = np.zeros((100, 8), np.float16)
    ground[:, 0] = 3
    store.keep(GROUND, 0, [{"ground": ground}])
    keep_faces(source.media, faces)


def test_the_frame_that_tells_most_of_each_shot_is_kept_with_its_facts() -> None:
    _, source = cut_source()
    face = Face(0.5, 0.4, 0.3, 0.5, 0.9)
    light_of_a_film(source, {7: 9, 70: 5}, {25: [], 85: [face]})
    facts = facts_of(source, keep=True)
    told = in_shots(source, facts)
    assert told[0, 40].still == 7
    assert told[40, 100].still is not None
    assert abs(told[40, 100].still - 85) <= 10  # a face is worth more than a little sharpness
    assert in_shots(source)[0, 40].still == 7


def test_faces_of_another_version_are_told_anew(monkeypatch: pytest.MonkeyPatch) -> None:
    _, source = cut_source()
    light_of_a_film(source, {}, {25: [Face(0.5, 0.4, 0.3, 0.5, 0.9)], 75: []})
    facts_of(source, keep=True)
    kept = KeptFacts(source)
    assert kept.has(named("faces", FACES), (0, 40))
    monkeypatch.setattr(FACES, "version", FACES.version + 1)
    assert not kept.has(named("faces", FACES), (0, 40))
    kept.put(named("faces", FACES), (0, 40), [])
    kept.write()
    monkeypatch.undo()
    assert not KeptFacts(source).has(named("faces", FACES), (0, 40))  # one version is kept


def test_a_harmed_file_of_facts_is_as_none() -> None:
    _, source = cut_source()
    kept = KeptFacts(source)
    kept.put("ground", (0, 40), [fact(Sort.PART, "black", 0, 40)])
    kept.write()
    file = next(KeptSignals(source.media).folder.glob("facts-*.json"))
    file.write_bytes(b"harmed" + file.read_bytes()[3:])
    assert kept_facts(source) == ()
    file.unlink()
    file.mkdir()
    assert kept_facts(source) == ()
