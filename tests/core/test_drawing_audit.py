"""What is read of a drawing, held against what other programs draw of it."""

import pytest

from nebrel.core.outline_files.read import read_drawing
from nebrel.core.proof.drawing_audit import compare_with_drawing, difference_finding
from nebrel.core.region.mend import leave_out
from tests.core.test_dxf_features import FEATURES as DXF
from tests.core.test_dxf_features import as_text, new
from tests.core.test_svg_features import FEATURES as SVG
from tests.core.test_svg_features import svg


@pytest.mark.parametrize(
    "name", ["clip", "mask", "marker-end", "dashes", "use-of-use", "ground", "white-alone", "miter-limit"]
)
def test_svg_is_read_as_another_program_draws_it(name):
    data = svg(SVG[name].inside)
    found = compare_with_drawing(data, "a.svg", read_drawing(data, "a.svg"))
    assert found is not None
    assert difference_finding(found) == ()


@pytest.mark.parametrize("name", ["lines", "bulge", "block-turned", "hatch", "layer-off", "text", "tapered"])
def test_dxf_is_read_as_another_program_draws_it(name):
    document = new()
    DXF[name].draw(document, document.modelspace())
    data = as_text(document)
    found = compare_with_drawing(data, "a.dxf", read_drawing(data, "a.dxf"))
    assert found is not None
    assert difference_finding(found) == ()


@pytest.mark.parametrize("unit", [None, 25.4])
@pytest.mark.parametrize(
    "inside",
    [
        '<rect width="100%" height="100%"/>',
        '<rect x="70%" y="60%" width="30%" height="40%"/>',
        '<rect width="30%" height="100%" fill="white"/>',
    ],
    ids=["all of it", "a corner", "a white side"],
)
@pytest.mark.parametrize(
    "head",
    [
        'width="20mm" height="10mm" viewBox="0 0 20 10"',
        'width="33.3mm" height="21.7mm"',
        'width="3" height="2"',
        'viewBox="0 0 7 190"',
        'width="50mm" height="30mm" viewBox="0 0 61 10" preserveAspectRatio="none"',
    ],
)
def test_a_page_of_any_size_lies_where_it_is(head, inside, unit):
    data = svg(inside, head)
    found = compare_with_drawing(data, "a.svg", read_drawing(data, "a.svg", unit))
    assert found is not None
    assert found.share < 0.001


def test_what_is_missing_is_told_with_its_share_and_place():
    data = svg('<rect x="10" y="10" width="20" height="20"/><rect x="60" y="60" width="30" height="20"/>')
    read = read_drawing(data, "a.svg")
    lacking = type(read)(leave_out(read.figure, {1}), read.size, True, (), True, read.page)
    (finding,) = difference_finding(compare_with_drawing(data, "a.svg", lacking))
    assert finding.measure == "differs-from-drawing"
    assert finding.value == pytest.approx(600 / 1000, abs=0.01)
    assert finding.where is not None
    # Its lower left corner lies at the origin of what was read: 20 mm up from the foot of the page, 10 from its left.
    assert finding.where[:2] == pytest.approx((65, 10), abs=0.3)


@pytest.mark.parametrize(
    "head", ['viewBox="0 0 0 0"', 'width="abc"', 'viewBox="0 0 1 1000000"', 'viewBox="0 0 1000000 1"']
)
def test_a_page_that_is_none_is_not_compared(head):
    data = svg('<rect width="1" height="1"/>', head)
    assert compare_with_drawing(data, "a.svg", read_drawing(data, "a.svg")) is None
