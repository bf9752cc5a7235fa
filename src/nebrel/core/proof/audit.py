"""What to know about a picture before it costs a print: measures of `core.picture.audit`, judged in mm."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

from nebrel.core.picture import Picture
from nebrel.core.picture import audit as measures
from nebrel.core.picture.ink import drawn_ink
from nebrel.core.picture.light_and_paint import dark_inside_bright
from nebrel.core.picture.ops.purify import count_specks
from nebrel.core.picture.ops.soften import noise_level
from nebrel.core.picture.resample import shrink_to
from nebrel.core.progress_estimate import beating
from nebrel.core.proof.finding import Finding, Fix

ENOUGH_LEVELS = 200
POSTER_LEVELS = 24
TERRACE_RUN = 4.0
TERRACE_SLOPES = 0.004
PEAK_SHARE = 0.1
NEARLY = 0.2
UNEVEN = 0.12
NOISE = 0.006
BLOCKS = 1.4
TWO_TONED = 0.86
CLIPPED_SHARE = 0.01
SPECKS = 3
FINER_THAN_SEEN = 4.0
# A picture of more pixels is looked over smaller.
MOST_PIXELS, PIXELS_A_SECOND = 2**26, 4e7
SEEN_PER_LINE = 3.0


@dataclass(frozen=True)
class Ground:
    """What a picture is judged for.

    Attributes:
        relief: from black to white, mm.
        tall: which tones stand tall.
        mm_per_px: distance between pixels on the piece.
        line: width of the thinnest line that the maker draws, mm.
        layer: height of a layer, mm.
    """

    relief: float
    tall: Literal["bright", "dark"]
    mm_per_px: float
    line: float
    layer: float


def audit_picture(
    picture: Picture, ground: Ground, progress: Callable[[float], None] = lambda _: None
) -> tuple[Finding, ...]:
    """Findings about the prepared picture, in the order in which they are best mended.

    One of more than `MOST_PIXELS` is looked over smaller, which is told.
    """
    if picture.tones.size > MOST_PIXELS:
        smaller = shrink_to(picture, int(max(picture.shape) * (MOST_PIXELS / picture.tones.size) ** 0.5))
        times = (picture.shape[1] - 1) / (smaller.shape[1] - 1)
        coarser = replace(ground, mm_per_px=ground.mm_per_px * times)
        return (*audit_picture(smaller, coarser, progress), _looked_smaller(picture, smaller))
    looks = (brightness, _noise, _blocks, _background, _nearly, _find_clipping, _levels, _specks, _strokes, _pixels)
    found: list[Finding] = []
    for done, look in enumerate(looks):

        def part_done(part: float, done: int = done) -> None:
            progress((done + part) / len(looks))

        with beating(part_done, 1.0, picture.tones.size / PIXELS_A_SECOND):
            found.extend(look(picture, ground))
    progress(1.0)
    return tuple(found)


def _looked_smaller(picture: Picture, smaller: Picture) -> Finding:
    rows, columns = picture.shape
    return Finding(
        "note",
        f"The picture of {columns:,} × {rows:,} pixels was looked over at {smaller.shape[1]:,} × {smaller.shape[0]:,}.",
        "Faults as small as its pixels may not be told; the solid is built from all of them, and measured against all.",
        "looked-smaller",
    )


def brightness(picture: Picture, ground: Ground) -> list[Finding]:
    """Whether tones follow light and paint instead of form; colours count where the picture has any."""
    dark = dark_inside_bright(picture)
    if dark is None:
        return []
    deep = dark.depth * ground.relief
    what = "sink in" if ground.tall == "bright" else "stand out"
    return [
        Finding(
            "caution",
            f"Brightness is not height: {dark.share:.0%} of the picture is narrow dark places amid brighter ones, such "
            f"as hair, eyes or shadows; they {what} by up to {deep:.2f} mm.",
            "Tones of a photograph follow light and paint, not form. A lithophane shows it as it is, a held-back "
            "relief keeps its detail shallow, and a figure gets its depth from the outline.",
            "brightness-not-height",
            value=round(dark.share * 100, 1),
            unit="%",
            fix=Fix("choose", {}, "See what else it can be"),
        )
    ]


def _noise(picture: Picture, ground: Ground) -> list[Finding]:
    level = noise_level(picture)
    if level < NOISE or measures.count_levels(picture).count <= POSTER_LEVELS:
        return []
    rough = 2 * level * ground.relief
    return [
        Finding(
            "caution",
            f"Noise of {level:.1%} of the tones makes the surface {rough:.2f} mm rough.",
            "It looks like sand on every flat part and makes the file heavy; cleaned, the picture keeps its edges.",
            "noise",
            value=round(level * 100, 2),
            unit="%",
            fix=Fix("denoise", {"strength": round(min(0.5, 2.2 * level), 3)}, "Clean the noise"),
        )
    ]


def _blocks(picture: Picture, ground: Ground) -> list[Finding]:
    ratio = measures.block_steps(picture)
    if ratio < BLOCKS:
        return []
    return [
        Finding(
            "caution",
            f"JPEG blocks show: steps every 8 pixels are {ratio:.1f} times those between.",
            f"On the piece that is a grid of {8 * ground.mm_per_px:.2f} mm squares.",
            "jpeg-blocks",
            value=round(ratio, 2),
            unit="×",
            fix=Fix("deblock", {}, "Take the blocks out"),
        )
    ]


def _background(picture: Picture, ground: Ground) -> list[Finding]:
    light = measures.light_on_sheet(picture)
    if light is not None and light[1] - light[0] > UNEVEN:
        slope = (light[1] - light[0]) * ground.relief
        return [
            Finding(
                "caution",
                f"The light on the sheet runs from {light[0]:.0%} to {light[1]:.0%}; its ground would slope by "
                f"{slope:.2f} mm.",
                "Shadow and lamp light become relief too; evened out, the sheet is one plain ground.",
                "busy-background",
                value=round((light[1] - light[0]) * 100, 1),
                unit="%",
                fix=Fix("flatten-light", {"sheet": "bright" if sum(light) >= 1 else "dark"}, "Even out the light"),
            )
        ]
    rim = measures.look_at_rim(picture)
    if not 0.5 <= rim.alike <= 0.92:
        return []
    return [
        Finding(
            "note",
            f"The background is not plain: {1 - rim.alike:.0%} of the rim differs from the rest.",
            "Stains, shadows and edges of paper become relief too. Even out the light, crop, or cut the subject out.",
            "busy-background",
            value=round((1 - rim.alike) * 100, 1),
            unit="%",
            fix=Fix("flatten-light", {"sheet": "bright" if rim.tone >= 0.5 else "dark"}, "Even out the light"),
        )
    ]


def _nearly(picture: Picture, ground: Ground) -> list[Finding]:
    found = []
    for code, low, high, end in (("near-black", 0.0, NEARLY, 0.0), ("near-white", 1 - NEARLY, 1.0, 1.0)):
        peak = measures.peak_between(picture, low, high)
        inside = low + 0.004 < peak.tone < high - 0.004
        if peak.share < PEAK_SHARE or not inside or peak.high - peak.low > NEARLY:
            continue
        away = abs(peak.tone - end) * ground.relief
        high_side = (ground.tall == "bright") == (end == 1.0)
        height = f"it would stay {away:.2f} mm below the top" if high_side else f"it would stand {away:.2f} mm tall"
        colour = "Nearly black" if end == 0 else "Nearly white"
        width = peak.high if end == 0 else 1 - peak.low
        found.append(
            Finding(
                "caution",
                f"{colour} gray covers {peak.share:.0%} of the picture; {height}.",
                f"What should be {'black' if end == 0 else 'white'} is not; snapped, it becomes flat and clean.",
                code,
                value=round(peak.share * 100, 1),
                unit="%",
                fix=Fix(
                    "snap",
                    {"black": 0.0, "white": 0.0, ("black" if end == 0 else "white"): round(min(0.5, width + 0.01), 3)},
                    f"Snap to {'black' if end == 0 else 'white'}",
                ),
            )
        )
    return found


def _find_clipping(picture: Picture, ground: Ground) -> list[Finding]:
    ends = measures.clipping(picture)
    lost = 0.0
    for share, near in ((ends.black, ends.near_black), (ends.white, ends.near_white)):
        if share >= CLIPPED_SHARE and near >= max(0.01, 0.2 * share):
            lost += share
    if lost == 0:
        return []
    return [
        Finding(
            "caution",
            f"{lost:.0%} of the picture ran into pure black or white; slopes end there in flat patches.",
            "What was lost cannot be computed back; a softer exposure or another scan keeps it.",
            "clipped",
            value=round(lost * 100, 1),
            unit="%",
        )
    ]


def _levels(picture: Picture, ground: Ground) -> list[Finding]:
    levels = measures.count_levels(picture)
    step = levels.step * ground.relief
    found = []
    holds = 2**picture.facts.bit_depth
    few = min(ENOUGH_LEVELS, holds * 0.75) if picture.facts.bit_depth <= 8 else 2 * ENOUGH_LEVELS
    smooth = levels.slopes > TERRACE_SLOPES
    if POSTER_LEVELS < levels.count < few and smooth:
        found.append(
            Finding(
                "note",
                f"The picture has {levels.count} different tones of {holds:,} that its {picture.facts.bit_depth} bits "
                f"could hold; one step is {step:.3f} mm.",
                "Stretched or converted pictures have gaps between their tones; even slopes need more of them.",
                "few-levels",
                value=float(levels.count),
                unit="levels",
                fix=Fix("deband", {"levels": _whole_levels(levels.step)}, "Smooth the steps"),
            )
        )
    if smooth and levels.flat_run > TERRACE_RUN and levels.count > POSTER_LEVELS and step > ground.layer / 20:
        found.append(
            Finding(
                "caution" if step > ground.layer / 4 else "note",
                f"Slopes are terraces: steps of {step:.3f} mm, {levels.flat_run:.0f} pixels apart.",
                "Raking light shows every one of them. De-banding turns them into slopes and leaves edges alone.",
                "terracing",
                value=round(step, 4),
                unit="mm",
                fix=Fix("deband", {"levels": _whole_levels(levels.step)}, "Turn terraces into slopes"),
            )
        )
    return found


def _whole_levels(step: float) -> int:
    return int(max(4, min(4096, round(1 / max(step, 1e-4)) + 1)))


def _specks(picture: Picture, ground: Ground) -> list[Finding]:
    if measures.two_toned(picture) < TWO_TONED:
        return []
    area = max(0.1, 1.5 * ground.line**2)
    count = count_specks(picture, area / ground.mm_per_px**2)
    if count < SPECKS:
        return []
    return [
        Finding(
            "caution",
            f"{count:,} specks and pinholes are smaller than {area:.2f} mm².",
            "Each becomes a pimple or a pit that the maker cannot form.",
            "specks",
            value=float(count),
            unit="islands",
            fix=Fix("specks", {"area_mm2": round(area, 2)}, "Fill them"),
        )
    ]


def _strokes(picture: Picture, ground: Ground) -> list[Finding]:
    if measures.two_toned(picture) < TWO_TONED:
        return []
    found = []
    least = 4 * ground.line / ground.mm_per_px
    ink = drawn_ink(picture)
    for code, what, widths, by in zip(
        ("thin-stroke", "thin-gap"), ("stroke", "gap"), measures.measure_strokes(picture), (1, -1), strict=True
    ):
        thinnest = widths.thinnest(least)
        if thinnest is None or thinnest[0] * ground.mm_per_px >= ground.line:
            continue
        width, (column, row) = thinnest[0] * ground.mm_per_px, thinnest[1]
        more = round(min(10.0, 1.05 * (ground.line - width) + ground.mm_per_px), 2)
        found.append(
            Finding(
                "caution",
                f"The thinnest {what} is {width:.2f} mm wide; your maker draws lines of {ground.line:.3g} mm.",
                "Thinner strokes come out broken or not at all."
                if by > 0
                else "Narrower gaps close up, and what they part grows together.",
                code,
                where=(column * ground.mm_per_px, (picture.shape[0] - 1 - row) * ground.mm_per_px, 0.0),
                value=round(width, 3),
                unit="mm",
                fix=Fix("strokes", {"by_mm": by * more, "ink": ink}, "Thicken the strokes" if by > 0 else "Thin them"),
            )
        )
    return found


def _pixels(picture: Picture, ground: Ground) -> list[Finding]:
    pitch = ground.mm_per_px
    if pitch > ground.line:
        return [
            Finding(
                "caution",
                f"One pixel is {pitch:.2f} mm, wider than the {ground.line:g} mm line of your maker.",
                "Single pixels will show as stairs; a picture with more pixels, or a smaller piece, is smoother.",
                "low-resolution",
                value=round(pitch, 3),
                unit="mm",
                fix=Fix("resample", {"to": "4x" if pitch > 2 * ground.line else "2x"}, "Make pixels finer"),
            )
        ]
    if ground.line / pitch > FINER_THAN_SEEN:
        seen = ground.line / SEEN_PER_LINE
        columns = round((picture.shape[1] - 1) * pitch / seen) + 1
        return [
            Finding(
                "note",
                f"One pixel is {pitch:.3f} mm; your maker draws lines of {ground.line:.3g} mm. "
                f"The picture may shrink to {columns:,} pixels across unseen.",
                "Detail that fine will not be seen; a smaller picture works faster, a larger piece shows more.",
                "oversampled",
                value=round(ground.line / pitch, 2),
                unit="×",
                fix=Fix("resample", {"to": "width", "width_px": columns}, f"Shrink to {columns:,} px"),
            )
        ]
    return []
