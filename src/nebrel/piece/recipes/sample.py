"""A made-up picture that ready recipes are shown on."""

import numpy as np

from nebrel.core.picture import Picture
from nebrel.core.picture.picture import SourceFacts
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.recipes.recipe import Recipe, follow
from nebrel.piece.registry import open_piece, parse_document

WIDTH_PX, HEIGHT_PX = 320, 400
BLOB = step_key("sample of recipes", 1, None)
LEAFLETS = 7


def leaf() -> Picture:
    """A bright leaf on dark ground, domed and veined."""
    y, x = np.mgrid[0:HEIGHT_PX, 0:WIDTH_PX].astype(np.float64)
    u, v = (x / (WIDTH_PX - 1) - 0.5) * 2, 1 - y / (HEIGHT_PX - 1)
    along = np.clip((v - 0.12) / 0.8, 0, 1)
    half = 0.62 * np.sin(np.pi * along**0.8) * (1 + 0.07 * np.cos(2 * np.pi * LEAFLETS * along))
    inside = np.clip(1 - (u / np.maximum(half, 1e-3)) ** 2, 0, 1) * ((along > 0) & (along < 1))
    stalk = np.exp(-((u / 0.035) ** 2)) * ((v > 0.03) & (v < 0.5))
    veins = np.exp(-((((along * LEAFLETS - 1.4 * np.abs(u)) % 1 - 0.5) / 0.09) ** 2))
    tones = 0.05 + 0.85 * np.clip(np.sqrt(inside) * (0.82 - 0.22 * veins) + 0.7 * stalk * (inside < 0.05), 0, 1)
    tones = np.where(inside > 0, tones + 0.18 * np.exp(-((u / 0.03) ** 2)), tones)
    tall = np.clip(tones, 0, 1).astype(np.float32)
    facts = SourceFacts("png", WIDTH_PX, HEIGHT_PX, 16, "gray", 300.0)
    return Picture(tall, np.ones_like(tall), facts)


def shown_on_sample(recipe: Recipe, sources: Sources) -> bytes:
    """PNG of what a recipe for pictures makes of the leaf."""
    key = step_key("recipe on sample", 1, recipe.model_dump(mode="json"))

    def draw() -> bytes:
        picture = leaf()
        part = picture_source(BLOB, "leaf.png", picture.facts).model_dump()
        made = follow(parse_document({"title": "Leaf", "picture": part}), recipe)
        return open_piece(made, sources.with_pictures({BLOB: picture})).evaluator.thumbnail()

    return sources.cache.get(key, draw, lambda data: data, lambda data: data)
