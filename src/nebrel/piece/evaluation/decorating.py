"""From the recipes of decorations to what the core lays on a skin."""

from collections.abc import Callable
from typing import TypeVar

import numpy as np

from nebrel.core.mesh.affine import Affine
from nebrel.core.outline_files.read import read_drawing
from nebrel.core.picture import Picture, shrink_to
from nebrel.core.proof.finding import CHANGE, Fix
from nebrel.core.region.curves import figure_region
from nebrel.core.surface.art import TILE_SAMPLES, Art, Edge, Setting, art_of_picture, art_of_region
from nebrel.core.surface.colour import Looks
from nebrel.core.surface.laying import Decoration
from nebrel.core.surface.pick import Pick
from nebrel.piece.documents.worked import WorkedDocument
from nebrel.piece.parts.decoration import DecorationPart, DecorationPick
from nebrel.piece.parts.model_steps import RepairStep

ReadPicture = Callable[[str, str], Picture]
ReadSource = Callable[[str], bytes]
FINEST_CHORD_MM = 0.004
CHORD_SHARE = 1e-4
# Samples of a texture of outlines along its longer side, for looking at.
SKETCHED_TILE = 96
AnyWorked = TypeVar("AnyWorked", bound=WorkedDocument)


def art_for(decoration: DecorationPart, read_source: ReadSource, read_picture: ReadPicture, longest_px: int = 0) -> Art:
    """The art of a decoration; pictures with at most `longest_px` on the longer side unless that is 0."""
    art = decoration.art
    if art.kind == "outline":
        drawing = read_drawing(read_source(art.blob), "motif.svg")
        chord = max(FINEST_CHORD_MM, CHORD_SHARE * decoration.width_mm) * drawing.size[0] / decoration.width_mm
        return art_of_region(figure_region(drawing.figure, chord), decoration.width_mm)
    picture = read_picture(art.blob, art.name)
    small = shrink_to(picture, longest_px) if longest_px else picture
    return art_of_picture(small, decoration.width_mm, decoration.tall, decoration.effect == "both")


def lay_out(
    decoration: DecorationPart, read_source: ReadSource, read_picture: ReadPicture, longest_px: int = 0
) -> Decoration:
    """A decoration as the core takes it."""
    art = art_for(decoration, read_source, read_picture, longest_px)
    flat = decoration.effect in ("colour", "picture")
    setting = Setting(
        depth=-decoration.depth_mm if decoration.effect == "sink" else decoration.depth_mm,
        turn_deg=decoration.turn_deg,
        mirrored=decoration.mirror,
        edge=Edge(decoration.edge.profile, decoration.edge.width_mm, decoration.edge.side),
        overlap=decoration.overlap,
        tiled=decoration.tiled,
        flat=flat,
        tile_samples=SKETCHED_TILE if longest_px else TILE_SAMPLES,
        curves=decoration.curves,
    )
    pick = decoration.pick
    return Decoration(
        art=art,
        at=np.array(decoration.at),
        up=np.array(decoration.up),
        setting=setting,
        way=decoration.to_way(),
        copies=decoration.copies.to_core(),
        pick=Pick(
            kind=pick.kind,
            places=np.array(pick.places, dtype=np.float64).reshape(-1, 3),
            most_deg=pick.most_deg,
            radius=pick.radius_mm,
        ),
        looks=_looks(decoration, read_picture, longest_px),
        any_size=decoration.distort,
        strokes=tuple(np.array(stroke.places, dtype=np.float64) for stroke in decoration.grain),
    )


def _looks(decoration: DecorationPart, read_picture: ReadPicture, longest_px: int) -> Looks:
    if decoration.effect == "colour":
        red, green, blue = (int(decoration.colour[at : at + 2], 16) for at in (1, 3, 5))
        return Looks(colour=(red, green, blue, 255))
    if decoration.effect != "picture" or decoration.art.kind != "picture":
        return Looks()
    picture = read_picture(decoration.art.blob, decoration.art.name)
    picture = shrink_to(picture, longest_px) if longest_px else picture
    colours = picture.rgb if picture.rgb is not None else np.repeat(picture.tones[..., np.newaxis], 3, axis=2)
    return Looks(picture=colours)


def round_edges(document: WorkedDocument, decoration_id: str) -> Fix:
    """What lets one of the decorations go on round sharp edges."""
    decorations = [
        each.model_copy(update={"rim": "continue"} if each.id == decoration_id else {}).model_dump(mode="json")
        for each in document.decorations
    ]
    return Fix(CHANGE, {"decorations": decorations}, "Let it go on round the edge")


def repair_first(document: WorkedDocument) -> Fix | None:
    """A step that repairs the mesh before anything is laid on it; None where there is one."""
    if any(step.on and step.kind == "repair" for step in document.steps):
        return None
    steps = [step.model_dump(mode="json") for step in document.steps]
    taken = {step["id"] for step in steps}
    number = next(each for each in range(1, len(steps) + 2) if f"repair-{each}" not in taken)
    repair = RepairStep(id=f"repair-{number}").model_dump(mode="json")
    return Fix(CHANGE, {"steps": [*steps, repair]}, "Repair first")


def carried_along(document: AnyWorked, there: Affine) -> AnyWorked:
    """A document whose decorations and strokes are where a map of the mesh takes them, and sized with it."""
    scale = there.scale
    decorations = []

    def moved_pick(pick: DecorationPick) -> DecorationPick:
        places = tuple(there.place(spot) for spot in pick.places)
        return pick.model_copy(update={"places": places, "radius_mm": pick.radius_mm * scale})

    for each in document.decorations:
        changes: dict[str, object] = {
            "at": there.place(each.at),
            "up": there.direction(each.up),
            "along": None if each.along is None else there.direction(each.along),
            "width_mm": each.width_mm * scale,
            "copies": each.copies.model_copy(
                update={"across_mm": each.copies.across_mm * scale, "up_mm": each.copies.up_mm * scale}
            ),
            "mirror": each.mirror != there.mirrors,
            "turn_deg": -each.turn_deg if there.mirrors else each.turn_deg,
            "grain": tuple(
                stroke.model_copy(update={"places": tuple(there.place(spot) for spot in stroke.places)})
                for stroke in each.grain
            ),
            "pick": moved_pick(each.pick),
        }
        decorations.append(each.model_copy(update=changes))
    strokes = [
        each.model_copy(
            update={
                "places": tuple(there.place(spot) for spot in each.places),
                "radius_mm": each.radius_mm * scale,
                "amount_mm": each.amount_mm * scale,
                "region": moved_pick(each.region),
            }
        )
        for each in document.strokes
    ]
    return document.model_copy(update={"decorations": tuple(decorations), "strokes": tuple(strokes)})
