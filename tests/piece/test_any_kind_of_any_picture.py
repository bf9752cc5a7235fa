"""Every kind of piece can be chosen for every picture: it is sketched, or refused in a sentence."""

import io

import numpy as np
import pytest
from PIL import Image

from nebrel.core.errors import NebrelError
from nebrel.jobs.workshop import open_workshop
from nebrel.piece.choices.choice import choices_for
from nebrel.piece.choices.tile import tile_of
from nebrel.settings import Settings

RANDOM = np.random.default_rng(1)
Y, X = np.mgrid[0:60, 0:80]
PICTURES = {
    "noise": RANDOM.integers(0, 256, (40, 50)),
    "salt": np.where(RANDOM.random(X.shape) < 0.02, 0, 255),
    "checks": (X // 3 + Y // 3) % 2 * 255,
    "hairlines": np.where(X % 10 == 0, 0, 255),
    "one line": np.where(Y == 30, 0, 255),
    "one dot": np.where((X == 40) & (Y == 30), 0, 255),
    "four rows": np.where(np.mgrid[0:4, 0:200][1] % 50 < 25, 0, 255),
    "gradient": X * 3,
    "four pixels": np.array([[0, 255], [255, 0]]),
    "cut out": np.dstack([X * 3, X * 3, X * 3, 255 * (np.hypot(X - 40, Y - 30) < 25)]),
}


@pytest.mark.parametrize("name", PICTURES)
def test_no_choice_fails(tmp_path, name):
    held = io.BytesIO()
    Image.fromarray(PICTURES[name].astype(np.uint8)).save(held, "PNG")
    workshop = open_workshop(Settings(data_dir=tmp_path))
    try:
        document = workshop.document(workshop.start_piece(held.getvalue(), f"{name}.png"))
        made = []
        for choice in choices_for(document):
            try:
                made.append(tile_of(document, choice, workshop.sources))
            except NebrelError as refusal:
                assert str(refusal).endswith((".", ";")), refusal
        assert made
    finally:
        workshop.close()
