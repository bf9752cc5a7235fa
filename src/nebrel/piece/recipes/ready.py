"""Recipes for the usual jobs of the trade, ready to be laid on a picture."""

from typing import Any

from nebrel.core.errors import NotFoundError
from nebrel.piece.recipes.recipe import Recipe

HANGING = {"kind": "hanging-hole", "diameter_mm": 4.0, "from_edge_mm": 6.0}
SCREWS = {"kind": "corner-holes", "diameter_mm": 3.4, "inset_mm": 5.0}
TO_CUT_OUT = {"kind": "cut-out", "id": "cut-out"}
LEVELLED = {"kind": "auto-levels", "id": "levels"}
CALM = {"kind": "keep-edges", "id": "calm", "radius_mm": 0.4}
FINE_BALL = {"name": "3 mm ball", "role": "finish", "kind": "ball", "diameter_mm": 3.0}
ROUGHING_FLAT = {"name": "6 mm flat", "role": "rough", "kind": "flat"}

READY_RECIPES: tuple[Recipe, ...] = tuple(
    Recipe(name=name, kind=kind, shape=shape, parts=parts)
    for name, kind, shape, parts in (
        (
            "Night-light",
            "lithophane",
            "lithophane",
            {
                "ops": [LEVELLED],
                "glow": {"thinnest_mm": 0.8, "thickest_mm": 3.0},
                "form": {"kind": "arc", "width_mm": 120, "arc_by": "angle", "angle_deg": 160},
                "parts": {"rim": {"width_mm": 4, "thickness_mm": 3.0}, "foot": {"on": True, "margin_mm": 6}},
            },
        ),
        (
            "Trail plate",
            "panel",
            "panel",
            {
                "ops": [{"kind": "reduce", "id": "tones", "count": 2}],
                "height": {
                    "rule": {"kind": "steps", "tall": "dark", "steps": [{"tone": 0, "mm": 1.6}, {"tone": 1, "mm": 0}]},
                    "draft": {"on": True, "wall_deg": 8},
                },
                "body": {
                    "width_mm": 140, "backing_mm": 3, "shape": "rounded", "corner_mm": 8,
                    "frame": {"on": True, "width_mm": 3, "height_mm": 1.6}, "openings": [SCREWS],
                },
            },
        ),
        (
            "Cutter of four lines",
            "traced",
            "cutter",
            {"width_mm": 70, "trace": {}, "solid": {"kind": "cutter", "lines": 4, "line_mm": 0.45, "rim_round": True}},
        ),
        (
            "Stamp",
            "traced",
            "stamp",
            {
                "width_mm": 40,
                "trace": {},
                "solid": {
                    "kind": "stamp", "relief_mm": 2, "draft_deg": 6, "grip": "knob",
                    "plate": {"kind": "ellipse", "margin_mm": 2, "thickness_mm": 4},
                },
            },
        ),
        (
            "Coin",
            "panel",
            "panel",
            {
                "ops": [LEVELLED, CALM],
                "height": {"rule": {"kind": "compress", "relief_mm": 0.9, "strength": 0.6}, "smooth_mm": 0.05},
                "body": {
                    "width_mm": 40, "backing_mm": 1.6, "shape": "ellipse",
                    "frame": {"on": True, "width_mm": 1.6, "height_mm": 1.1, "profile": "round"},
                    "edge": {"bevel_on": True, "bevel_mm": 0.3},
                },
                "finish": {"tolerance_mm": 0.01},
            },
        ),
        (
            "Mould with draft",
            "panel",
            "panel",
            {
                "ops": [LEVELLED, {"kind": "flip", "id": "mirror"}, CALM],
                "height": {
                    "rule": {"kind": "straight", "tall": "dark", "relief_mm": 5},
                    "draft": {"on": True, "wall_deg": 6}, "rounding": {"on": True, "radius_mm": 0.4},
                },
                "body": {"width_mm": 90, "backing_mm": 4, "frame": {"on": True, "width_mm": 6, "height_mm": 7}},
            },
        ),
        (
            "Wall panel for the router",
            "panel",
            "panel",
            {
                "ops": [LEVELLED, CALM],
                "height": {"rule": {"kind": "compress", "relief_mm": 8, "strength": 0.4}, "smooth_mm": 0.3},
                "body": {
                    "width_mm": 240, "backing_mm": 8,
                    "frame": {"on": True, "width_mm": 12, "height_mm": 8, "profile": "cove"},
                },
                "carving": {
                    "on": True, "bits": [ROUGHING_FLAT, FINE_BALL],
                    "stock": {"width_mm": 280, "depth_mm": 320, "thickness_mm": 22},
                    "passes": {"scallop_mm": 0.02},
                },
            },
        ),
        (
            "Ornament to hang",
            "panel",
            "panel",
            {
                "ops": [TO_CUT_OUT],
                "height": {
                    "rule": {"kind": "edge", "edge": "pillow", "relief_mm": 3, "edge_tones": 0.3}
                },
                "body": {"width_mm": 60, "backing_mm": 1.2, "shape": "outline", "margin_mm": 2, "openings": [HANGING]},
            },
        ),
    )
)  # fmt: skip


def ready_recipe(name: str) -> Recipe:
    """The ready recipe of that name.

    Raises:
        NotFoundError: there is none.
    """
    found: dict[str, Any] = {recipe.name: recipe for recipe in READY_RECIPES}
    if name not in found:
        raise NotFoundError(f"There is no ready recipe named {name}; {', '.join(found)} are there.")
    recipe: Recipe = found[name]
    return recipe
