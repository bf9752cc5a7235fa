"""`nebrel make lithophane`, `wedge`, `fit-material` and `light`."""

import json
import math

import numpy as np
import pytest
from PIL import Image

from nebrel.core.height.calibrate import light_box, wedge_steps
from nebrel.core.height.transmission import TranslucentMaterial
from nebrel.core.mesh.formats import read_mesh
from nebrel.core.proof import check_soundness
from nebrel.jobs.workshop import open_workshop
from nebrel.settings import Settings


@pytest.fixture(autouse=True)
def data_dir(tmp_path, monkeypatch):
    """No shelf yet."""
    monkeypatch.setenv("NEBREL_DATA_DIR", str(tmp_path / "shelf"))
    return tmp_path / "shelf"


def report(nebrel, *arguments) -> dict:
    code, out, err = nebrel(*arguments, "--json")
    assert code == 0, err or out
    return json.loads(out)


FORMS = (
    "flat", "arc:120deg", "arc:40", "cylinder", "cylinder:40", "cone:30x50x40", "sphere:50", "dome:50", "heart",
    "prism:6",
)  # fmt: skip


@pytest.mark.parametrize("form", FORMS)
def test_every_form_is_made_with_its_recipe(nebrel, picture, tmp_path, form):
    target = tmp_path / "out.stl"
    found = report(
        nebrel, "make", "lithophane", picture, "-o", target, "--width", 130, "--form", form, "--border", 2,
        "--thinnest", 0.8, "--thickest", 2.5, "--tolerance", 0.05,
    )  # fmt: skip
    assert {"thinnest_mm", "thickest_mm", "contrast", "tones_lost", "ssim_within_reach"} <= set(found["lit"])
    assert found["max_error_mm"] <= 0.05
    if form == "flat":
        assert found["size_mm"][0] == pytest.approx(130, abs=0.001)
    assert check_soundness(read_mesh(target.read_bytes(), target.name, None).mesh).sound
    assert "Finest detail" in (tmp_path / "out-recipe.txt").read_text()


def test_rules_and_materials_change_the_wall(nebrel, picture, tmp_path):
    def volume(*options) -> float:
        target = tmp_path / "out.stl"
        return report(nebrel, "make", "lithophane", picture, "-o", target, "--width", 40, *options)["volume_mm3"]

    plain = volume()
    assert volume("--rule", "straight") > 1.05 * plain
    assert abs(volume("--beyond", "clip") / plain - 1) > 0.02
    assert abs(volume("--material", "bright WHITE filament") / plain - 1) > 0.02
    assert volume("--strength", 0.5) > plain


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (("--thinnest", 3, "--thickest", 2), "a thickest wall above the thinnest"),
        (("--form", "arc:400deg"), "up to 350°"),
        (("--form", "ball"), "flat, arc, cylinder"),
        (("--form", "cone:30x50"), "cone:30x50x80"),
        (("--form", "prism:many"), "a number of sides"),
        (("--form", "flat:3"), "takes no size"),
        (("--form", "sphere:4", "--relief", "inside", "--opening", 1), "a radius above"),
        (("--border", 3, "--name", "A name that is far too long for it " * 4), "would fit"),
        (("--border", -2), "a width above it"),
        (("--name", "Hi"), "--name needs a border"),
        (("--strength", "nan"), "a number would be accepted"),
        (("--rule", "straight", "--strength", 0.5), "--strength has no effect without --rule light"),
        (("--colour-layer", 0.2), "--colour-layer has no effect without --colour-layers above 0"),
        (("--opening", 20), "--opening has no effect without --form sphere:80"),
        (("--material", "cheese"), "known are White filament"),
        (("--width", "zero"), "zero"),
    ],
)
def test_what_makes_no_sense_is_refused_in_one_sentence(nebrel, picture, tmp_path, data_dir, options, words):
    code, _, err = nebrel("make", "lithophane", picture, "-o", tmp_path / "out.stl", *options)
    assert code == 2
    assert words in err
    assert err.count("\n") == 1
    assert not (tmp_path / "out.stl").exists()
    assert not data_dir.exists()


def test_a_wedge_is_printed_read_fitted_and_kept(nebrel, picture, tmp_path):
    wedge = report(nebrel, "wedge", "-o", tmp_path / "wedge.stl", "--steps", 8)
    assert wedge["steps_mm"] == pytest.approx(wedge_steps(8), abs=1e-4)
    thickness = np.array([0.0, *wedge["steps_mm"]])
    read = light_box(TranslucentMaterial(0.8, 0.1), thickness, 0.005, 3)
    table = tmp_path / "readings.csv"
    table.write_text("mm,light\n" + "".join(f"{mm},{light}\n" for mm, light in zip(thickness, read, strict=True)))
    fit = report(nebrel, "fit-material", table, "--keep", "Read at home")
    assert fit["attenuation_per_mm"] == pytest.approx(0.8, rel=0.01)
    assert len(fit["readings"]) == 9
    low, high = fit["intervals"]["attenuation_per_mm"]
    assert low < 0.8 < high and fit["intervals"]["surface_loss"] is not None
    assert abs(fit["dark_offset"]) < 0.01 and fit["findings"] == []
    assert fit["spread_mm"] is None
    workshop = open_workshop(Settings())
    kept = workshop.materials.named("read at HOME")
    workshop.close()
    assert kept.measured
    assert kept.attenuation_per_mm == pytest.approx(0.8, rel=0.01)
    code, out, _ = nebrel("make", "lithophane", picture, "-o", tmp_path / "a.stl", "--material", "Read at home")
    assert code == 0
    assert "Read at home" in (tmp_path / "a-recipe.txt").read_text()
    assert "contrast 1 :" in out


@pytest.mark.parametrize(
    ("text", "words"),
    [("1,0.2\n2,0.3\n3,0.1\n", "readings that fall"), ("1,0.2\n", "at least 3"), ("", "no readings")],
)
def test_readings_of_nothing_are_refused(nebrel, tmp_path, text, words):
    table = tmp_path / "readings.csv"
    table.write_text(text)
    code, _, err = nebrel("fit-material", table)
    assert code == 2
    assert words in err


def test_a_mesh_and_a_piece_are_lit(nebrel, picture, hill, tmp_path):
    target, lit = tmp_path / "out.stl", tmp_path / "lit.png"
    report(nebrel, "make", "lithophane", picture, "-o", target, "--width", 60, "--thinnest", 1, "--thickest", 3)
    found = report(nebrel, "light", target, "-o", lit, "--ambient", 0)
    assert found["thinnest_mm"] == pytest.approx(1, abs=0.1)
    shown = np.asarray(Image.open(lit).convert("L")).astype(float)
    wanted = np.asarray(Image.open(picture).convert("F").resize(shown.shape[::-1]))
    assert np.corrcoef(shown.ravel(), wanted.ravel())[0, 1] > 0.97
    workshop = open_workshop(Settings())
    workshop.start_piece(hill, "hill.png", "Hill lamp", glow={}, form={"width_mm": 60})
    workshop.close()
    piece = report(nebrel, "light", "hill lamp", "-o", lit)
    assert piece["contrast"] > 1
    code, _, err = nebrel("light", target, "-o", lit, "--lamp", "red")
    assert (code, "a colour like #ffe0b3" in err) == (2, True)
    code, _, err = nebrel("light", "nothing like it", "-o", lit)
    assert (code, "no piece on the shelf" in err) == (2, True)


def test_the_spread_of_light_is_read_across_an_edge_and_made_up_for(nebrel, picture, tmp_path):
    readings = tmp_path / "wedge.csv"
    steps = [f"{mm},{0.9 * math.exp(-1.1 * mm)}" for mm in (0, 0.4, 0.8, 1.6, 2.4, 3.2)]
    across = [f"edge,{mm},{0.5 + 0.3 * math.erf(mm / (0.4 * math.sqrt(2)))}" for mm in np.linspace(-2, 2, 21)]
    readings.write_text("\n".join(steps + across))
    code, text, _ = nebrel("fit-material", readings, "--json")
    fit = json.loads(text)
    assert code == 0
    assert fit["spread_mm"] == pytest.approx(0.4, abs=0.002)
    assert fit["attenuation_per_mm"] == pytest.approx(1.1, abs=0.01)
    options = ("make", "lithophane", picture, "-o", tmp_path / "o.stl", "--width", "40", "--json", "--spread", "2")
    sharp, plain = (json.loads(nebrel(*options, *more)[1])["lit"] for more in ((), ("--no-sharpen",)))
    assert sharp["ssim_within_reach"] > plain["ssim_within_reach"]


def test_a_material_that_is_kept_brings_its_spread_along(nebrel, picture, tmp_path):
    readings = tmp_path / "wedge.csv"
    steps = [f"{mm},{0.9 * math.exp(-1.05 * mm)}" for mm in (0, 0.4, 0.8, 1.6, 2.4, 3.2)]
    across = [f"edge,{mm},{0.5 + 0.3 * math.erf(mm / (2 * math.sqrt(2)))}" for mm in np.linspace(-6, 6, 41)]
    readings.write_text("\n".join(steps + across))
    assert nebrel("fit-material", readings, "--keep", "Waxy")[0] == 0
    options = ("make", "lithophane", picture, "-o", tmp_path / "o.stl", "--width", 40, "--material", "Waxy")
    own, asked, none = (report(nebrel, *options, *more)["lit"] for more in ((), ("--spread", 2), ("--spread", 0)))
    assert own["ssim_within_reach"] == pytest.approx(asked["ssim_within_reach"], abs=0.002)
    assert own["ssim_within_reach"] < none["ssim_within_reach"]
