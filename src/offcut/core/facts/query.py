"""What a person types to find shots: words, lengths, kinds of join, scenes, what was set aside.

bridge night          both words, in any of name, note, scene, reel, film, and what it shows
"night shot"          these words in a row
-rain                 without the word
> 3 s   < 12 f        longer than three seconds, shorter than twelve frames
scene:depot           in a scene of that name; so film: name: note: reel:
shows:pan             what was found in the shot; also "pan left", night, talking, nobody, shaky
dissolve   whip       joined to the shot before so, or said so in words
aside  doubtful  sliver  unnamed  noted  unsorted
"""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass
from fractions import Fraction
from typing import NamedTuple

from offcut.core.model.seam import Kind

FIELDS = ("name", "note", "scene", "reel", "film", "shows")
KINDS = tuple(kind.value for kind in Kind)
FLAGS = {
    "aside": "set aside",
    "doubtful": "opened by a doubtful seam not judged yet",
    "sliver": "suspiciously short",
    "unnamed": "without a name",
    "noted": "with a note",
    "unsorted": "in no scene",
}
_UNITS = {
    "s": "s", "sec": "s", "second": "s", "seconds": "s",
    "f": "f", "fr": "f", "frame": "f", "frames": "f",
    "m": "m", "min": "m", "minute": "m", "minutes": "m",
}  # fmt: skip
_TOKEN = re.compile(
    r"(?P<sign>[<>]=?|=)\s*(?P<count>\d+(?:[.,]\d+)?)\s*(?P<unit>[a-z]*)"
    r'|(?P<minus>-?)(?:(?P<field>[a-z]+):)?(?:"(?P<row>[^"]*)"?|(?P<word>[^\s"]+))',
    re.IGNORECASE,
)


class Bound(NamedTuple):
    """A bound of length: ``sign`` one of < <= > >= =, and how much, in frames or in seconds."""

    sign: str
    much: Fraction
    frames: bool

    def holds(self, frames: int, rate: Fraction) -> bool:
        """Tell whether a shot of so many frames is within it."""
        much = self.much
        length = frames * much.denominator * (1 if self.frames else rate.denominator)
        bound = much.numerator * (1 if self.frames else rate.numerator)
        if length == bound:
            return "=" in self.sign
        return self.sign[0] != "=" and (length > bound) == (self.sign[0] == ">")


class Term(NamedTuple):
    """A word, or words in a row: folded, in which field ("" for any), and whether it must not be.

    ``flag`` is the kind or flag that it names as well, empty for none.
    """

    text: str
    field: str = ""
    without: bool = False
    flag: str = ""


@dataclass(frozen=True, slots=True)
class Query:
    """What is looked for; ``problem`` says what of it makes no sense."""

    terms: tuple[Term, ...] = ()
    bounds: tuple[Bound, ...] = ()
    problem: str = ""

    def __bool__(self) -> bool:
        return bool(self.terms or self.bounds)


class Findable(NamedTuple):
    """What can be found of a shot; ``words`` are folded, by `FIELDS`."""

    words: tuple[str, str, str, str, str, str]
    frames: int
    rate: Fraction
    kind: str
    flags: frozenset[str]


def folded(text: str) -> str:
    """Return a text as it is compared: no capitals, no accents, one space between words."""
    if text.isascii():
        return " ".join(text.lower().split())
    parts = unicodedata.normalize("NFKD", text.casefold())
    return " ".join("".join(c for c in parts if not unicodedata.combining(c)).split())


MOST_WORDS = 100
"""Of more words than anybody types the first are looked for."""
_MOST_TYPED = 10_000
_MOST = 10**9
"""Lengths are no longer than so much, whatever their unit."""


def query_of(text: str) -> Query:
    """Read what was typed; what makes no sense is told in ``problem`` and left out."""
    terms: list[Term] = []
    bounds: list[Bound] = []
    problem = ""
    text = "".join(c if c.isprintable() else " " for c in text[:_MOST_TYPED])
    for found in _TOKEN.finditer(text):
        if len(terms) + len(bounds) == MOST_WORDS:
            problem = f"only the first {MOST_WORDS} words are looked for"
            break
        if found["sign"]:
            unit = _UNITS.get(found["unit"].lower(), "") if found["unit"] else "s"
            if not unit:
                problem = f"“{found['unit']}” is no length: s for seconds, f for frames"
                continue
            count = _count(found["count"]) * (60 if unit == "m" else 1)
            bounds.append(Bound(found["sign"], count, unit == "f"))
            continue
        field, word = (found["field"] or "").lower(), found["row"]
        plain = word is None
        word = found["word"] if plain else word
        if field and field not in FIELDS:
            field, word = "", f"{found['field']}:{word}"
        text_ = folded(word)
        if text_:
            flag = text_ if plain and not field and (text_ in KINDS or text_ in FLAGS) else ""
            terms.append(Term(text_, field, bool(found["minus"]), flag))
        elif field and not plain:
            terms.append(Term("", field))
    return Query(tuple(terms), tuple(bounds), problem)


def _count(text: str) -> Fraction:
    """Return a number that was typed; one larger than any film is long is as good as another."""
    whole, _, part = text.replace(",", ".").partition(".")
    whole = whole.lstrip("0") or "0"
    if len(whole) > len(str(_MOST)):
        return Fraction(_MOST)
    return min(Fraction(f"{whole}.{part[:6] or 0}"), Fraction(_MOST))


def is_found(query: Query, shot: Findable) -> bool:
    """Tell whether a shot is what is looked for."""
    for term in query.terms:
        if _says(term, shot) == term.without:
            return False
    return all(b.holds(shot.frames, shot.rate) for b in query.bounds)


def _says(term: Term, shot: Findable) -> bool:
    if term.field:
        held = shot.words[FIELDS.index(term.field)]
        return term.text in held if term.text else not held
    if term.flag and (term.flag == shot.kind or term.flag in shot.flags):
        return True
    return any(term.text in words for words in shot.words)
