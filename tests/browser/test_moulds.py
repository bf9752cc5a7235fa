"""A mould in the real browser: begun from a piece on the shelf, changed, delivered."""

import io

import numpy as np
import pytest
import trimesh
from playwright.sync_api import Page, expect

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import read_mesh, write_mesh
from nebrel.core.mesh.shells import shells_of


def ball() -> bytes:
    made, file = trimesh.creation.icosphere(3, 12), io.BytesIO()
    write_mesh(TriMesh(np.asarray(made.vertices, float), np.asarray(made.faces, np.uint32)), file, "stl")
    return file.getvalue()


@pytest.mark.stage
def test_a_ball_is_cast_in_two_halves(page: Page, shared, drop) -> None:
    page.goto(shared.url)
    drop("Marble.stl", ball())
    expect(page.get_by_role("navigation", name="Stations")).to_be_visible()
    page.goto(shared.url)
    page.get_by_role("button", name="More for Marble").first.click()
    page.get_by_role("button", name="Make a mould of it").click()
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("Mould")
    # It has no flat back, so it begins in halves, which is said where it is parted.
    expect(page.get_by_role("radio", name="Two halves")).to_be_checked()
    findings = page.get_by_role("region", name="Findings")
    expect(findings).to_contain_text("where least of the piece is undercut")
    draft = page.get_by_label("Every wall leans at least", exact=True)
    draft.fill("6")
    draft.press("Enter")
    page.get_by_role("navigation", name="Stations").get_by_role("button", name="Deliver").click()
    with page.expect_download() as saved:
        page.get_by_role("button", name="Build and save STL").click()
    report = page.get_by_test_id("build-report")
    expect(report).to_contain_text("It holds")
    expect(report).to_contain_text("at least")
    mesh = read_mesh(saved.value.path().read_bytes(), "mould.stl", "mm").mesh
    shells = shells_of(mesh)
    assert len(shells) == 2 and all(shell.closed for shell in shells)
