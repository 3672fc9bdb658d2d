"""How every value of a project stands in a document, both ways, by cattrs.

What is read is distrusted: each key has to be there, each value to be of its type. What ranges
they may have is asked once, of the whole, by `offcut.core.model.rules`.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import Field, fields, is_dataclass
from enum import StrEnum
from fractions import Fraction
from typing import Any, TypeVar, get_args, get_origin, get_type_hints

from cattrs import Converter
from cattrs.gen import make_dict_structure_fn, make_dict_unstructure_fn, override

from offcut.core.model.card import NO_CARD, Card, Original
from offcut.core.model.handover import Asked
from offcut.core.model.project import OrderUse, ShotRef
from offcut.core.model.rules import FRACTION_LONG, MAX_SPEED, MOST_LONG
from offcut.core.model.seam import Seam
from offcut.core.model.source import Framing

_T = TypeVar("_T")
_Hook = Callable[[Any, Any], Any]

UNFIT = (KeyError, TypeError, ValueError, IndexError, AttributeError, OverflowError, OSError)
"""What reading a document of the wrong shape may raise."""

_MAY_BE_MISSING = {
    Asked: {f.name for f in fields(Asked)},  # what could be asked grows with every version
    Card: {"original"},
    Original: {"comments", "file"},
    Seam: {"former", "as_found"},
}


def shaped(value: Any, kind: type[_T]) -> _T:
    """Return a value of a document as what it is. Raises one of UNFIT."""
    return _CONVERTER.structure(value, kind)


def plain(value: object) -> Any:
    """Return a value, or a tuple of them, as a document holds it."""
    return [_CONVERTER.unstructure(v) for v in value] if isinstance(value, tuple) else (
        _CONVERTER.unstructure(value)
    )  # fmt: skip


def whole(value: Any, name: str = "a number") -> int:
    """Return a whole number. Raises TypeError."""
    if not isinstance(value, int) or isinstance(value, bool):
        raise TypeError(f"{name} is not a whole number")
    return value


def text(value: Any, name: str = "a word") -> str:
    """Return a text. Raises TypeError."""
    if not isinstance(value, str):
        raise TypeError(f"{name} is not text")
    return value


def entries(value: Any, name: str = "something", many: int | None = None) -> list[Any]:
    """Return a list, of so many entries where told. Raises TypeError or ValueError."""
    if not isinstance(value, list):
        raise TypeError(f"{name} is not a list")
    if many is not None and len(value) != many:
        raise ValueError(f"{name} has {len(value)} entries, not {many}")
    return value


def _number(value: Any, name: str = "a number") -> float:
    if not isinstance(value, int | float) or isinstance(value, bool):
        raise TypeError(f"{name} is not a number")
    return float(value)


def _fraction(value: Any, name: str = "a fraction") -> Fraction:
    said = text(value, name)
    try:
        made = Fraction(said if len(said) <= FRACTION_LONG else "")
    except (ValueError, ZeroDivisionError) as error:
        raise ValueError(f"{name} is out of range") from error
    if abs(made) > MAX_SPEED:
        raise ValueError(f"{name} is out of range")
    return made


_LEAVES: dict[type, Callable[[Any, str], Any]] = {
    int: whole,
    float: _number,
    str: text,
    Fraction: _fraction,
    bool: lambda value, _name: bool(value),
}


def _reader(kind: type, name: str, none: bool = False) -> _Hook:
    """Return what reads a value that holds no others, and tells what is wrong by its name.

    Nearly every value is of its type at once: a project of 5,000 shots has 100,000.
    """
    reads, plain_kind = _LEAVES[kind], kind

    def read(value: Any, _kind: Any) -> Any:
        if type(value) is plain_kind or (none and value is None):
            return value
        return reads(value, name)

    return read


def _named(field: Field[Any], kind: Any) -> Any:
    """Return how a field is read: by its name where it is a plain value, or one or None."""
    if kind in _LEAVES:
        return override(struct_hook=_reader(kind, field.name))
    inner = [a for a in get_args(kind) if a is not type(None)]
    if type(None) in get_args(kind) and len(inner) == 1 and inner[0] in _LEAVES:
        return override(struct_hook=_reader(inner[0], field.name, none=True))
    return override()


def _object_hook(kind: Any, converter: Converter) -> _Hook:
    """Return how the document of a dataclass is read: an object that has every key."""
    hints = get_type_hints(kind)
    named: dict[str, Any] = {f.name: _named(f, hints[f.name]) for f in fields(kind)}
    made = make_dict_structure_fn(kind, converter, _cattrs_detailed_validation=False, **named)
    needed = {f.name for f in fields(kind)} - _MAY_BE_MISSING.get(kind, set())

    def hook(value: Any, _kind: Any) -> Any:
        if not isinstance(value, dict):
            raise TypeError(f"{kind.__name__.lower()} is not an object")
        if not value.keys() >= needed:
            raise KeyError(min(needed - value.keys()))
        return made(value, kind)

    return hook


def _tuple_hook(kind: Any, converter: Converter) -> _Hook:
    """Return how a list is read: as many entries as it has, or as the type has."""
    kinds = get_args(kind)
    if kinds[-1] is Ellipsis:
        one, each = kinds[0], converter.get_structure_hook(kinds[0])
        return lambda value, _kind: tuple([each(v, one) for v in entries(value)])
    hooks = [converter.get_structure_hook(k) for k in kinds]

    def hook(value: Any, _kind: Any) -> Any:
        found = entries(value, many=len(kinds))
        return tuple(h(v, k) for h, v, k in zip(hooks, found, kinds, strict=True))

    return hook


def _row_hooks(converter: Converter, kind: type) -> None:
    """Let a dataclass of whole numbers stand as a row of them."""
    names = [f.name for f in fields(kind)]
    converter.register_unstructure_hook(kind, lambda v: [getattr(v, n) for n in names])

    def read(value: Any, _kind: Any) -> Any:
        return kind(*(whole(n) for n in entries(value, kind.__name__.lower(), len(names))))

    converter.register_structure_hook(kind, read)


def _is_tuple(kind: Any) -> bool:
    return get_origin(kind) is tuple


def _made() -> Converter:
    made = Converter(detailed_validation=False, unstruct_collection_overrides={tuple: list})
    made.register_structure_hook_factory(is_dataclass)(_object_hook)
    made.register_structure_hook_factory(_is_tuple)(_tuple_hook)
    for leaf in _LEAVES:
        made.register_structure_hook(leaf, _reader(leaf, "something in a list"))
    made.register_structure_hook(StrEnum, lambda value, kind: kind(value))
    made.register_unstructure_hook(Fraction, lambda f: f"{f.numerator}/{f.denominator}")
    _row_hooks(made, ShotRef)
    _row_hooks(made, Framing)

    card, original = _object_hook(Card, made), _object_hook(Original, made)
    made.register_structure_hook(Card, lambda v, k: NO_CARD if v is None else card(v, k))

    def short(value: Any, kind: Any) -> Any:
        said = [text(c)[:MOST_LONG] for c in entries(value.get("comments", []))]
        return original({**value, "comments": said}, kind)

    made.register_structure_hook(Original, short)

    use, use_out = _object_hook(OrderUse, made), make_dict_unstructure_fn(OrderUse, made)

    def use_in(value: Any, kind: Any) -> Any:
        seam = value["seam"]
        return use({**value, "shot": None if seam is None else [value["source"], seam]}, kind)

    def use_plain(value: OrderUse) -> Any:
        out = use_out(value)
        ref = out.pop("shot")
        return out | {"seam": None if ref is None else ref[1]}

    made.register_structure_hook(OrderUse, use_in)
    made.register_unstructure_hook(OrderUse, use_plain)

    cards = make_dict_unstructure_fn(Card, made)
    made.register_unstructure_hook(
        Seam,
        make_dict_unstructure_fn(
            Seam,
            made,
            opening=override(unstruct_hook=lambda c: cards(c) if c else None),
            as_found=override(omit_if_default=True),
        ),
    )
    return made


_CONVERTER = _made()
