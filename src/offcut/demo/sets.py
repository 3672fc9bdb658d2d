"""The places of the film, each a stack of painted layers from the horizon to the lens."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QLinearGradient, QPainter, QPainterPath, QPen, QPolygonF

from offcut.demo.paint import (
    HIGH,
    WIDE,
    Layer,
    figure,
    glow,
    gradient,
    houses,
    rails,
    ridge,
    sheet,
    tram_front,
    tram_side,
    water,
)

SKIES = {
    "night": ("#0b1022", "#182342", "#33406a", "#5b5a80"),
    "dawn": ("#24335c", "#5c5d86", "#c58a72", "#f3c17e"),
    "morning": ("#6f9cc4", "#a8c4d6", "#e3d8bd", "#f2dba8"),
    "storm": ("#171b24", "#2a303b", "#434b57", "#5a5f66"),
}


def harbour(hour: str, seed: int = 1, close: bool = False) -> list[Layer]:
    """The town over its harbour."""
    dark = hour in ("night", "storm")
    walls = (
        ("#2b3350", "#37395a", "#232b45") if dark else ("#b9866a", "#c9a27c", "#8d6f64", "#a3b0b0")
    )

    def sky(p: QPainter) -> None:
        gradient(p, SKIES[hour], 0, 470)
        gradient(p, (SKIES[hour][-1], SKIES[hour][-1]), 470, HIGH)
        if hour == "night":
            rng = np.random.default_rng(seed)
            for _ in range(160):
                p.setBrush(QColor(255, 255, 255, int(rng.uniform(30, 150))))
                p.drawEllipse(QPointF(rng.uniform(0, WIDE), rng.uniform(0, 300)), 1.1, 1.1)
        if hour == "dawn":
            glow(p, 880, 430, 420, "#ffe2a0")
        if hour == "morning":
            glow(p, 380, 150, 300, "#fff6d8", 180)

    def hills(p: QPainter) -> None:
        ridge(p, 400, 90, "#3a4266" if dark else "#7c7f92", seed)

    def far(p: QPainter) -> None:
        houses(p, 470, (50, 110), walls, seed + 1, 0.25 if dark else 0.05, (36, 74))
        p.setBrush(QColor(walls[0]))
        p.drawRect(QRectF(640, 270, 44, 200))
        p.drawPolygon(QPolygonF([QPointF(632, 272), QPointF(662, 190), QPointF(692, 272)]))
        p.setBrush(QColor("#ffe0a0"))
        p.drawEllipse(QPointF(662, 300), 12, 12)

    def sea(p: QPainter) -> None:
        water(
            p,
            466,
            (SKIES[hour][-1], SKIES[hour][1], SKIES[hour][0]),
            seed,
            "#ffd9a0" if not dark else "#9fb0dd",
        )

    def boats(p: QPainter) -> None:
        for x, s in ((190, 1.0), (470, 0.7), (1010, 1.2)):
            p.setBrush(QColor("#1d1c26" if dark else "#4a2f2a"))
            p.drawPolygon(
                QPolygonF(
                    [
                        QPointF(x - 80 * s, 560),
                        QPointF(x + 90 * s, 560),
                        QPointF(x + 60 * s, 600),
                        QPointF(x - 60 * s, 600),
                    ]
                )
            )
            p.setPen(QPen(QColor("#15141c"), 4 * s))
            p.drawLine(QPointF(x, 560), QPointF(x, 560 - 190 * s))
            p.drawLine(QPointF(x, 560 - 180 * s), QPointF(x + 80 * s, 556))
            p.setPen(Qt.PenStyle.NoPen)
            glow(p, x, 560 - 185 * s, 26, "#ffd27a", 200)

    def quay(p: QPainter) -> None:
        p.fillRect(QRectF(0, 690, WIDE, 80), QColor("#14141b" if dark else "#4d4238"))
        for x in range(40, WIDE, 170):
            p.fillRect(QRectF(x, 640, 26, 60), QColor("#0f0f15" if dark else "#3a3029"))
        if close:
            figure(p, 820, 720, 300, "#22232e" if dark else "#3b3f52")

    return [
        Layer(sheet(sky, 0.02, seed), 1.0),
        Layer(sheet(hills, 0.1, seed), 0.85),
        Layer(sheet(far, 0.12, seed), 0.7),
        Layer(sheet(sea, 0.08, seed), 0.6, (-9, 0)),
        Layer(sheet(boats, 0.1, seed), 0.4, sway=3),
        Layer(sheet(quay, 0.15, seed), 0.15),
    ]


def depot(lamp_on: bool = True, seed: int = 3) -> list[Layer]:
    """The car hall before the first run."""

    def hall(p: QPainter) -> None:
        gradient(p, ("#17140f", "#3a3126", "#4a3e2f"))
        for x in range(0, WIDE, 132):
            p.fillRect(QRectF(x, 0, 16, 520), QColor("#221c15"))
            p.setBrush(QColor("#241d16"))
            p.drawPolygon(
                QPolygonF(
                    [QPointF(x, 60), QPointF(x + 132, 20), QPointF(x + 132, 34), QPointF(x, 76)]
                )
            )
        for x in (180, 460, 740, 1020):
            light = QLinearGradient(0, 90, 0, 250)
            light.setColorAt(0, QColor("#8fa3b8"))
            light.setColorAt(1, QColor("#4d6078"))
            p.fillRect(QRectF(x, 90, 110, 160), QBrush(light))
            p.fillRect(QRectF(x + 52, 90, 6, 160), QColor("#221c15"))
            p.fillRect(QRectF(x, 166, 110, 6), QColor("#221c15"))
        gradient(p, ("#2b241b", "#15110c"), 520, HIGH)

    def cars(p: QPainter) -> None:
        tram_side(p, -120, 560, 0.8, False)
        tram_side(p, 700, 566, 0.95, lamp_on)

    def men(p: QPainter) -> None:
        figure(p, 560, 690, 330, "#1d2230")
        p.setBrush(QColor("#6a5a44"))
        p.drawRect(QRectF(150, 560, 90, 140))

    def lamps(p: QPainter) -> None:
        for x in (320, 640, 960):
            glow(p, x, 120, 330, "#ffcf86", 120)

    stack = [
        Layer(sheet(hall, 0.2, seed), 0.9),
        Layer(sheet(cars, 0.1, seed), 0.6),
        Layer(sheet(men, 0.1, seed), 0.25),
    ]
    return [*stack, Layer(sheet(lamps), 0.8, glow=True)] if lamp_on else stack


def cab(view: str = "hands", seed: int = 5) -> list[Layer]:
    """The driver's place: hands on the controller, or the street through the glass."""

    def out(p: QPainter) -> None:
        gradient(p, SKIES["dawn"], 0, 420)
        houses(p, 430, (90, 200), ("#7f6258", "#9a7a66", "#5d5560"), seed, 0.15)
        gradient(p, ("#6d5b4d", "#3b322b"), 430, HIGH)

    def panel(p: QPainter) -> None:
        for rect in (QRectF(0, 0, WIDE, 90), QRectF(0, 400, WIDE, 380), QRectF(610, 0, 60, 420)):
            p.fillRect(rect, QColor("#2a2019"))
        wood = QLinearGradient(0, 400, 0, HIGH)
        for stop, colour in ((0, "#6a4a30"), (0.1, "#4c3421"), (1, "#231710")):
            wood.setColorAt(stop, QColor(colour))
        p.fillRect(QRectF(0, 420, WIDE, 360), QBrush(wood))
        for x in (260, 400):
            p.setBrush(QColor("#17130f"))
            p.drawEllipse(QPointF(x, 500), 56, 56)
            p.setBrush(QColor("#e6dcc2"))
            p.drawEllipse(QPointF(x, 500), 46, 46)
            p.setPen(QPen(QColor("#8c281f"), 5))
            p.drawLine(QPointF(x, 500), QPointF(x + 26, 474))
            p.setPen(Qt.PenStyle.NoPen)

    def brass(p: QPainter) -> None:
        metal = QLinearGradient(700, 0, 960, 0)
        for stop, colour in ((0, "#6b4e1d"), (0.4, "#f0d48a"), (1, "#7b5a22")):
            metal.setColorAt(stop, QColor(colour))
        p.setBrush(QBrush(metal))
        p.drawEllipse(QPointF(830, 590), 150, 62)
        p.setBrush(QColor("#38280f"))
        p.drawEllipse(QPointF(830, 582), 108, 42)

    def hand(p: QPainter) -> None:
        p.setPen(QPen(QColor("#d9b867"), 26, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        p.drawLine(QPointF(830, 575), QPointF(660, 520))
        p.setPen(Qt.PenStyle.NoPen)
        sleeve = QPainterPath(QPointF(380, HIGH))
        sleeve.cubicTo(420, 640, 480, 560, 570, 530)
        sleeve.lineTo(640, 590)
        sleeve.cubicTo(620, 650, 600, 720, 590, HIGH)
        p.fillPath(sleeve, QColor("#26304a"))
        p.setBrush(QColor("#c09070"))
        p.drawEllipse(QRectF(560, 478, 130, 104))
        for i in range(4):
            p.setBrush(QColor("#b28262").lighter(100 + 4 * i))
            p.drawRoundedRect(QRectF(646 + 6 * i, 478 + 24 * i, 72, 25), 12, 12)
        p.fillRect(QRectF(548, 524, 30, 62), QColor("#c9a54e"))

    def back(p: QPainter) -> None:
        p.setBrush(QColor("#181b26"))
        p.drawEllipse(QPointF(660, 330), 105, 125)
        p.drawRoundedRect(QRectF(440, 440, 440, 360), 130, 130)
        p.drawRect(QRectF(540, 222, 240, 46))
        p.drawRoundedRect(QRectF(560, 170, 200, 70), 22, 22)

    front = [Layer(sheet(brass, 0.1, seed), 0.35), Layer(sheet(hand, 0.06, seed), 0.25, sway=7)]
    if view != "hands":
        front = [Layer(sheet(back, 0.08, seed), 0.2, sway=4)]
    return [
        Layer(
            sheet(out, 0.1, seed),
            0.9,
            (-60, 0) if view == "hands" else (0, 0),
            growth=0.0 if view == "hands" else 0.05,
        ),
        Layer(sheet(panel, 0.16, seed), 0.5, sway=1.5),
        *front,
    ]


def street(
    hour: str = "morning", seed: int = 8, front: float = 0.0, people: bool = True
) -> list[Layer]:
    """A street of Port Ansel; with ``front`` car 7 comes towards us."""
    walls = (
        ("#b48468", "#c7a681", "#8f9a98", "#a56f5c")
        if hour != "storm"
        else ("#3c4148", "#4a4a4c", "#343b45")
    )

    def sky(p: QPainter) -> None:
        gradient(p, SKIES[hour])
        glow(p, 700, 360, 380, "#ffe9bd", 150 if hour != "storm" else 40)

    def left(p: QPainter) -> None:
        houses(p, 540, (190, 330), walls, seed, 0.1 if hour != "storm" else 0.35, (110, 190))

    def road(p: QPainter) -> None:
        rails(p, (660, 500), "#6b5f55" if hour != "storm" else "#2d3138", "#c9c3b6")
        p.setPen(QPen(QColor("#2c2a2a"), 2.5))
        for x in (560, 760):
            p.drawLine(QPointF(x + (660 - x) * 0.8, 500), QPointF(x, -20))
        p.setPen(Qt.PenStyle.NoPen)

    def car(p: QPainter) -> None:
        tram_front(p, 660, 640, max(0.4, front))

    def crowd(p: QPainter) -> None:
        rng = np.random.default_rng(seed + 9)
        for i in range(9):
            x = 60 + i * 145 + rng.uniform(-40, 40)
            if 470 < x < 860:
                continue
            figure(
                p,
                x,
                735 + rng.uniform(-30, 30),
                rng.uniform(240, 330),
                ("#2e3446", "#5b3a34", "#3f4a41", "#6d6252")[i % 4],
            )

    stack = [
        Layer(sheet(sky, 0.02), 1.0),
        Layer(sheet(left, 0.14, seed), 0.75),
        Layer(sheet(road, 0.14, seed), 0.6),
    ]
    if front:
        stack.append(Layer(sheet(car, 0.05), 0.5, growth=0.22))
    if people:
        stack.append(Layer(sheet(crowd, 0.1, seed), 0.2, (16, 0), sway=2))
    return stack


def track(hour: str = "dawn", seed: int = 12, tilt: float = 0.0) -> list[Layer]:
    """Rails seen from the moving car."""

    def sky(p: QPainter) -> None:
        gradient(p, SKIES[hour], 0, 400)
        glow(p, 620, 380, 260, "#ffdf9c", 230)
        ridge(p, 390, 60, "#5b5163" if hour == "dawn" else "#6f7f6c", seed)

    def bed(p: QPainter) -> None:
        rails(p, (640 + tilt, 380), "#57483c", "#e0d6c0")

    def sleepers(p: QPainter) -> None:
        for i in range(26):
            near = (i / 25) ** 2.2
            y = 384 + near * 400
            p.fillRect(
                QRectF(640 + tilt - 40 - 420 * near, y, 80 + 840 * near, 2 + 17 * near),
                QColor(34, 26, 20, 165),
            )

    def poles(p: QPainter) -> None:
        for side in (-1, 1):
            for i in range(4):
                s = 0.35 + 0.5 * i
                x = 640 + side * (120 + 190 * i * s)
                p.fillRect(QRectF(x, 400 - 260 * s, 8 * s + 2, 280 * s), QColor("#231d1a"))
                p.fillRect(QRectF(x - 40 * s, 400 - 250 * s, 80 * s, 5 * s), QColor("#231d1a"))

    return [
        Layer(sheet(sky, 0.04, seed), 1.0),
        Layer(sheet(bed, 0.18, seed), 0.6),
        Layer(sheet(sleepers, 0.2, seed), 0.55, growth=0.5, wraps=True),
        Layer(sheet(poles, 0.1, seed), 0.4, growth=0.34, wraps=True),
    ]


def pane(seed: int = 17) -> list[Layer]:
    """Rain on a window, the lamps of the town behind it."""
    rng = np.random.default_rng(seed)

    def lights(p: QPainter) -> None:
        gradient(p, ("#0d1420", "#1d2a3a", "#2c3440"))
        for _ in range(34):
            colour = ("#ffca7a", "#ff9d6a", "#9fd0ff", "#ffe6b8")[int(rng.integers(4))]
            glow(
                p,
                rng.uniform(0, WIDE),
                rng.uniform(180, 620),
                rng.uniform(40, 120),
                colour,
                int(rng.uniform(90, 210)),
            )

    def drops(p: QPainter) -> None:
        for _ in range(260):
            x, y, r = rng.uniform(0, WIDE), rng.uniform(0, HIGH), rng.uniform(2, 9)
            p.setBrush(QColor(205, 220, 235, 70))
            p.drawEllipse(QPointF(x, y), r, r * 1.25)
            p.setBrush(QColor(255, 255, 255, 120))
            p.drawEllipse(QPointF(x - r * 0.3, y - r * 0.4), r * 0.25, r * 0.25)

    def runs(p: QPainter) -> None:
        for _ in range(46):
            x, y = rng.uniform(0, WIDE), rng.uniform(-60, HIGH)
            p.setBrush(QColor(190, 208, 228, 60))
            p.drawRoundedRect(QRectF(x, y, 3.4, rng.uniform(50, 190)), 2, 2)

    def frame(p: QPainter) -> None:
        p.fillRect(QRectF(0, 0, 150, HIGH), QColor("#17120e"))
        p.fillRect(QRectF(0, 640, WIDE, 140), QColor("#1d1611"))

    return [
        Layer(sheet(lights), 0.9, (-26, 0)),
        Layer(sheet(drops), 0.3),
        Layer(sheet(runs), 0.28, (0, 170), wraps=True),
        Layer(sheet(frame, 0.12), 0.2),
    ]


def tunnel(seed: int = 19) -> list[Layer]:
    """In the tunnel, lamps passing."""

    def bore(p: QPainter) -> None:
        gradient(p, ("#0a0908", "#15120f", "#0c0b0a"))
        for i in range(14, 0, -1):
            r = 30 + i * i * 4.4
            tone = 14 + 3 * i
            p.setBrush(QColor(tone + 8, tone + 3, tone))
            p.drawEllipse(QPointF(660, 380), r * 1.15, r)
        glow(p, 660, 380, 130, "#ffe6b0", 210)

    def lamps(p: QPainter) -> None:
        for i in range(6):
            s = (i + 1) / 6
            for side in (-1, 1):
                x, y = 660 + side * 620 * s * s, 380 - 300 * s * s
                p.setBrush(QColor("#ffe2a6"))
                p.drawEllipse(QPointF(x, y), 5 + 22 * s, 4 + 16 * s)
                glow(p, x, y, 40 + 190 * s, "#ffb95e", 130)

    def bed(p: QPainter) -> None:
        p.setBrush(QColor("#0d0b09"))
        p.drawPolygon(
            QPolygonF(
                [QPointF(650, 390), QPointF(670, 390), QPointF(1250, HIGH), QPointF(70, HIGH)]
            )
        )
        for side in (-1, 1):
            p.setBrush(QColor("#8c7f6c"))
            p.drawPolygon(
                QPolygonF(
                    [
                        QPointF(660 + side * 4, 390),
                        QPointF(660 + side * 6, 390),
                        QPointF(660 + side * 330, HIGH),
                        QPointF(660 + side * 300, HIGH),
                    ]
                )
            )

    return [
        Layer(sheet(bore, 0.25, seed), 0.8, growth=0.05),
        Layer(sheet(bed, 0.1), 0.6),
        Layer(sheet(lamps), 0.5, glow=True, growth=0.75, wraps=True),
    ]


def bridge(hour: str = "morning", seed: int = 23) -> list[Layer]:
    """Car 7 on the bridge over the river mouth."""

    def back(p: QPainter) -> None:
        gradient(p, SKIES[hour], 0, 460)
        glow(p, 960, 300, 340, "#fff0c8", 190)
        ridge(p, 440, 70, "#8b93a0", seed)

    def river(p: QPainter) -> None:
        water(p, 470, ("#d9c39a", "#7d90a0", "#40566a"), seed, "#fff1cf")

    def car(p: QPainter) -> None:
        tram_side(p, 60, 478, 0.62)

    def deck(p: QPainter) -> None:
        p.fillRect(QRectF(0, 478, WIDE, 20), QColor("#39332f"))
        p.setPen(QPen(QColor("#39332f"), 9))
        for x in range(-40, WIDE, 150):
            p.drawLine(QPointF(x, 490), QPointF(x + 75, 300))
            p.drawLine(QPointF(x + 75, 300), QPointF(x + 150, 490))
        p.drawLine(QPointF(0, 300), QPointF(WIDE, 300))
        p.setPen(Qt.PenStyle.NoPen)
        for x in (230, 830):
            p.fillRect(QRectF(x, 498, 70, 270), QColor("#4a423b"))

    return [
        Layer(sheet(back, 0.04, seed), 1.0),
        Layer(sheet(river, 0.08, seed), 0.75, (-10, 0)),
        Layer(sheet(car, 0.04), 0.55, (150, 0)),
        Layer(sheet(deck, 0.12, seed), 0.5),
    ]


def market(seed: int = 29, close: bool = False) -> list[Layer]:
    """Market day on the square."""

    def back(p: QPainter) -> None:
        gradient(p, SKIES["morning"])
        houses(
            p, 470, (190, 300), ("#c39a78", "#b0795f", "#cdb894", "#93a19c"), seed, 0.02, (100, 170)
        )
        gradient(p, ("#9a8a76", "#6f6152"), 470, HIGH)

    def stalls(p: QPainter) -> None:
        for i, x in enumerate(range(-40, WIDE, 270)):
            for s in range(8):
                p.setBrush(
                    QColor(
                        ("#b8402f", "#e9dfc8")[s % 2] if i % 2 else ("#3f6d63", "#e9dfc8")[s % 2]
                    )
                )
                p.drawPolygon(
                    QPolygonF(
                        [
                            QPointF(x + 20 + s * 26, 330),
                            QPointF(x + 46 + s * 26, 330),
                            QPointF(x + 50 + s * 28, 400),
                            QPointF(x + 22 + s * 28, 400),
                        ]
                    )
                )
            p.fillRect(QRectF(x + 30, 500, 220, 90), QColor("#5a4030"))
            for f in range(26):
                p.setBrush(QColor(("#d9822b", "#b23a2a", "#7f9a3c", "#e0b94a")[(f + i) % 4]))
                p.drawEllipse(QPointF(x + 42 + (f % 13) * 16, 494 + 14 * (f // 13)), 10, 9)

    def crowd(p: QPainter) -> None:
        rng = np.random.default_rng(seed + 1)
        for i in range(12 if not close else 5):
            tall = rng.uniform(260, 330) if not close else rng.uniform(470, 560)
            figure(
                p,
                60 + i * (112 if not close else 280) + rng.uniform(-30, 30),
                720 + (60 if close else 0),
                tall,
                ("#3c4358", "#7a4036", "#4b5a4a", "#84745c", "#2c2f3a")[i % 5],
            )

    return [
        Layer(sheet(back, 0.1, seed), 0.9),
        Layer(sheet(stalls, 0.12, seed), 0.55),
        Layer(sheet(crowd, 0.1, seed), 0.25, (-22 if not close else 14, 0), sway=3),
    ]


def sea(hour: str = "morning", seed: int = 31) -> list[Layer]:
    """The open sea at the end of the line."""

    def back(p: QPainter) -> None:
        gradient(p, SKIES[hour], 0, 380)
        glow(p, 640, 350, 330, "#fff2cc", 240)

    def swell(p: QPainter) -> None:
        water(p, 376, ("#f0d9a6", "#6f93a8", "#274a60"), seed, "#fff6dd", 700)

    def gulls(p: QPainter) -> None:
        rng = np.random.default_rng(seed)
        p.setPen(QPen(QColor("#2d3038"), 4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        for _ in range(7):
            x, y, s = rng.uniform(100, 900), rng.uniform(110, 300), rng.uniform(12, 30)
            wing = QPainterPath(QPointF(x - s, y))
            wing.quadTo(x - s / 2, y - s * 0.7, x, y)
            wing.quadTo(x + s / 2, y - s * 0.7, x + s, y)
            p.drawPath(wing)
        p.setPen(Qt.PenStyle.NoPen)

    def rail(p: QPainter) -> None:
        p.fillRect(QRectF(0, 650, WIDE, 12), QColor("#3b352f"))
        for x in range(20, WIDE, 90):
            p.fillRect(QRectF(x, 650, 9, 120), QColor("#3b352f"))

    return [
        Layer(sheet(back, 0.03), 1.0),
        Layer(sheet(swell, 0.08, seed), 0.8, (-14, 0), sway=5),
        Layer(sheet(gulls), 0.6, (34, -5)),
        Layer(sheet(rail, 0.15), 0.2),
    ]


def cup(seed: int = 37) -> list[Layer]:
    """Coffee at the terminus."""

    def room(p: QPainter) -> None:
        gradient(p, ("#3c2c20", "#5f452f", "#3a281b"))
        glow(p, 1010, 130, 420, "#ffdc9a", 170)
        p.fillRect(QRectF(820, 60, 330, 330), QColor(240, 220, 170, 60))

    def table(p: QPainter) -> None:
        wood = QLinearGradient(0, 480, 0, HIGH)
        wood.setColorAt(0, QColor("#8a623c"))
        wood.setColorAt(1, QColor("#3d2917"))
        p.fillRect(QRectF(0, 500, WIDE, 270), QBrush(wood))

    def china(p: QPainter) -> None:
        p.setBrush(QColor("#d9d2c2"))
        p.drawEllipse(QPointF(640, 610), 210, 46)
        shape = QPainterPath(QPointF(510, 420))
        shape.cubicTo(515, 560, 560, 600, 640, 602)
        shape.cubicTo(720, 600, 765, 560, 770, 420)
        p.fillPath(shape, QColor("#efe9da"))
        p.setPen(QPen(QColor("#efe9da"), 20))
        p.drawArc(QRectF(740, 440, 110, 90), 16 * 100, -16 * 200)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor("#cfc6b2"))
        p.drawEllipse(QPointF(640, 420), 131, 30)
        p.setBrush(QColor("#2d1a10"))
        p.drawEllipse(QPointF(640, 424), 118, 24)

    def steam(p: QPainter) -> None:
        for i in range(5):
            glow(p, 600 + i * 22, 320 - 34 * i, 80, "#ffffff", 46)

    return [
        Layer(sheet(room, 0.12), 0.9),
        Layer(sheet(table, 0.22, seed), 0.6),
        Layer(sheet(china, 0.05), 0.4),
        Layer(sheet(steam), 0.4, (6, -30), glow=True),
    ]


def wires(seed: int = 41) -> list[Layer]:
    """Looking up: the wires, the pole, the sky."""

    def sky(p: QPainter) -> None:
        gradient(p, SKIES["morning"][::-1])
        ridge(p, 620, 160, "#e9e2d2", seed, 140)
        ridge(p, 690, 120, "#d5d2c8", seed + 1, 110)

    def lines(p: QPainter) -> None:
        p.setPen(QPen(QColor("#23262c"), 5))
        for i in range(5):
            p.drawLine(QPointF(-20, 90 + 120 * i), QPointF(WIDE, 250 + 40 * i))
        p.drawLine(QPointF(300, HIGH), QPointF(680, 0))
        p.setPen(Qt.PenStyle.NoPen)

    def pole(p: QPainter) -> None:
        p.fillRect(QRectF(900, 0, 46, HIGH), QColor("#3a342f"))
        p.fillRect(QRectF(640, 180, 300, 18), QColor("#3a342f"))
        for x in (660, 760, 860):
            p.setBrush(QColor("#e6dcc2"))
            p.drawEllipse(QPointF(x, 168), 16, 22)

    return [
        Layer(sheet(sky, 0.04), 1.0, (-10, 0)),
        Layer(sheet(lines), 0.5, (0, 20)),
        Layer(sheet(pole, 0.1), 0.35),
    ]


def lorry() -> Layer:
    """A lorry so close to the lens that it covers the picture."""

    def body(p: QPainter) -> None:
        p.fillRect(QRectF(120, 60, 1080, 620), QColor("#35463f"))
        for y in range(90, 660, 70):
            p.fillRect(QRectF(120, y, 1080, 9), QColor("#26332e"))
        p.fillRect(QRectF(300, 240, 620, 190), QColor("#d9cba6"))
        p.setBrush(QColor("#100f0e"))
        for x in (330, 980):
            p.drawEllipse(QPointF(x, 690), 120, 120)

    return Layer(sheet(body, 0.1, 2), 0.0)
