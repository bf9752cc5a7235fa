"""Taking away what should not become relief: noise, blocks of JPEG, terraces of 8-bit tones."""

from dataclasses import replace

import cv2
import numpy as np

from nebrel.core.jit import compiled
from nebrel.core.picture.picture import Picture, Tones

BLOCK_PX = 8


def gaussian(picture: Picture, sigma_px: float) -> Picture:
    """Gaussian blur over material only (normalised convolution, Knutsson and Westin 1993)."""
    if sigma_px < 0.05:
        return picture
    if picture.coverage.min() >= 0.5:
        return replace(picture, tones=np.asarray(_blur(picture.tones, sigma_px)))
    material = (picture.coverage >= 0.5).astype(np.float32)
    weight = _blur(material, sigma_px)
    mean = _blur(picture.tones * material, sigma_px) / np.maximum(weight, 1e-6)
    return replace(picture, tones=np.where(weight > 1e-6, mean, picture.tones))


def _blur(samples: Tones, sigma_px: float) -> Tones:
    return np.asarray(cv2.GaussianBlur(samples, (0, 0), sigma_px, borderType=cv2.BORDER_REPLICATE))


def median(picture: Picture, radius_px: float) -> Picture:
    """The median of a square window, `radius_px` to each side: removes dots, keeps edges; 16 bit deep."""
    radius = round(radius_px)
    if radius < 1:
        return picture
    levels = np.round(picture.tones * np.float32(65_535)).astype(np.uint16)
    if radius <= 2:
        found = cv2.medianBlur(levels, 2 * radius + 1)
    else:
        found = _sliding_median(np.pad(levels, radius, mode="edge"), radius)
    return replace(picture, tones=found.astype(np.float32) / np.float32(65_535))


@compiled
def _sliding_median(levels, radius):
    """Huang's sliding histogram (1979) on two levels of 256 bins, so 16 bits are kept."""
    rows, columns = levels.shape[0] - 2 * radius, levels.shape[1] - 2 * radius
    found = np.empty((rows, columns), dtype=np.uint16)
    size = 2 * radius + 1
    half = (size * size) // 2
    coarse = np.zeros(256, dtype=np.int32)
    fine = np.zeros(65536, dtype=np.int32)
    for y in range(rows):
        coarse[:] = 0
        for i in range(size):
            for j in range(size):
                value = levels[y + i, j]
                coarse[value >> 8] += 1
                fine[value] += 1
        for x in range(columns):
            if x > 0:
                for i in range(size):
                    old, new = levels[y + i, x - 1], levels[y + i, x + size - 1]
                    coarse[old >> 8] -= 1
                    fine[old] -= 1
                    coarse[new >> 8] += 1
                    fine[new] += 1
            below, block = 0, 0
            while below + coarse[block] <= half:
                below += coarse[block]
                block += 1
            value = block << 8
            while below + fine[value] <= half:
                below += fine[value]
                value += 1
            found[y, x] = value
        for i in range(size):
            for j in range(size):
                fine[levels[y + i, columns - 1 + j]] = 0
    return found


def keep_edges(picture: Picture, radius_px: float, strength: float) -> Picture:
    """Smooth flat parts and keep edges: the guided filter of the picture by itself (He, Sun and Tang 2013).

    Args:
        picture: to smooth.
        radius_px: reach.
        strength: differences of tone up to about this are smoothed away.
    """
    reach = max(1, round(radius_px))
    window = (2 * reach + 1, 2 * reach + 1)

    def mean(samples: Tones) -> Tones:
        return np.asarray(cv2.blur(samples, window, borderType=cv2.BORDER_REFLECT))

    tones = picture.tones
    average = mean(tones)
    variance = np.maximum(mean(tones * tones) - average * average, 0)
    gain = np.asarray(variance / (variance + np.float32(max(strength, 1e-4) ** 2)), dtype=np.float32)
    smooth = mean(gain) * tones + mean(average * (1 - gain))
    return replace(picture, tones=np.clip(smooth, 0, 1))


def non_local_means(picture: Picture, strength: float, reach_px: int = 4) -> Picture:
    """The mean of all places nearby that look alike (Buades, Coll and Morel 2005): noise goes, texture stays.

    Args:
        picture: to clean.
        strength: standard deviation of the noise, in tones.
        reach_px: how far away alike places are sought.
    """
    levels = np.round(picture.tones * np.float32(65_535)).astype(np.uint16)
    clean = cv2.fastNlMeansDenoising(
        levels,
        h=[float(max(strength, 1e-4) * 65_535)],
        templateWindowSize=5,
        searchWindowSize=2 * reach_px + 1,
        normType=cv2.NORM_L1,
    )
    return replace(picture, tones=clean.astype(np.float32) / np.float32(65_535))


def noise_level(picture: Picture) -> float:
    """Standard deviation of fine noise in tones, from the median of a Laplacian where the picture is quiet.

    Immerkær, "Fast noise variance estimation" (1996), with the median of the absolute response in place of its mean, so
    that edges count little.
    """
    kernel = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], dtype=np.float32)
    response = np.abs(cv2.filter2D(picture.tones, -1, kernel))[1:-1, 1:-1]
    inside = picture.coverage[1:-1, 1:-1] >= 0.5
    if inside.sum() < 100:
        return 0.0
    return float(np.median(response[inside]) / 0.6745 / 6)


def deblock(picture: Picture, strength: float, offset: tuple[int, int] = (0, 0)) -> Picture:
    """Take away the steps at the borders of JPEG's blocks of 8 × 8 pixels.

    A step at a block border, beyond what the slope on both sides explains, is spread over the four pixels on either
    side when it is smaller than `strength`; larger ones are edges and stay.

    Args:
        picture: in the pixels of its source.
        strength: largest step in tones that counts as an artefact.
        offset: column and row where the first block begins.
    """
    across = _across_blocks(picture.tones, np.float32(strength), offset[0])
    tones = _down_blocks(across, np.float32(strength), offset[1])
    return replace(picture, tones=np.clip(tones, 0, 1, out=tones))


@compiled
def _across_blocks(tones, strength, offset):
    result = tones.copy()
    rows, columns = tones.shape
    for y in range(rows):
        for x in range(offset % 8, columns, 8):
            if x < 4 or x + 4 > columns:
                continue
            left = tones[y, x - 1] - tones[y, x - 2]
            right = tones[y, x + 1] - tones[y, x]
            step = tones[y, x] - tones[y, x - 1] - (left + right) / 2
            if abs(step) < strength and abs(left) < strength and abs(right) < strength:
                for i in range(4):
                    share = step * (np.float32(3.5) - i) / np.float32(8)
                    result[y, x + i] -= share
                    result[y, x - 1 - i] += share
    return result


@compiled
def _down_blocks(tones, strength, offset):
    """As `_across_blocks`, one row of samples after the other."""
    result = tones.copy()
    rows, columns = tones.shape
    for y in range(offset % 8, rows, 8):
        if y < 4 or y + 4 > rows:
            continue
        for x in range(columns):
            above = tones[y - 1, x] - tones[y - 2, x]
            below = tones[y + 1, x] - tones[y, x]
            step = tones[y, x] - tones[y - 1, x] - (above + below) / 2
            if abs(step) < strength and abs(above) < strength and abs(below) < strength:
                for i in range(4):
                    share = step * (np.float32(3.5) - i) / np.float32(8)
                    result[y + i, x] -= share
                    result[y - 1 - i, x] += share
    return result


def deband(picture: Picture, levels: int = 255, reach_px: int = 32) -> Picture:
    """Even slopes in place of the terraces that few levels leave.

    Every tone may move by half a level at most, so an edge of more than a level stays where it is; within that, tones
    are averaged with those at ever smaller distances whose original differs by no more than one level. Diffusion under
    an interval constraint, with the reach halved from `reach_px` to 1.

    Args:
        picture: with tones that were rounded to whole levels.
        levels: number of steps between black and white, 255 for 8 bits.
        reach_px: half the width of the widest terrace that is smoothed away.
    """
    step = np.float32(1 / levels)
    tones = picture.tones
    distance = reach_px
    while distance >= 1:
        for _ in range(2):
            tones = _averaged_within(picture.tones, tones, step, distance)
        distance //= 2
    return replace(picture, tones=tones)


@compiled
def _averaged_within(target, tones, step, distance):
    rows, columns = target.shape
    result = np.empty_like(tones)
    reach = np.float32(1.25) * step
    half = step / np.float32(2)
    for y in range(rows):
        for x in range(columns):
            here = target[y, x]
            total, count = np.float32(0), 0
            for side in range(2):
                if side == 0:
                    if x < distance or x + distance >= columns:
                        continue
                    ay, ax, by, bx = y, x - distance, y, x + distance
                else:
                    if y < distance or y + distance >= rows:
                        continue
                    ay, ax, by, bx = y - distance, x, y + distance, x
                if abs(target[ay, ax] - here) <= reach and abs(target[by, bx] - here) <= reach:
                    total += tones[ay, ax] + tones[by, bx]
                    count += 2
            if count:
                mean = (2 * tones[y, x] + total) / (2 + count)
                result[y, x] = min(max(mean, here - half), here + half)
            else:
                result[y, x] = tones[y, x]
    return result
