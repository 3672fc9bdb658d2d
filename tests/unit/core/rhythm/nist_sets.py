"""Univariate data sets of NIST's Statistical Reference Datasets, with their certified values.

Written down from memory; that the certified mean, deviation and autocorrelation come out of them to
the last digits says that they were remembered right. (NIST StRD, itl.nist.gov/div898/strd.)
"""

from __future__ import annotations

from typing import NamedTuple


class Certified(NamedTuple):
    """A data set, its certified mean, deviation (n - 1) and lag-1 autocorrelation."""

    name: str
    values: tuple[float, ...]
    mean: float
    deviation: float
    autocorrelation: float


_LEW = """
-213 -564 -35 -15 141 115 -420 -360 203 -338 -431 194 -220 -513 154 -125 -559 92 -21 -579
-52 99 -543 -175 162 -457 -346 204 -300 -474 164 -107 -572 -8 83 -541 -224 180 -420 -374
201 -236 -531 83 27 -564 -112 131 -507 -254 199 -311 -495 143 -46 -579 -90 136 -472 -338
202 -287 -477 169 -124 -568 17 48 -568 -135 162 -430 -422 172 -74 -577 -13 92 -534 -243
194 -355 -465 156 -81 -578 -64 139 -449 -384 193 -198 -538 110 -44 -577 -6 66 -552 -164
161 -460 -344 205 -281 -504 134 -28 -576 -118 156 -437 -381 200 -220 -540 83 11 -568 -160
172 -414 -408 188 -125 -572 -32 139 -492 -321 205 -262 -504 142 -83 -574 0 48 -571 -106
137 -501 -266 190 -391 -406 194 -186 -553 83 -13 -577 -49 103 -515 -280 201 300 -506 131
-45 -578 -80 138 -462 -361 201 -211 -554 32 74 -533 -235 187 -372 -442 182 -147 -566 25
68 -535 -244 194 -351 -463 174 -125 -570 15 72 -550 -190 172 -424 -385 198 -218 -536 96
"""
_MAVRO = """
18 17 18 19 18 17 15 14 15 15 17 18 18 19 19 21 20 16 14 13 13 15 15 16 15
14 13 14 15 14 15 16 15 16 19 20 20 21 22 23 24 25 27 26 26 26 27 26 25 24
"""
_MICHELSON = """
850 740 900 1070 930 850 950 980 980 880 1000 980 930 650 760 810 1000 1000 960 960
960 940 960 940 880 800 850 880 900 840 830 790 810 880 880 830 800 790 760 800
880 880 880 860 720 720 620 860 970 950 880 910 850 870 840 840 850 840 840 840
890 810 810 820 800 770 760 740 750 760 910 920 890 860 880 720 840 850 850 780
890 840 780 810 760 810 790 810 820 850 870 870 810 740 810 940 950 800 810 870
"""


def _alternating(first: float, low: float, high: float) -> tuple[float, ...]:
    return (first, *([low, high] * 500))


SETS = (
    Certified(
        "Lew",
        tuple(float(v) for v in _LEW.split()),
        -177.435,
        277.332168044316,
        -0.307304800605679,
    ),
    Certified(
        "Mavro",
        tuple((20000 + int(v)) / 10000 for v in _MAVRO.split()),
        2.001856,
        0.000429123454003053,
        0.937989183438248,
    ),
    Certified(
        "Michelson",
        tuple((299000 + int(v)) / 1000 for v in _MICHELSON.split()),
        299.8524,
        0.0790105478190518,
        0.535199668621283,
    ),
    Certified("NumAcc1", (10000001.0, 10000003.0, 10000002.0), 10000002.0, 1.0, -0.5),
    Certified("NumAcc2", _alternating(1.2, 1.1, 1.3), 1.2, 0.1, -0.999),
    Certified("NumAcc3", _alternating(1000000.2, 1000000.1, 1000000.3), 1000000.2, 0.1, -0.999),
    Certified("NumAcc4", _alternating(10000000.2, 10000000.1, 10000000.3), 10000000.2, 0.1, -0.999),
)
