"""How many layers of which filter a picture needs: the subtractive mixture that comes nearest to its colour.

Behind a wall lie bands, one for each filter, of so many layers; where a filter is not laid, the wall's own material
fills its band. Light that passes is the product of what passes each part (Bouguer, Lambert and Beer's law), and the
wall in front, as thick as it need be, makes it as bright as it should be.
"""

from dataclasses import dataclass
from functools import cached_property
from itertools import product
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.colour.oklab import TO_LAB, TO_LMS, oklab_of_light
from nebrel.core.errors import BadValueError
from nebrel.core.jit import compiled
from nebrel.core.tinted.filters import MOST_FILTERS, ColourFilter

MOST_LAYERS = 10
MOST_MIXTURES = 5000
# A layer more is laid where it brings the colour nearer by so much, squared in OKLab; 0.02 is about what the eye sees.
PRICE = 1e-4
# A place that is further off, squared in OKLab, has a colour out of reach; passed on, it would run over others.
WITHIN_REACH = 0.07**2
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class FilterBands:
    """Bands of filters behind a wall, the first lowest.

    Attributes:
        filters: 1 to 4 of them.
        layers: how many each can have.
        layer: height of one, mm.
        attenuation: of what fills the bands elsewhere, per mm.
    """

    filters: tuple[ColourFilter, ...]
    layers: int
    layer: float
    attenuation: float

    def __post_init__(self) -> None:
        if not 1 <= len(self.filters) <= MOST_FILTERS:
            raise BadValueError(f"{len(self.filters)} colours are chosen; 1 to {MOST_FILTERS} are accepted.")
        if len(self.mixtures) > MOST_MIXTURES:
            raise BadValueError(
                f"{len(self.filters)} colours of {self.layers} layers make {len(self.mixtures)} mixtures; "
                f"up to {MOST_MIXTURES} are accepted, so fewer layers or colours are needed."
            )

    @property
    def height(self) -> float:
        """Of all bands together, mm."""
        return len(self.filters) * self.layers * self.layer

    @cached_property
    def mixtures(self) -> NDArray[np.int64]:
        """Layers of every filter in every mixture, int64 (J, K); those of fewer layers come first."""
        every = np.array(list(product(range(self.layers + 1), repeat=len(self.filters))), dtype=np.int64)
        return every[np.argsort(every.sum(axis=1), kind="stable")]

    def light(self, thickness: NDArray[np.floating]) -> Floats:
        """Red, green and blue light that passes filters of so many mm each, as shares of what passes the bare bands.

        Args:
            thickness: float (…, K) mm.

        Returns:
            float64 (…, 3); above 1 where a filter keeps back less than what it takes the place of.
        """
        kept = np.zeros((*thickness.shape[:-1], 3))
        for at, each in enumerate(self.filters):
            kept += each.density(thickness[..., at]) - self.attenuation * thickness[..., at, np.newaxis]
        return np.exp(-kept)


def choose_mixtures(wanted: Floats, bands: FilterBands, contrast: float, spread: bool = False) -> NDArray[np.uint8]:
    """Layers of every filter that come nearest to the colours wanted, as the eye sees them.

    Every mixture is tried, with the wall in front as dark as suits it best. In OKLab (Ottosson 2020) a colour of s
    times the light is the same times the cube root of s, so that the best share is a projection.

    Args:
        wanted: float64 (H, W, 3) linear sRGB, white 1.
        bands: what can be mixed.
        contrast: how many times darker than its thinnest place the wall in front can be.
        spread: whether what a place is off is made up for by those beside and below it, so that the light of many
            together has the colour wanted (Floyd and Steinberg, "An Adaptive Algorithm for Spatial Greyscale", 1976).

    Returns:
        uint8 (H, W, K).
    """
    mixtures = bands.mixtures
    light = bands.light(mixtures * bands.layer)
    table = _Mixtures(light, oklab_of_light(light), PRICE * mixtures.sum(axis=1), contrast ** (-1 / 3))
    found = np.empty(wanted.shape[:2], dtype=np.int64)
    if spread:
        _spread(wanted.copy(), table, TO_LMS, TO_LAB, found)
    else:
        _nearest_each(oklab_of_light(wanted), table, found)
    return mixtures[found].astype(np.uint8)


class _Mixtures(NamedTuple):
    """Light and OKLab of mixtures, (J, 3), what each costs, (J,), and the least share that passes the wall in front,
    its cube root taken."""

    light: Floats
    lab: Floats
    price: Floats
    least: float


@compiled
def _nearest(light, green, blue, table):
    """Number of the mixture nearest to a colour in OKLab, the cube root of the share that is to pass before it, and how
    far it is then, squared."""
    lab, price = table.lab, table.price
    best, found, passing = np.inf, 0, 1.0
    for j in range(len(lab)):
        if price[j] >= best:
            continue
        own = lab[j, 0] * lab[j, 0] + lab[j, 1] * lab[j, 1] + lab[j, 2] * lab[j, 2]
        both = lab[j, 0] * light + lab[j, 1] * green + lab[j, 2] * blue
        share = min(1.0, max(table.least, both / own))
        away = (share * lab[j, 0] - light) ** 2 + (share * lab[j, 1] - green) ** 2 + (share * lab[j, 2] - blue) ** 2
        if away + price[j] < best:
            best, found, passing = away + price[j], j, share
    return found, passing, best


@compiled
def _nearest_each(colours, table, found):
    for row in range(found.shape[0]):
        for column in range(found.shape[1]):
            light, green, blue = colours[row, column]
            found[row, column] = _nearest(light, green, blue, table)[0]


@compiled
def _spread(wanted, table, to_lms, to_lab, found):
    """Row by row, every other one backwards, each passing on what it is off; `wanted` is used up."""
    rows, columns = found.shape
    cone = np.empty(3)
    for row in range(rows):
        ahead = 1 if row % 2 == 0 else -1
        for step in range(columns):
            column = step if ahead == 1 else columns - 1 - step
            asked = wanted[row, column]
            for i in range(3):
                cone[i] = np.cbrt(max(0.0, to_lms[i, 0] * asked[0] + to_lms[i, 1] * asked[1] + to_lms[i, 2] * asked[2]))
            light, green, blue = to_lab @ cone
            number, share, away = _nearest(light, green, blue, table)
            found[row, column] = number
            if away > WITHIN_REACH:
                continue
            for part in range(3):
                off = asked[part] - share**3 * table.light[number, part]
                if 0 <= column + ahead < columns:
                    wanted[row, column + ahead, part] += off * 7 / 16
                if row + 1 < rows:
                    wanted[row + 1, column, part] += off * 5 / 16
                    if 0 <= column - ahead < columns:
                        wanted[row + 1, column - ahead, part] += off * 3 / 16
                    if 0 <= column + ahead < columns:
                        wanted[row + 1, column + ahead, part] += off / 16
