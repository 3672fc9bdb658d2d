"""The registry of measurers: every one of them sees each film that is measured."""

from __future__ import annotations

from offcut.core.measure.change import Change
from offcut.core.measure.measurer import Measurer
from offcut.core.measure.prints import FinePrints, Prints
from offcut.core.measure.tones import Tones

CHANGE = Change()
TONES = Tones()
PRINTS = Prints()
FINE = FinePrints()

MEASURERS: tuple[Measurer, ...] = (CHANGE, TONES, PRINTS)
"""All that is measured in one decoding pass; a new measurer is a file and a line here."""
