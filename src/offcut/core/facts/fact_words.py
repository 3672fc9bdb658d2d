"""Facts in words, as they are shown to people and as people look for them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

from offcut.core.facts.fact import USUAL, Fact, FactCertainty, Sort
from offcut.core.words import many

_WAYS = {"pan": ("left", "right"), "tilt": ("up", "down"), "zoom": ("in", "out"),
         "roll": ("left", "right")}  # fmt: skip
_MOVES = {
    "still": "stands still",
    "travel": "travels",
    "whip": "a whip",
    **{f"{move} {way}": f"{move}s {way}" for move, ways in _WAYS.items() for way in ways},
}
_STEADY = {
    "steady": "steady",
    "slight": "shaky, slightly",
    "medium": "shaky",
    "strong": "shaky, strongly",
}
_LIGHT = {"dark": "dark", "low": "low light", "normal": "usual light", "bright": "bright"}
_PARTS = {"bars": "colour bars", "tone": "test tone", "leader": "countdown", "slate": "slate or "
          "title card", "still": "a still held"}  # fmt: skip
_HEADS = {
    Sort.CAMERA: "Camera",
    Sort.STEADINESS: "Steadiness",
    Sort.LIGHT: "Light",
    Sort.COLOUR: "Colour",
    Sort.FOCUS: "Sharp",
    Sort.FACES: "Faces",
    Sort.SOUND: "Sound",
    Sort.TEXT: "Text",
    Sort.PART: "Part",
}
SHOWN = tuple(_HEADS)
"""What is told of a shot, in the order it is told in."""


def fact_words(fact: Fact) -> str:
    """Return a fact as a few words: "pans right over 62 frames, 0.4 picture widths a second"."""
    return _sure(fact, _WORDS[fact.sort](fact))


def _sure(fact: Fact, told: str) -> str:
    return told if fact.certainty is FactCertainty.SURE else f"{told} ({fact.certainty.value})"


def value_words(sort: Sort, value: str | float | int) -> str:
    """Return a value of a sort of facts as people name it: "pans right", "too dark", "2 faces"."""
    told = str(value)
    if sort is Sort.FACES:
        if isinstance(value, str):
            return value
        return many(int(value), "face") if value else "nobody"
    return _NAMES.get(sort, {}).get(told, told)


_NAMES: dict[Sort, dict[str, str]] = {
    Sort.CAMERA: _MOVES,
    Sort.STEADINESS: _STEADY,
    Sort.LIGHT: _LIGHT,
    Sort.FOCUS: {"sharp": "sharp", "soft": "out of focus"},
    Sort.SOUND: {"perhaps speech": "perhaps speech"},
    Sort.TEXT: {"text": "letters in the picture"},
    Sort.PART: _PARTS,
}


def rows_in_words(facts: Sequence[Fact]) -> tuple[tuple[Sort, str, str], ...]:
    """Return what is in one shot as rows of sort, head and words, in the order of `SHOWN`."""
    rows = []
    for sort, head in _HEADS.items():
        mine = [f for f in facts if f.sort is sort]
        words = _ROWS[sort](mine)
        if words:
            rows.append((sort, head, words))
    return tuple(rows)


def shot_words(facts: Sequence[Fact]) -> str:
    """Return what is in one shot in a line: "pans left, then still; low light; one face, close".

    What is as usual is left out: a steady camera, usual light, a sharp picture, nobody, no sound.
    """
    told = []
    whole = max((f.end for f in facts), default=0) - min((f.start for f in facts), default=0)
    facts = [f for f in facts if not _is_little(f, whole)]
    for sort in (Sort.PART, Sort.CAMERA, Sort.STEADINESS, Sort.LIGHT, Sort.FOCUS, Sort.FACES,
                 Sort.SOUND, Sort.TEXT):  # fmt: skip
        mine = [f for f in facts if f.sort is sort and (sort, f.value) not in USUAL]
        if sort is Sort.CAMERA and mine:
            mine = [f for f in facts if f.sort is sort]
        words = _SHORT[sort](mine) if mine else ""
        if words:
            told.append(words)
    return "; ".join(told)


def _is_little(fact: Fact, whole: int) -> bool:
    """Tell whether a fact says too little to stand for a shot of so many frames."""
    if fact.sort is Sort.TEXT:
        return fact.certainty is FactCertainty.PERHAPS
    return fact.sort is Sort.PART and 2 * fact.length < whole


def find_words(facts: Sequence[Fact]) -> str:
    """Return the words by which a shot is found: what is in it, and that nobody is or talks."""
    whole = max((f.end for f in facts), default=0) - min((f.start for f in facts), default=0)
    told = [_found_by(f) for f in facts if not _is_little(f, whole)]
    if any(f.sort is Sort.FACES for f in facts) and not any(
        f.sort is Sort.FACES and f.value for f in facts
    ):
        told.append("nobody")
    if any(f.sort is Sort.SOUND for f in facts):
        spoken = any(f.sort is Sort.SOUND and "speech" in str(f.value) for f in facts)
        told.append("talking" if spoken else "silent")
    return " ".join(dict.fromkeys(word for word in told if word))


def columns_of(facts: Sequence[Fact]) -> dict[str, str]:
    """Return what is in one shot in words by sort, each of `SHOWN`, as tables and lists have it."""
    told = {sort.value: words for sort, _, words in rows_in_words(facts)}
    return {sort.value: told.get(sort.value, "") for sort in SHOWN} if facts else {}


def _found_by(fact: Fact) -> str:
    if fact.sort is Sort.FACES:
        if not fact.value:
            return ""
        return f"{value_words(fact.sort, fact.value)} {fact.figures.get('size', '')}"
    told = f"{fact.value} {value_words(fact.sort, fact.value)}"
    if fact.sort is Sort.LIGHT:
        told += f" {fact.figures.get('time', '')}"
        told += " too dark" if fact.value == "dark" else ""
    if fact.sort is Sort.FOCUS and fact.value == "sharp":
        return "sharp"
    return told


# rows


def _then(words: Iterable[str]) -> str:
    """Return words one after another, each once in a row."""
    told: list[str] = []
    for word in words:
        if not told or told[-1] != word:
            told.append(word)
    more = " and so on" if len(told) > _MOST_THEN else ""
    return ", then ".join(told[:_MOST_THEN]) + more


_MOST_THEN = 4


def _camera_row(facts: Sequence[Fact]) -> str:
    moves = [f for f in facts if f.value != "still"]
    if len(moves) == 1:
        words = _camera(moves[0])
        return f"{words}, else still" if len(facts) > 1 else words
    return _camera_short(facts)


def _camera_short(facts: Sequence[Fact]) -> str:
    words = [_MOVES.get(str(f.value), str(f.value)) for f in facts]
    return _then("still" if w == "stands still" and n else w for n, w in enumerate(words))


def _light_row(facts: Sequence[Fact]) -> str:
    told = _then(value_words(f.sort, f.value) for f in facts)
    times = {str(f.figures["time"]) for f in facts if "time" in f.figures}
    return f"{told}, {times.pop()}" if len(times) == 1 and told else told


def _colour_row(facts: Sequence[Fact]) -> str:
    return _then(str(f.value) for f in facts)


def _focus_row(facts: Sequence[Fact]) -> str:
    if not facts:
        return ""
    if len(facts) == 1:
        return "from head to tail" if facts[0].value == "sharp" else "no, out of focus"
    return _then("sharp" if f.value == "sharp" else f"soft over {f.length} fr" for f in facts)


def _faces_row(facts: Sequence[Fact]) -> str:
    if not facts:
        return ""
    seen = [f for f in facts if f.value]
    if not seen:
        return "none"
    most = max(seen, key=lambda f: (f.length, int(f.value)))
    return _sure(most, _faces(most))


def _sound_row(facts: Sequence[Fact]) -> str:
    if not facts:
        return ""
    frames = {w: sum(f.length for f in facts if f.value == w) for w in
              ("speech", "perhaps speech", "silence")}  # fmt: skip
    return ", ".join(f"{word} {many(n, 'frame')}" for word, n in frames.items() if n)


def _sound_short(facts: Sequence[Fact]) -> str:
    values = {str(f.value) for f in facts}
    return next((w for w in ("speech", "perhaps speech", "silence") if w in values), "")


def _text_row(facts: Sequence[Fact]) -> str:
    return _then(_sure(f, _text(f)) for f in facts)


def _part_row(facts: Sequence[Fact]) -> str:
    return _then(value_words(f.sort, f.value) for f in facts) if _unlike_programme(facts) else ""


def _unlike_programme(facts: Sequence[Fact]) -> bool:
    return any(f.value != "programme" for f in facts)


# single facts


def _camera(fact: Fact) -> str:
    told = _MOVES.get(str(fact.value), str(fact.value))
    speed = fact.number("speed")
    if fact.value == "still" or not speed:
        return told
    over = f"{told} over {many(fact.length, 'frame')}"
    if str(fact.value).startswith("zoom"):
        return f"{over}, {speed:.2f} times a second"
    if str(fact.value).startswith("roll"):
        return f"{over}, {speed:.0f}° a second"
    return f"{over}, {speed:.2g} picture widths a second"


def _light(fact: Fact) -> str:
    told = value_words(fact.sort, fact.value)
    if "stops" not in fact.figures:
        return told
    return f"{told}, {fact.number('stops'):+.1f} stops about 18 % grey"


def _faces(fact: Fact) -> str:
    if isinstance(fact.value, str):
        return f"faces {fact.value}"
    if not fact.value:
        return "no face"
    return f"{many(int(fact.value), 'face')}, {fact.figures.get('size', '')}"


def _text(fact: Fact) -> str:
    where = str(fact.figures.get("where", ""))
    return {"head": "at the head", "foot": "at the foot", "middle": "in the middle"}.get(
        where, where
    )


def _plain(fact: Fact) -> str:
    return value_words(fact.sort, fact.value)


_WORDS: dict[Sort, Callable[[Fact], str]] = {
    Sort.CAMERA: _camera,
    Sort.STEADINESS: _plain,
    Sort.LIGHT: _light,
    Sort.FOCUS: _plain,
    Sort.COLOUR: _plain,
    Sort.FACES: _faces,
    Sort.SOUND: _plain,
    Sort.LOUDNESS: lambda f: f"{f.value} LUFS",
    Sort.PART: _plain,
    Sort.TEXT: lambda f: f"letters {_text(f)}",
}
_ROWS: dict[Sort, Callable[[Sequence[Fact]], str]] = {
    Sort.CAMERA: _camera_row,
    Sort.STEADINESS: lambda facts: _then(_plain(f) for f in facts),
    Sort.LIGHT: _light_row,
    Sort.COLOUR: _colour_row,
    Sort.FOCUS: _focus_row,
    Sort.FACES: _faces_row,
    Sort.SOUND: _sound_row,
    Sort.TEXT: _text_row,
    Sort.PART: _part_row,
}
_SHORT: dict[Sort, Callable[[Sequence[Fact]], str]] = {
    **_ROWS,
    Sort.CAMERA: _camera_short,
    Sort.LIGHT: lambda facts: _then(_plain(f) for f in facts),
    Sort.FOCUS: lambda facts: _then(_plain(f) for f in facts),
    Sort.SOUND: _sound_short,
    Sort.TEXT: lambda facts: "letters",
}
