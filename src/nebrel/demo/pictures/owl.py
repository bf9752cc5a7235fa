"""A plain drawing of a little owl, cut out: flat colours that overlap each other."""

import numpy as np

from nebrel.demo.pictures.stamps import Grid

WIDTH_PX, HEIGHT_PX = 900, 1060
BROWN, DARK, CREAM, OCHRE, INK, WHITE = (
    (0.55, 0.41, 0.29), (0.36, 0.26, 0.19), (0.91, 0.83, 0.69),
    (0.85, 0.58, 0.21), (0.13, 0.12, 0.12), (0.97, 0.96, 0.93),
)  # fmt: skip


def draw_owl() -> tuple[np.ndarray, Grid]:
    """Colours float64 (1060, 900, 3) and coverage float64 (1060, 900), both in 0..1."""
    rows, columns = np.mgrid[0:HEIGHT_PX, 0:WIDTH_PX].astype(np.float64)
    x, y = columns - 450, 560 - rows
    aside = np.abs(x)
    colours, coverage = np.zeros((HEIGHT_PX, WIDTH_PX, 3)), np.zeros((HEIGHT_PX, WIDTH_PX))

    def lay(inside: Grid, colour: tuple[float, float, float]) -> None:
        """Colour over what is there, its edge a pixel soft; `inside` is the distance from the edge, px."""
        cover = np.clip(inside + 0.5, 0, 1)
        colours[:] = colours * (1 - cover[..., np.newaxis]) + np.array(colour) * cover[..., np.newaxis]
        np.maximum(coverage, cover, out=coverage)

    def oval(across: float, up: float, wide: float, tall: float, lean: float = 0.0, of: Grid = x) -> Grid:
        """Distance inside an ellipse, nearly."""
        turn = np.deg2rad(lean)
        u = (of - across) * np.cos(turn) + (y - up) * np.sin(turn)
        v = -(of - across) * np.sin(turn) + (y - up) * np.cos(turn)
        away = np.hypot(u / wide, v / tall)
        return np.asarray((1 - away) * min(wide, tall))

    for toe in (-1, 0, 1):
        lay(oval(110 + 46 * toe, -415, 24, 52, 12 * toe, aside), OCHRE)
    lay(_triangle(aside, y, (95, 310), (262, 300), (236, 470)), BROWN)
    lay(oval(0, -90, 290, 325), BROWN)
    lay(oval(0, 205, 262, 200), BROWN)
    lay(oval(0, -150, 185, 235), CREAM)
    for row, count in ((0, 2), (1, 3), (2, 4), (3, 3)):
        for place in range(count):
            lay(oval(74 * (place - (count - 1) / 2), -30 - 78 * row, 17, 25), BROWN)
    lay(oval(238, -110, 92, 250, -9, aside), DARK)
    lay(oval(108, 225, 116, 116, of=aside), CREAM)
    lay(oval(108, 225, 82, 82, of=aside), OCHRE)
    lay(oval(108, 225, 52, 52, of=aside), INK)
    lay(oval(90, 246, 16, 16, of=aside), WHITE)
    lay(_triangle(aside, y, (-46, 196), (46, 196), (0, 92)), DARK)
    return colours, coverage


def _triangle(x: Grid, y: Grid, *corners: tuple[float, float]) -> Grid:
    """Distance inside a triangle, whichever way round its corners run."""
    sides = []
    for (ax, ay), (bx, by) in zip(corners, (*corners[1:], corners[0]), strict=True):
        sides.append(((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / np.hypot(bx - ax, by - ay))
    return np.asarray(np.maximum(np.minimum.reduce(sides), np.minimum.reduce([-side for side in sides])))
