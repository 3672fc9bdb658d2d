"""Whatever is typed into the field that finds shots, it answers."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from offcut.core.facts.query import MOST_WORDS, query_of
from offcut.core.store.library import Library
from offcut.core.store.project_file import save_project
from projects import film_of


@pytest.fixture(scope="module")
def library(tmp_path_factory: pytest.TempPathFactory) -> Library:
    folder = tmp_path_factory.mktemp("library")
    made = Library(folder / "library.db")
    save_project(film_of("Quay"), folder / "Quay.offcut")
    made.take_file(folder / "Quay.offcut")
    return made


@pytest.mark.parametrize(
    ("text", "count"),
    [
        ("> 99999999999999999999 s", 0),
        ("< 99999999999999999999 s", 5),
        (f"> {'9' * 5000} f", 0),
        (f"< {'0' * 5000}1 f", 0),
        (f"= 1.{'3' * 5000} s", 0),
        ("bridge\0", 1),
        ("bridge\ud800 \udfff", 1),
        (" ".join(f"-w{n}" for n in range(3000)), 5),
        ('"' * 999, 5),
        ("name:" * 500, 0),
        ("(" * 3000, 0),
    ],
)
def test_odd_words_are_looked_for(library: Library, text: str, count: int) -> None:
    assert len(library.find(query_of(text)).shots) == count


def test_of_very_many_words_the_first_are_looked_for_and_it_is_said() -> None:
    query = query_of("word " * 500)
    assert len(query.terms) == MOST_WORDS
    assert str(MOST_WORDS) in query.problem


@given(text=st.text(max_size=200) | st.from_regex(r"([<>=]+ ?\d{1,30}[.,]?\d* ?[sfm]? ?-?\w*:?)+"))
@settings(max_examples=100, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_anything_typed_is_answered(library: Library, text: str) -> None:
    query = query_of(text)
    if query:
        library.find(query)


def test_the_command_answers_too(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    from offcut.cli.main import main

    for text in ("> 99999999999999999999 s", "a\0b", "\ud800", f"> {'9' * 5000} f"):
        assert main(["find", text]) in (0, 1, 2)
    assert "Traceback" not in capsys.readouterr().err
