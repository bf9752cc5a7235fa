"""A snail in ink on paper, and the same sheet as a telephone photographs it."""

import io
import math

import cv2
import numpy as np
from PIL import Image, ImageDraw

from nebrel.demo.pictures.stamps import Grid

WIDTH, HEIGHT = 1600, 1200
_FINER = 2
Path = list[tuple[float, float, float]]


def draw_sketch() -> Grid:
    """Ink 0 to paper 1, float64 `(HEIGHT, WIDTH)`."""
    sheet = Image.new("L", (WIDTH * _FINER, HEIGHT * _FINER), 255)
    pen = ImageDraw.Draw(sheet)
    for path in (*_shell(), *_body(), *_ground()):
        _ink(pen, path)
    small = sheet.resize((WIDTH, HEIGHT), Image.Resampling.BOX)
    return np.asarray(small, dtype=np.float64) / 255


def photograph(seed: int = 12) -> bytes:
    """The sheet as a JPEG: lamp from one side, gray paper, a fold, a stray pencil mark, camera noise."""
    rng = np.random.default_rng(seed)
    sheet = Image.fromarray(np.round(draw_sketch() * 255).astype(np.uint8))
    pen = ImageDraw.Draw(sheet)
    pen.line([(1330, 250), (1395, 205), (1450, 240)], fill=90, width=9, joint="curve")
    ink = np.asarray(sheet, dtype=np.float64) / 255
    rows, columns = np.mgrid[0:HEIGHT, 0:WIDTH]
    x, y = columns / WIDTH, rows / HEIGHT
    light = 0.9 - 0.3 * x - 0.14 * y - 0.1 * ((x - 0.4) ** 2 + (y - 0.4) ** 2)
    fold = 1 - 0.06 * np.exp(-(((x - 0.87 + 0.03 * y) / 0.004) ** 2))
    fibre = cv2.GaussianBlur(rng.normal(0, 1, (HEIGHT, WIDTH)), (0, 0), 3)
    gray = cv2.GaussianBlur((0.12 + 0.88 * ink) * light * fold, (0, 0), 1.1) + 0.02 * fibre
    warm = np.array([1.0, 0.975, 0.91])
    photo = gray[..., None] * warm + rng.normal(0, 0.04, (HEIGHT, WIDTH, 3))
    file = io.BytesIO()
    Image.fromarray(np.round(np.clip(photo, 0, 1) * 255).astype(np.uint8)).save(file, "JPEG", quality=86)
    return file.getvalue()


def _ink(pen: ImageDraw.ImageDraw, path: Path) -> None:
    for x, y, width in path:
        radius = width * _FINER / 2
        cx, cy = x * _FINER, y * _FINER
        pen.ellipse([cx - radius, cy - radius, cx + radius, cy + radius], fill=0)


def _shell() -> list[Path]:
    spiral: Path = []
    for step in range(2600):
        turn = step / 2600 * 3.15 * 2 * math.pi
        radius = 24 * math.exp(turn * 0.132)
        x, y = 870 + radius * math.cos(turn + 0.5), 560 + radius * math.sin(turn + 0.5)
        spiral.append((x, y, 11 + radius * 0.035))
    ribs: list[Path] = []
    for number in range(34):
        turn = (0.95 + number * 0.062) * 2 * math.pi
        outer, inner = 24 * math.exp(turn * 0.132), 24 * math.exp((turn - 2 * math.pi) * 0.132)
        span = max(8.0, outer - inner)
        rib: Path = []
        for part in np.linspace(0.12, 0.5 + 0.15 * math.sin(number * 2.1), 60):
            radius = outer - part * span
            bent = turn + 0.5 - 0.18 * part
            width = 8.0 * (1 - 0.65 * part)
            rib.append((870 + radius * math.cos(bent), 560 + radius * math.sin(bent), width))
        ribs.append(rib)
    return [spiral, *ribs]


def _body() -> list[Path]:
    def curve(points: list[tuple[float, float]], wide: float, thin: float) -> Path:
        ends = np.array([points[0], *points, points[-1]], dtype=float)
        path: Path = []
        total = len(points) - 1
        for at in range(total):
            a, b, c, d = ends[at : at + 4]
            for t in np.linspace(0, 1, 260):
                place = 0.5 * (
                    2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3
                )
                share = (at + t) / total
                path.append((float(place[0]), float(place[1]), wide + (thin - wide) * share))
        return path

    back = curve(
        [(925, 880), (760, 850), (640, 800), (520, 770), (430, 690), (370, 560), (300, 520), (235, 560), (230, 640)],
        15,
        15,
    )
    foot = curve([(230, 640), (260, 740), (330, 850), (520, 930), (900, 945), (1200, 930), (1420, 900)], 15, 12)
    tail = curve([(1420, 900), (1330, 850), (1220, 800), (1150, 770)], 12, 15)
    horns = [
        curve([(300, 525), (270, 430), (225, 350)], 13, 9),
        curve([(335, 540), (350, 440), (365, 340)], 13, 9),
    ]
    tips: list[Path] = [[(225, 345, 34)], [(366, 334, 34)]]
    return [back, foot, tail, *horns, *tips]


def _ground() -> list[Path]:
    blades: list[Path] = []
    for number in range(17):
        x = 180 + number * 78 + 20 * math.sin(number * 5.3)
        tall = 46 + 26 * math.sin(number * 2.7)
        lean = 24 * math.sin(number * 1.9)
        blades.append([(x + lean * t**2, 1040 - tall * t, 12 * (1 - 0.7 * t)) for t in np.linspace(0, 1, 80)])
    line: Path = [(140 + t * 1320, 1045 + 7 * math.sin(t * 19), 11) for t in np.linspace(0, 1, 1800)]
    return [line, *blades]
