"""What Nebrel says about a mesh and about a build. Keys and units are a promise to people's scripts."""

from collections.abc import Mapping
from dataclasses import asdict
from typing import Any, Literal

from pydantic import BaseModel

from nebrel.core.colour.changes import PrintPlan, count_changes
from nebrel.core.colour.few import FewColours
from nebrel.core.heightfield.slab import Slab
from nebrel.core.mend.faults import Measured
from nebrel.core.mend.pipeline import Mended
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats.stl import stl_bytes
from nebrel.core.mesh.surface_error import Where
from nebrel.core.proof import Finding, Soundness
from nebrel.core.proof.colour_audit import audit_colours
from nebrel.core.proof.objects import CheckedObject
from nebrel.piece.relief_reports import EdgesReport, FormReport, MouldReport


class FixReport(BaseModel):
    """A picture op that would mend a finding."""

    kind: str
    parameters: dict[str, Any]
    words: str


class FindingReport(BaseModel):
    """One finding."""

    severity: Literal["fault", "caution", "note"]
    what: str
    why: str
    measure: str
    where: tuple[float, float, float] | None = None
    value: float | None = None
    unit: str = ""
    fix: FixReport | None = None

    @classmethod
    def of(cls, finding: Finding) -> "FindingReport":
        """The finding as plain data."""
        return cls(
            severity=finding.severity,
            what=finding.what,
            why=finding.why,
            measure=finding.measure,
            where=finding.where,
            value=finding.value,
            unit=finding.unit,
            fix=None if finding.fix is None else FixReport(**asdict(finding.fix)),
        )


class MeshReport(BaseModel):
    """Measures of any mesh."""

    size_mm: tuple[float, float, float]
    triangles: int
    vertices: int
    shells: int
    volume_mm3: float
    area_mm2: float
    closed: bool
    manifold: bool
    outward: bool
    degenerate_faces: int
    duplicate_faces: int
    self_crossings: int
    self_crossings_capped: bool
    overlapping_shells: int
    inner_shells: int
    debris_shells: int
    floating_shells: int
    touching_shells: int
    findings: list[FindingReport]

    @property
    def sound(self) -> bool:
        """Nothing found that must be mended."""
        return not any(finding.severity == "fault" for finding in self.findings)


class BodyReport(BaseModel):
    """A body of one material, as it is delivered."""

    name: str
    volume_mm3: float
    triangles: int
    sound: bool

    @classmethod
    def of(cls, checked: CheckedObject) -> "BodyReport":
        """An object of a file that was checked."""
        found = checked.found
        return cls(
            name=checked.name, volume_mm3=round(found.volume_mm3, 3), triangles=found.triangles, sound=found.sound
        )


class CheckReport(MeshReport):
    """What `nebrel check` found; `objects` are those of a file of several.

    The thinnest wall is that of the places that were looked at, so many; None where the mesh is open or none has one.
    """

    thinnest_wall_mm: float | None
    walls_looked_at: int
    objects: list[BodyReport]


class MeasuredReport(BaseModel):
    """A mesh before or after a step of a repair: its faults, and what it measures."""

    open_edges: int
    crowded_edges: int
    flipped_edges: int
    pinched_points: int
    degenerate_faces: int
    duplicate_faces: int
    self_crossings: int
    size_mm: tuple[float, float, float]
    volume_mm3: float
    area_mm2: float

    @classmethod
    def of(cls, measured: Measured) -> "MeasuredReport":
        """A mesh that was measured."""
        return cls(
            **asdict(measured.faults),
            size_mm=measured.size,
            volume_mm3=measured.volume_mm3,
            area_mm2=measured.area_mm2,
        )


class MendingStepReport(BaseModel):
    """A step of a repair that changed something, or was taken back since it made what `worse` names worse."""

    step: str
    counts: dict[str, int]
    taken_back: bool
    worse: list[str]
    after: MeasuredReport


class MendingReport(BaseModel):
    """What a repair did, step by step."""

    welded_within_mm: float
    before: MeasuredReport
    after: MeasuredReport
    steps: list[MendingStepReport]

    @classmethod
    def of(cls, mended: Mended) -> "MendingReport":
        """A repair as plain data."""
        return cls(
            welded_within_mm=mended.welded_within,
            before=MeasuredReport.of(mended.before),
            after=MeasuredReport.of(mended.after),
            steps=[
                MendingStepReport(
                    step=step.name,
                    counts=step.counts,
                    taken_back=bool(step.worse),
                    worse=list(step.worse),
                    after=MeasuredReport.of(step.after),
                )
                for step in mended.steps
            ],
        )


class LitColoursReport(BaseModel):
    """Measures of the colours that a lit piece shows, through its bodies.

    Attributes:
        mean_difference: from the colours that are wanted, by CIEDE2000, over the picture, seen from where dots of
            colours run together.
        largest_tenth: what nine of ten places stay below.
        far_off: share of places that are off by more than 10.
        uncovered_mm3: volume of the whole that no body has.
        bodies: one for each material.
    """

    mean_difference: float
    largest_tenth: float
    far_off: float
    uncovered_mm3: float
    bodies: list[BodyReport]


class LitReport(BaseModel):
    """Measures of a lithophane in light, of what is seen through its actual walls.

    Attributes:
        thinnest_mm, thickest_mm: where the picture is, along the form's normals.
        contrast: how many times brighter its brightest place is than its darkest.
        tones_lost: share of the picture that is darker than the thickest wall shows.
        ssim_within_reach, ssim: structural similarity to the wanted picture, over the rest and over all of it.
        mean_difference: of tones, 0 to 1.
        colours: of a piece with colour layers, None without.
    """

    thinnest_mm: float
    thickest_mm: float
    contrast: float
    tones_lost: float
    ssim_within_reach: float
    ssim: float
    mean_difference: float
    colours: LitColoursReport | None = None


class TintReport(BaseModel):
    """One of few colours, and how much of the surface has it."""

    name: str
    colour: str
    area_mm2: float


class ColoursReport(BaseModel):
    """Measures of a mesh in few colours, read off the finished mesh.

    Attributes:
        tints: those that are used, the one with the largest area first.
        error, least_error: mean distance in OKLab from the colours before, by area, and what it would be if every
            triangle took its nearest colour whatever patches that gave.
        patches, smallest_patch_mm2: areas of one colour that hang together.
        layers, layers_in_several, swaps, purged_mm3: an estimate of printing it, see `ColourChanges`.
    """

    tints: list[TintReport]
    error: float
    least_error: float
    patches: int
    smallest_patch_mm2: float
    layers: int
    layers_in_several: int
    swaps: int
    purged_mm3: float


class TextureReport(BaseModel):
    """Measures of a texture: its size, how many charts the solid is laid out in, and how far its colours are from those
    asked for, on average over the surface, in OKLab."""

    width_px: int
    height_px: int
    charts: int
    mean_error: float


class FigureReport(BaseModel):
    """Measures of a figure in the round, of its finished mesh.

    Attributes:
        overlap_mask: intersection over union of what is seen from the front and what the picture covers.
        depth_mm: from the furthest to the nearest place.
        source: where its depth comes from.
        thickened_mm2: how much of it, seen from the front, was widened or made thicker to keep a least thickness.
        colours: where it has few of them.
        texture: where a texture carries them.
    """

    overlap_mask: float
    depth_mm: float
    source: str
    thickened_mm2: float
    colours: ColoursReport | None = None
    texture: TextureReport | None = None


class PrintedReport(BaseModel):
    """How a file stands on the plate, measured on what was written.

    Attributes:
        down: the direction of the piece that points at the plate.
        size_mm: of what is printed.
        sound: closed, outward, without faces that cross, each body of it.
        bodies: one for each colour, where colours change by layers.
    """

    down: tuple[float, float, float]
    size_mm: tuple[float, float, float]
    sound: bool
    bodies: list[BodyReport]


class BuildReport(MeshReport):
    """Measures of a built solid, and how true it is to what was asked.

    Attributes:
        max_error_mm, rms_error_mm: as measured, in the way that `error_how` tells, and where `error_where` tells.
        max_error_between_mm: of a relief, the largest error between samples too, where its heights are bilinear.
        tolerance_mm: what was asked.
        printed: how the file stands, where that is otherwise than the solid was built.
        edges, form, mould: of reliefs whose walls follow curves, of those whose heights follow depth, of moulds.
    """

    max_error_mm: float
    rms_error_mm: float
    max_error_between_mm: float | None
    error_how: str
    error_where: Where
    tolerance_mm: float
    file_bytes: int
    seconds: float
    triangles_before: int | None = None
    lit: LitReport | None = None
    figure: FigureReport | None = None
    printed: PrintedReport | None = None
    edges: EdgesReport | None = None
    form: FormReport | None = None
    mould: MouldReport | None = None


def mesh_report(soundness: Soundness) -> MeshReport:
    """The report on a checked mesh."""
    return MeshReport(
        size_mm=tuple(round(side, 6) for side in soundness.size),
        triangles=soundness.triangles,
        vertices=soundness.vertices,
        shells=soundness.shells,
        volume_mm3=soundness.volume_mm3,
        area_mm2=soundness.area_mm2,
        closed=soundness.closed,
        manifold=soundness.manifold,
        outward=soundness.outward,
        degenerate_faces=soundness.degenerate_faces,
        duplicate_faces=soundness.duplicate_faces,
        self_crossings=soundness.self_crossings,
        self_crossings_capped=soundness.self_crossings_capped,
        overlapping_shells=soundness.overlapping_shells,
        inner_shells=soundness.inner_shells,
        debris_shells=soundness.debris_shells,
        floating_shells=soundness.floating_shells,
        touching_shells=soundness.touching_shells,
        findings=[FindingReport.of(finding) for finding in soundness.findings],
    )


def build_report(
    soundness: Soundness,
    slab: Slab,
    findings: tuple[Finding, ...],
    seconds: float,
    triangles_before: int | None = None,
) -> BuildReport:
    """The report on a build; `findings` about making it follow those about its soundness. The size is that of an STL
    file until another is written."""
    mesh = mesh_report(soundness)
    return BuildReport(
        **mesh.model_dump(exclude={"findings"}),
        findings=[*mesh.findings, *(FindingReport.of(finding) for finding in findings)],
        max_error_mm=slab.deviation.max,
        rms_error_mm=slab.deviation.rms,
        max_error_between_mm=slab.deviation.max_between,
        error_how=slab.deviation.how,
        error_where=slab.deviation.where,
        tolerance_mm=slab.tolerance,
        file_bytes=stl_bytes(slab.mesh),
        seconds=round(seconds, 3),
        triangles_before=triangles_before,
    )


def colours_report(mesh: TriMesh, few: FewColours, names: Mapping[str, str], plan: PrintPlan) -> ColoursReport | None:
    """Measures of a finished mesh in few colours, or None where it has others.

    Args:
        mesh: what was finished.
        few: how it came by them.
        names: what colours are called, `#rrggbb` to a name.
        plan: how it would be printed.
    """
    found = audit_colours(mesh, few.before)
    if found is None:
        return None
    changes = count_changes(mesh, found.labels, plan)
    tints = []
    for rgb, area in zip(found.colours.tolist(), found.areas.tolist(), strict=True):
        told = f"#{bytes(rgb).hex()}"
        tints.append(TintReport(name=names.get(told, told), colour=told, area_mm2=round(area, 3)))
    return ColoursReport(
        tints=tints,
        error=round(found.error, 5),
        least_error=round(few.least_error, 5),
        patches=found.patches,
        smallest_patch_mm2=round(found.smallest, 4),
        layers=changes.layers,
        layers_in_several=changes.layers_in_several,
        swaps=changes.swaps,
        purged_mm3=round(changes.purged_mm3, 1),
    )
