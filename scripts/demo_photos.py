"""Draw the demo's photos: made-up pictures of made-up wires, so that nothing real is shown."""

import io
import math
import random

from PIL import Image, ImageDraw, ImageFilter

from molvik.files.photos import Picture, make_ready
from molvik.model.photos import Mark, Photo

WIDTH, HEIGHT = 1280, 860
FINE = 2
"""Drawn this much larger and scaled down, for smooth edges."""

Point = tuple[float, float]
INKS = {
    "RD": "#b3261e",
    "BK": "#26231f",
    "BN": "#6d4426",
    "GN": "#2e7d46",
    "BU": "#2a5aa0",
    "YE": "#e0b020",
    "WH": "#ece7db",
    "GY": "#85827b",
    "PK": "#d98aa0",
    "OG": "#d9772a",
    "CU": "#c07a48",
    "CHAR": "#2b1b12",
}


def bend(points: list[Point], steps: int = 30) -> list[Point]:
    """Return a smooth line through some points (Catmull and Rom's spline)."""
    padded = [points[0], *points, points[-1]]
    line: list[Point] = []
    for a, b, c, d in zip(padded, padded[1:], padded[2:], padded[3:], strict=False):
        for n in range(steps):
            t = n / steps
            line.append(
                tuple(
                    0.5
                    * (
                        2 * b[i]
                        + (c[i] - a[i]) * t
                        + (2 * a[i] - 5 * b[i] + 4 * c[i] - d[i]) * t**2
                        + (3 * b[i] - a[i] - 3 * c[i] + d[i]) * t**3
                    )
                    for i in (0, 1)
                )  # type: ignore[arg-type]
            )
    return [*line, points[-1]]


class Bench:
    """A picture in the making: a bench top, and wires laid on it."""

    def __init__(self, seed: int) -> None:
        self.random = random.Random(seed)
        self.image = Image.new("RGB", (WIDTH * FINE, HEIGHT * FINE), "#b9a98d")
        self.draw = ImageDraw.Draw(self.image)
        for _ in range(90):
            y = self.random.uniform(0, HEIGHT)
            tone = self.random.choice(("#b3a286", "#bfb095", "#ab9b80"))
            self.strip([(0, y), (WIDTH, y + self.random.uniform(-12, 12))], tone, 3)

    def strip(self, line: list[Point], tone: str, width: float) -> None:
        self.draw.line(
            [(x * FINE, y * FINE) for x, y in line], tone, round(width * FINE), joint="curve"
        )

    def wire(self, points: list[Point], tone: str, width: float = 16, tracer: str = "") -> None:
        """Lay a wire: its shadow, its body, its shine, its tracer."""
        line = bend(points)
        self.strip([(x + 4, y + 6) for x, y in line], "#8d7f68", width + 4)
        self.strip(line, "#1c1712", width + 3)
        self.strip(line, INKS[tone], width)
        if tracer:
            self.strip(line, INKS[tracer], width / 4)
        self.strip([(x, y - width / 3.2) for x, y in line], "#ffffff", 1.2)

    def blot(self, at: Point, radius: float, tone: str) -> None:
        x, y = at[0] * FINE, at[1] * FINE
        r = radius * FINE
        self.draw.ellipse((x - r, y - r, x + r, y + r), tone)

    def strands(self, at: Point, angle: float, length: float, count: int = 9) -> None:
        """Draw bare strands that stick out."""
        for n in range(count):
            turn = angle + (n - count / 2) * 0.06
            end = (at[0] + length * math.cos(turn), at[1] + length * math.sin(turn))
            self.strip([at, end], INKS["CU"], 2.4)

    def rule(self, y: float, mm_px: float) -> None:
        """Lay a steel rule along the bottom, with a tick each millimetre."""
        self.draw.rectangle((0, y * FINE, WIDTH * FINE, (y + 74) * FINE), "#c9ccce")
        for mm in range(int(WIDTH / mm_px)):
            x = 20 + mm * mm_px
            tall = 34 if mm % 10 == 0 else 24 if mm % 5 == 0 else 15
            self.strip([(x, y), (x, y + tall)], "#33363a", 2 if mm % 10 == 0 else 1)

    def done(self, name: str) -> Picture:
        """Return the picture as the program would keep it."""
        small = self.image.resize((WIDTH, HEIGHT), Image.Resampling.LANCZOS)
        kept = io.BytesIO()
        small.filter(ImageFilter.GaussianBlur(0.6)).save(kept, "PNG")
        return make_ready(kept.getvalue(), name)


def burnt() -> Picture:
    bench = Bench(1)
    tones = [("BN", ""), ("RD", "YE"), ("BK", "BU"), ("RD", ""), ("GN", "WH"), ("BU", "YE")]
    for n, (tone, tracer) in enumerate(tones):
        y = 250 + n * 44
        path = [(-20, y + 30), (340, y - 14), (760, y + 22), (1300, y - 26)]
        bench.wire(path, tone, 26, tracer)
        if n == 3:  # the wire that was hot: charred, blistered, copper showing
            line = bend(path)
            hot = [p for p in line if 420 < p[0] < 960]
            bench.strip(hot, INKS["CHAR"], 30)
            for point in hot[::2]:
                spot = (point[0], point[1] + bench.random.uniform(-13, 13))
                tone = bench.random.choice(("#1b110b", "#4a2c1a", "#5d3b24"))
                bench.blot(spot, bench.random.uniform(3, 9), tone)
            bench.strip([p for p in line if 650 < p[0] < 720], INKS["CU"], 12)
        if n in (2, 4):  # its neighbours took some of it
            line = bend(path)
            for point in [p for p in line if 560 < p[0] < 800][::3]:
                down = 9 if n == 2 else -9
                bench.blot((point[0], point[1] + down), bench.random.uniform(3, 6), "#4a2c1a")
    bench.rule(700, 8.0)
    return bench.done("burnt")


def cut_pair() -> Picture:
    bench = Bench(2)
    bench.wire([(-20, 300), (300, 330), (620, 290), (760, 300)], "PK", 24, "BK")
    bench.strands((764, 300), 0.1, 34)
    bench.wire([(-20, 420), (280, 400), (560, 440), (790, 424)], "GN", 20, "RD")
    bench.strands((794, 424), -0.2, 30)
    tape = bend([(452, 262), (470, 350), (462, 470)])
    bench.strip(tape, "#8f1914", 92)
    bench.strip(tape, "#b3261e", 84)
    for shift in (-24, 6, 30):
        bench.strip([(x + shift, y) for x, y in tape], "#93201a", 2)
    bench.rule(700, 6.0)
    return bench.done("cut pair")


def bad_repair() -> Picture:
    bench = Bench(3)
    bench.wire([(-20, 480), (300, 430), (520, 420)], "BN", 24)
    bench.wire([(760, 400), (980, 380), (1300, 420)], "BN", 24)
    left, right = (
        bend([(520, 420), (640, 410), (770, 398)]),
        bend([(510, 412), (640, 402), (760, 402)]),
    )
    for n, line in enumerate((left, right)):
        twisted = [(x, y + 9 * math.sin(x / 12 + n * math.pi)) for x, y in line]
        bench.strip(twisted, "#7d4b28", 9)
        bench.strip(twisted, INKS["CU"], 6)
    for point in left[::8]:
        bench.blot((point[0], point[1] + 6), 5, "#4f8f74")
    bench.strip(bend([(420, 560), (560, 540), (700, 590), (860, 560)]), "#2a2622", 64)
    bench.strip(bend([(420, 540), (560, 520), (700, 570), (860, 540)]), "#3a352f", 4)
    bench.rule(700, 10.0)
    return bench.done("bad repair")


def breakout() -> Picture:
    bench = Bench(4)
    for n, tone in enumerate(("BN", "RD", "BK", "GN", "BU")):
        lift = n * 10
        bench.wire([(560, 380 + lift), (820, 300 + n * 34), (1300, 180 + n * 60)], tone, 14)
        bench.wire([(560, 380 + lift), (760, 520 + n * 16), (1080, 900 + n * 10)], tone, 12)
    sleeve = bend([(-20, 400), (260, 420), (600, 400)])
    bench.strip([(x + 5, y + 9) for x, y in sleeve], "#8d7f68", 104)
    bench.strip(sleeve, "#2b2926", 98)
    for n in range(0, len(sleeve), 2):
        x, y = sleeve[n]
        bench.strip([(x - 14, y - 46), (x + 14, y + 46)], "#46423c", 2)
        bench.strip([(x + 14, y - 46), (x - 14, y + 46)], "#3a3630", 2)
    bench.strip([(598, 340), (606, 462)], "#191613", 40)
    bench.rule(716, 4.0)
    return bench.done("breakout")


def photos() -> list[tuple[Picture, Photo]]:
    """Return the pictures with what is said of them."""
    plan = (
        (
            burnt(),
            "X1",
            "2026-10-31T10:28:00+01:00",
            "Heater feed, roof to dash",
            (
                Mark("arrow", 0.70, 0.20, 0.54, 0.455, "copper shows"),
                Mark("length", 0.329, 0.66, 0.752, 0.66, "", 0.068),
                Mark("circle", 0.565, 0.515, 0.60, 0.515, "neighbour scorched"),
            ),
        ),
        (
            cut_pair(),
            "N17",
            "2026-10-31T09:38:00+01:00",
            "Cut with pliers, under red tape",
            (Mark("circle", 0.61, 0.42, 0.70, 0.52, "what were these?"),),
        ),
        (
            bad_repair(),
            "X5",
            "2026-10-31T11:05:00+01:00",
            "Twisted and taped, green already",
            (
                Mark("length", 0.40, 0.58, 0.60, 0.58, "", 0.026),
                Mark("arrow", 0.62, 0.30, 0.52, 0.455, "no crimp, no solder"),
            ),
        ),
        (breakout(), "N2", "2026-10-31T09:20:00+01:00", "As it lay, before it was opened", ()),
    )
    made = []
    for n, (picture, on, at, text, marks) in enumerate(plan, start=1):
        size = picture.width, picture.height
        one = Photo(f"P{n}", f"photos/demo-{n}.jpg", *size, at, on, text, "Mirel", "Survey", marks)
        made.append((picture, one))
    return made
