"""The limits of grades: a person's own, in force for window and command line alike."""

from __future__ import annotations

import pytest

from offcut.core.errors import OffcutError
from offcut.core.facts.grades import (
    USUAL,
    Grades,
    checked,
    grades_file,
    grades_in_force,
    keep_grades,
)


def test_the_usual_ones_are_those_of_the_guide_and_leave_no_file() -> None:
    assert grades_in_force() == USUAL
    assert USUAL.key == ""
    assert USUAL.steadiness == (0.001, 0.0035, pytest.approx(0.011))
    keep_grades(USUAL)
    assert not grades_file().exists()


def test_others_are_kept_and_taken_back() -> None:
    keep_grades(Grades(dark=-3.0, soft=0.2))
    assert grades_in_force() == Grades(dark=-3.0, soft=0.2)
    assert grades_in_force().key not in ("", Grades(dark=-3.5).key)
    keep_grades(USUAL)
    assert grades_in_force() == USUAL


@pytest.mark.parametrize("text", ["", "[1]", '{"dark": "low"}', '{"dark": 3}', '{"slight": NaN}'])
def test_a_harmed_file_is_as_none(text: str) -> None:
    grades_file().parent.mkdir(parents=True, exist_ok=True)
    grades_file().write_text(text)
    assert grades_in_force() == USUAL


@pytest.mark.parametrize(
    "told",
    [
        {"slight": 2.0},
        {"low": -5.0},
        {"burnt": 0.0},
        {"soft": -1.0},
        {"smell": 1.0},
        {"dark": True},
    ],
)
def test_what_makes_no_sense_is_refused_in_a_sentence(told: dict[str, object]) -> None:
    with pytest.raises(OffcutError):
        checked(told)
