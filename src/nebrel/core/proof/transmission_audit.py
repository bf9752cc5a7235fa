"""Whether a lithophane can be printed so that its picture shows, and the recipe to print it by."""

import math
from dataclasses import dataclass

from nebrel.core.proof.contact import Contact
from nebrel.core.proof.finding import CHANGE, Finding, Fix
from nebrel.core.proof.makeable import Printer, bed_finding

LEAST_CONTRAST = 8.0
LEAST_GRAYS = 16
SHEET_RATIO, ROUND_RATIO = 8.0, 3.0
SPEED_MM_S, LAYER_CHANGE_S, TRAVEL_SHARE = 40.0, 1.5, 1.15
SAMPLES_A_DETAIL = 2.0
NOTABLE_SPARE = 2.0
# What leans less is printed without supports.
FREE_LEAN_DEG = 45.0
# How many lines wide what touches the bed is to be.
CONTACT_LINES = 2


@dataclass(frozen=True)
class Wall:
    """What is to be printed.

    Attributes:
        form: in words.
        size: width, depth and height as it stands or lies, mm.
        standing: whether it stands by itself.
        stance: how wide what it stands on is across its narrower way, mm; its height when printed standing.
        upright: its height when printed standing, mm.
        thinnest, thickest: mm.
        contrast: that the material reaches between them.
        shown_contrast: that the picture has in light, by `lit.shown_contrast`.
        tones_lost: share of the picture beyond that.
        pitch: mm between samples of the picture.
        cropped: share of the picture's height that the form has no room for.
        smallest_scale: size of the picture where it is smallest, against where it is true.
        seam_step: largest jump of tones where the ends of the picture meet, 0 where they do not.
        blanks: whether some of the picture is blank.
        steepest: how far the form leans from upright where it leans most, degrees.
        covered: how much of the picture's height has a bottom or a lid seat behind it, mm.
        contact: what it touches the bed with when it stands; None where that was not looked at.
        behind: height of the colour layers behind it, mm; they lie flat, and so does what has some.
    """

    form: str
    size: tuple[float, float, float]
    standing: bool
    stance: float
    upright: float
    thinnest: float
    thickest: float
    contrast: float
    shown_contrast: float
    tones_lost: float
    pitch: float
    cropped: float = 0.0
    smallest_scale: float = 1.0
    seam_step: float = 0.0
    blanks: bool = False
    steepest: float = 0.0
    covered: float = 0.0
    contact: Contact | None = None
    behind: float = 0.0


def smallest_detail(line: float, thinnest: float) -> float:
    """The smallest detail that shows in light, mm.

    A printed wall cannot change within less than a line, and light spreads by about half of the wall that it passes
    before it leaves; the two blurs add as independent ones do.
    """
    return math.hypot(line, thinnest / 2)


def transmission_findings(wall: Wall, printer: Printer) -> tuple[Finding, ...]:
    """What to know before printing a lithophane."""
    looks = (
        bed_finding(wall.size, printer), _thin(wall, printer), _contrast(wall), _detail(wall, printer),
        _layers(wall, printer), _wobble(wall), _find_crop(wall), _scale(wall), _seam(wall), _blanks(wall),
        _find_cover(wall), _bed_contact(wall, printer),
    )  # fmt: skip
    return tuple(finding for finding in looks if finding is not None)


def _thin(wall: Wall, printer: Printer) -> Finding | None:
    if wall.thinnest >= 1.5 * printer.line_width:
        return None
    return Finding(
        "caution",
        f"The thinnest wall is {wall.thinnest:g} mm, {wall.thinnest / printer.line_width:.1f} lines of "
        f"{printer.line_width:g} mm.",
        "Walls under a line and a half come out with gaps that shine through; a thicker one is safe.",
        "thin_wall", value=wall.thinnest, unit="mm",
    )  # fmt: skip


def _contrast(wall: Wall) -> Finding | None:
    if wall.shown_contrast >= LEAST_CONTRAST:
        return None
    why = (
        "a thicker thickest wall or a denser material gives more."
        if wall.contrast < LEAST_CONTRAST
        else f"the wall could show {wall.contrast:.0f}, but the picture's own tones lie close together."
    )
    return Finding(
        "caution",
        f"The brightest place is only {wall.shown_contrast:.1f} times as bright as the darkest.",
        f"Pictures look faded below eight; {why}",
        "contrast", value=round(wall.shown_contrast, 2),
    )  # fmt: skip


def _detail(wall: Wall, printer: Printer) -> Finding:
    detail = smallest_detail(printer.line_width, wall.thinnest)
    spare = (detail / SAMPLES_A_DETAIL / wall.pitch) ** 2
    fewer = f"{spare:.0f} times fewer pixels would look the same. " if spare >= NOTABLE_SPARE else ""
    coarse = wall.pitch > detail
    return Finding(
        "caution" if coarse else "note",
        f"At {printer.line_width:g} mm lines the smallest visible detail is {detail:.1f} mm"
        + (f", and the picture's pixels are {wall.pitch:.2f} mm." if coarse else "."),
        (fewer + "What is finer blurs into its surroundings; a larger piece or a finer nozzle shows more.")
        if not coarse else "The pixels will show as steps; a smaller piece or a picture with more pixels is better.",
        "detail", value=round(detail, 3), unit="mm",
    )  # fmt: skip


def _layers(wall: Wall, printer: Printer) -> Finding | None:
    if wall.standing:
        return None
    grays = (wall.thickest - wall.thinnest) / printer.layer
    return Finding(
        "caution" if grays < LEAST_GRAYS else "note",
        f"Printed lying, its {wall.thickest - wall.thinnest:.1f} mm are {grays:.0f} layers of {printer.layer:g} mm, "
        "so as many grays.",
        "Thinner layers give more; its colour layers have to lie."
        if wall.behind
        else "Printed standing on its edge it has no such steps, and its picture is smoother.",
        "layers", value=round(grays, 1),
    )  # fmt: skip


def _wobble(wall: Wall) -> Finding | None:
    if wall.behind:
        return None
    ratio = wall.upright / max(wall.stance, 1e-6)
    most = ROUND_RATIO if wall.standing and wall.stance > 12 else SHEET_RATIO
    if ratio <= most:
        return None
    needed = (wall.upright / most - wall.stance) / 2
    return Finding(
        "caution",
        f"Standing, it is {wall.upright:.0f} mm tall on {wall.stance:.1f} mm, {ratio:.0f} to 1.",
        f"It sways under the nozzle and shows it as bands; a foot that reaches {max(needed, 1):.0f} mm out holds it.",
        "wobble", value=round(ratio, 2),
    )  # fmt: skip


def _find_crop(wall: Wall) -> Finding | None:
    if wall.cropped < 0.005:
        return None
    return Finding(
        "caution",
        f"{wall.cropped:.0%} of the picture's height has no room on the form and is left out.",
        "Its width goes once round, so its height is given; a taller form or a wider picture shows all of it.",
        "cropped", value=round(100 * wall.cropped, 1), unit="%",
    )  # fmt: skip


def _scale(wall: Wall) -> Finding | None:
    if wall.smallest_scale > 0.97:
        return None
    return Finding(
        "note",
        f"Where it is smallest, the picture is {wall.smallest_scale:.0%} of its size.",
        "This form cannot be unrolled; shapes keep their angles everywhere, and only their size changes.",
        "scale", value=round(100 * wall.smallest_scale, 1), unit="%",
    )  # fmt: skip


def _seam(wall: Wall) -> Finding | None:
    if wall.seam_step < 0.1:
        return None
    return Finding(
        "note",
        f"Where the ends of the picture meet, its tones jump by up to {wall.seam_step:.0%}.",
        "The ends are eased into each other; a picture made for going round, or a wider easing, hides the seam.",
        "seam", value=round(100 * wall.seam_step, 1), unit="%",
    )  # fmt: skip


def _blanks(wall: Wall) -> Finding | None:
    if not wall.blanks:
        return None
    return Finding(
        "note", "Where the picture is blank, the wall is as thin as for white.",
        "A wall with holes would let the lamp itself be seen; crop the picture where that is not wanted.", "blanks",
    )  # fmt: skip


def _find_cover(wall: Wall) -> Finding | None:
    if wall.covered <= 0.02:
        return None
    return Finding(
        "caution", f"A bottom or lid seat stands behind {wall.covered:.1f} mm of the picture.",
        "No light comes through there; a border that much wider hides it.", "covered",
        value=round(wall.covered, 3), unit="mm",
    )  # fmt: skip


def _bed_contact(wall: Wall, printer: Printer) -> Finding | None:
    contact, wanted = wall.contact, CONTACT_LINES * printer.line_width
    if contact is None or contact.width >= wanted:
        return None
    fix = (
        Fix(CHANGE, {"parts": {"foot": {"on": True}}}, "Add a foot")
        if contact.cut is None
        else Fix(CHANGE, {"parts": {"flat": {"on": True, "depth_mm": contact.cut}}}, f"Flat of {contact.cut:g} mm")
    )
    return Finding(
        "caution",
        f"It touches the bed along a line, {contact.width:.2f} mm wide.",
        f"It would come loose; {wanted:.1f} mm, two lines, hold it: a flat below, a foot or a bottom gives them.",
        "contact", value=round(contact.width, 3), unit="mm", fix=fix,
    )  # fmt: skip


def recipe_card(
    title: str,
    wall: Wall,
    printer: Printer,
    volume_mm3: float,
    material: str,
    attenuation: float,
    colours: tuple[tuple[str, str], ...] = (),
) -> str:
    """How to print it, as plain text with lines of at most 76 letters; `colours` are rows about its colour layers."""
    layer = min(printer.layer, 0.16)
    tall = wall.size[2] if wall.behind else wall.upright
    layers = math.ceil(tall / layer)
    seconds = volume_mm3 / (printer.line_width * layer * SPEED_MM_S) * TRAVEL_SHARE + layers * LAYER_CHANGE_S
    hours, minutes = divmod(round(seconds / 60), 60)
    detail = smallest_detail(printer.line_width, wall.thinnest)
    stood = "on its lower edge, as it is shown" if wall.standing else "on its lower edge, picture upright"
    brim = not wall.behind and wall.upright / max(wall.stance, 1e-6) > 3
    rows = [
        ("Form", wall.form),
        ("Size", " x ".join(f"{side:.1f}" for side in wall.size) + " mm"),
        ("Wall", f"{wall.thinnest:g} to {wall.thickest:g} mm"),
        ("Material", f"{material}, {attenuation:.3g} per mm"),
        *colours,
        ("Stand it", "not: lay it on its back, colour layers first" if wall.behind else stood),
        ("Layer height", f"{layer:g} mm, {layers} layers"),
        ("Line width", f"{printer.line_width:g} mm"),
        ("Walls", "1"),
        ("Infill", "100 %, lines" if wall.behind else "100 %, lines, along the wall"),
        ("Speed", f"{SPEED_MM_S:g} mm/s or slower, even all over"),
        (
            "Supports",
            "none" if wall.steepest <= FREE_LEAN_DEG else f"inside, where it leans over {FREE_LEAN_DEG:g} degrees",
        ),
        ("Brim", "5 mm" if brim else "none needed"),
        ("Time", f"about {hours} h {minutes:02d} min at that speed"),
        ("Contrast", f"1 : {wall.shown_contrast:.0f} with the lamp behind"),
        ("Finest detail", f"{detail:.1f} mm"),
    ]
    width = max(len(name) for name, _ in rows)
    body = "\n".join(f"{name.ljust(width)}  {told}" for name, told in rows)
    return f"Print recipe for {title}\n\n{body}\n\nLight it evenly from behind, a hand's width away.\n"
