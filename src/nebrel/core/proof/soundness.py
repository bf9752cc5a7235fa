"""Whether a mesh is a proper solid."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mend.faults import repeated_faces
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.measure import area, face_heights, size
from nebrel.core.mesh.shells import Shell, shells_of
from nebrel.core.mesh.topology import Topology, analyse
from nebrel.core.mesh.weld import weld_vertices
from nebrel.core.proof.finding import Finding
from nebrel.core.proof.shell_audit import audit_shells

MOST_CROSSINGS = 100_000
SMALLEST_SHARE = 1e-10
CROSSINGS_SHARE = 0.9


@dataclass(frozen=True)
class Soundness:
    """Measures of a mesh, and what is wrong with it."""

    size: tuple[float, float, float]
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
    findings: tuple[Finding, ...]

    @property
    def sound(self) -> bool:
        """Nothing found that must be mended."""
        return not any(finding.severity == "fault" for finding in self.findings)


def check_soundness(
    mesh: TriMesh, progress: Callable[[float], None] = lambda _: None, surface_only: bool = False
) -> Soundness:
    """Measure `mesh` and judge it; one that is meant to be a `surface_only` may be open.

    Judged is what a file holds: vertices at one place of a float32 count as one, so what touches in a point or along an
    edge is no solid.

    A face is degenerate when it is lower than 1e-10 of the whole mesh's extent. `outward` asks
    that every shell's faces agree with each other and that closed outer shells enclose a positive volume; a shell of
    negative volume is accepted only as a cavity inside another shell's box. The volume is that of the room in which
    there is material, by winding number, each counted once. At most 100,000 crossings are counted.
    """
    mesh = _as_written(mesh)
    with ThreadPoolExecutor(2) as beside:
        hung = beside.submit(_hung_together, mesh)
        faces = beside.submit(lambda: (_degenerate(mesh), np.flatnonzero(repeated_faces(mesh))))
        pairs = crossing_pairs(mesh, MOST_CROSSINGS, lambda part: progress(CROSSINGS_SHARE * part))
    (topology, shells), (degenerate, duplicate) = hung.result(), faces.result()
    extent, parts = size(mesh), audit_shells(mesh, shells, pairs)
    outward = topology.flipped_edges == 0 and not parts.inverted and _point_outward(shells)
    findings = (
        *_edge_findings(topology, surface_only),
        *_outward_findings(topology, outward),
        *_face_findings(mesh, degenerate, duplicate, pairs),
        *parts.findings,
    )
    if not any(finding.severity == "fault" for finding in findings) and topology.closed:
        findings = (_sound_note(topology), *findings)
    progress(1.0)
    return Soundness(
        size=(float(extent[0]), float(extent[1]), float(extent[2])),
        triangles=len(mesh.faces),
        vertices=len(mesh.vertices),
        shells=topology.shells,
        volume_mm3=parts.volume_mm3,
        area_mm2=area(mesh),
        closed=topology.closed,
        manifold=topology.manifold,
        outward=outward,
        degenerate_faces=len(degenerate),
        duplicate_faces=len(duplicate),
        self_crossings=len(pairs),
        self_crossings_capped=len(pairs) >= MOST_CROSSINGS,
        overlapping_shells=parts.overlapping,
        inner_shells=parts.inner,
        debris_shells=parts.debris,
        floating_shells=parts.free,
        touching_shells=parts.touching,
        findings=findings,
    )


def with_remark(found: Soundness, remark: str | None) -> Soundness:
    """What was found, and what is odd about the file that the mesh came from."""
    if remark is None:
        return found
    why = "What is worked on is what could be read; compare it with where the file came from."
    return replace(found, findings=(*found.findings, Finding("caution", remark, why, "file")))


def _as_written(mesh: TriMesh) -> TriMesh:
    """The mesh with vertices at one place made one; as it is where there are none."""
    welded = weld_vertices(mesh)
    return mesh if len(welded.vertices) == len(mesh.vertices) else welded


def _hung_together(mesh: TriMesh) -> tuple[Topology, list[Shell]]:
    topology = analyse(mesh)
    return topology, shells_of(mesh, topology)


def _degenerate(mesh: TriMesh) -> NDArray[np.int64]:
    extent = np.ptp(mesh.vertices, axis=0).max()
    flat: NDArray[np.int64] = np.flatnonzero(face_heights(mesh) <= SMALLEST_SHARE * extent)
    return flat


def _point_outward(shells: list[Shell]) -> bool:
    """Whether every closed part encloses something, but for cavities inside the box of another."""
    turned = [shell for shell in shells if shell.closed and shell.volume_mm3 <= 0]
    if len(turned) == len(shells):
        return False
    outer = [shell for shell in shells if shell.volume_mm3 > 0]
    low, high = np.array([shell.low for shell in outer]), np.array([shell.high for shell in outer])
    return all(((low <= shell.low) & (high >= shell.high)).all(axis=1).any() for shell in turned)


def _edge_findings(topology: Topology, surface_only: bool) -> list[Finding]:
    findings = []
    if topology.open_edges and surface_only:
        findings.append(
            Finding(
                "caution",
                f"The piece is a surface without a back, open along {_count(topology.open_edges, 'edge')}, as asked.",
                "It can be carved or joined to another model; a printer needs a back.",
                "closed",
            )
        )
    elif topology.open_edges:
        findings.append(
            Finding(
                "fault",
                f"The surface is open along {_count(topology.open_edges, 'edge')}.",
                "A printing or carving program cannot tell inside from outside there; the holes must be closed.",
                "closed",
            )
        )
    if topology.crowded_edges:
        findings.append(
            Finding(
                "fault",
                f"{_count(topology.crowded_edges, 'edge')} where more than two faces meet.",
                "Material cannot meet itself along a line without thickness; the parts must be joined or parted.",
                "manifold",
            )
        )
    if topology.pinched_vertices:
        findings.append(
            Finding(
                "fault",
                f"{_count(topology.pinched_vertices, 'point')} where parts touch by their tips only.",
                "Parts that touch at a single point break off there; they must be joined or parted.",
                "manifold",
            )
        )
    return findings


def _outward_findings(topology: Topology, outward: bool) -> list[Finding]:
    if topology.flipped_edges:
        what = f"Neighbouring faces disagree about which side is out, along {_count(topology.flipped_edges, 'edge')}."
    elif not outward:
        what = "The faces of at least one part look inwards."
    else:
        return []
    return [
        Finding(
            "fault",
            what,
            "Other programs would take the solid for a hollow; the faces must be turned.",
            "outward",
        )
    ]


def _face_findings(
    mesh: TriMesh, degenerate: NDArray[np.int64], duplicate: NDArray[np.int64], pairs: NDArray[np.int64]
) -> list[Finding]:
    findings = []
    if len(duplicate):
        findings.append(
            Finding(
                "fault",
                f"{_count(len(duplicate), 'face')} with the same corners as another.",
                "Two faces at one place look both ways, or the same way twice; they must go.",
                "duplicate_faces",
                _middle(mesh, int(duplicate[0])),
            )
        )
    if len(degenerate):
        findings.append(
            Finding(
                "fault",
                f"{_count(len(degenerate), 'face')} without any area.",
                "Such faces have no direction and trip up the next program; they must be removed.",
                "degenerate_faces",
                _middle(mesh, int(degenerate[0])),
            )
        )
    if len(pairs):
        more = " or more" if len(pairs) >= MOST_CROSSINGS else ""
        findings.append(
            Finding(
                "fault",
                f"{len(pairs):,}{more} {'pair' if len(pairs) == 1 else 'pairs'} of faces pass through each other.",
                "Inside and outside are mixed up where the surface crosses itself; the parts must be joined.",
                "self_crossings",
                _middle(mesh, int(pairs[0, 0])),
            )
        )
    return findings


def _sound_note(topology: Topology) -> Finding:
    parts = "one part" if topology.shells == 1 else f"{topology.shells:,} parts"
    return Finding(
        "note",
        f"The solid is sound: closed, {parts}, every face looking outwards, none crossing another.",
        "It can be printed or carved without repair.",
        "sound",
    )


def _middle(mesh: TriMesh, face: int) -> tuple[float, float, float]:
    x, y, z = mesh.vertices[mesh.faces[face]].mean(axis=0)
    return float(x), float(y), float(z)


def _count(number: int, what: str) -> str:
    return f"{number:,} {what}" if number == 1 else f"{number:,} {what}s"
