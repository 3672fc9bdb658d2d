"""What is typed to find shots."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from offcut.core.facts.query import Findable, folded, is_found, query_of

RATE = Fraction(25)
BRIDGE = Findable(
    ("night shot of the bridge", "rain, très sombre".replace("è", "e"), "harbour", "a012", "q.mov"),
    75, RATE, "dissolve", frozenset({"doubtful", "noted"}),
)  # fmt: skip


@pytest.mark.parametrize(
    ("typed", "is_it"),
    [
        ("", True),
        ("bridge night", True),
        ("BRIDGE NIGHT", True),
        ("très", True),
        ("bridge day", False),
        ('"night shot"', True),
        ('"shot night"', False),
        ("bridge -rain", False),
        ("bridge -snow", True),
        ("> 2 s", True),
        (">3s", False),
        (">= 3 s", True),
        ("= 75 f", True),
        ("< 80 f", True),
        ("< 2.9 s", False),
        ("< 1 min", True),
        ("scene:harbour", True),
        ("scene:bridge", False),
        ("name:bridge", True),
        ("reel:A01", True),
        ("film:q.mov", True),
        ('note:""', False),
        ("dissolve", True),
        ("wipe", False),
        ("doubtful", True),
        ("-doubtful", False),
        ("aside", False),
        ("unnamed", False),
        ("noted", True),
        ("12:30", False),
    ],
)
def test_what_is_typed_finds(typed: str, is_it: bool) -> None:
    assert is_found(query_of(typed), BRIDGE) is is_it


def test_a_word_that_is_a_kind_is_found_in_names_too() -> None:
    named = Findable(("The last dissolve", "", "", "", ""), 10, RATE, "cut", frozenset())
    assert is_found(query_of("dissolve"), named)
    assert not is_found(query_of('"dissolves"'), named)


def test_a_length_that_is_none_is_told_and_left_out() -> None:
    query = query_of("> 3 parsecs bridge")
    assert "parsecs" in query.problem
    assert is_found(query, BRIDGE)


@given(st.text(max_size=40))
def test_anything_can_be_typed(text: str) -> None:
    is_found(query_of(text), BRIDGE)
    assert folded(folded(text)) == folded(text)
