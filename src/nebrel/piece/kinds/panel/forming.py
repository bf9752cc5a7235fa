"""From the recipe of a panel's form to how near everything in its picture is."""

from nebrel.core.bas_relief.nearness import Nearness, nearness
from nebrel.core.bas_relief.stage import is_scene, stage_of
from nebrel.piece.depths.by_hand import hand_over
from nebrel.piece.depths.sources import depth_source
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.panel.form import ReliefForm
from nebrel.piece.ops import PictureView


def nearness_in(view: PictureView, form: ReliefForm, cells: int, sources: Sources) -> Nearness:
    """How near everything in a prepared picture is.

    Args:
        view: of the picture.
        form: what is asked for.
        cells: along the longer side of what is shown.
        sources: of files.

    Raises:
        BadPictureError: nothing is to be seen or stands out, or a source lacks its file.
    """
    picture = view.picture
    stage = stage_of(picture.coverage, view.mm_per_px, cells)
    source = depth_source(form.depth, picture, sources)
    return nearness(
        stage, is_scene(picture.coverage), source, form.roundness(), hand_over(form.strokes, form.order, view)
    )
