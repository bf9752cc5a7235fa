"""Placed solids put together: joined, cut away, kept apart, each with its colour."""

from dataclasses import dataclass, replace
from typing import Literal

import manifold3d
import numpy as np
from numpy.typing import NDArray

from nebrel.core.csg.boolean import cleanup, solid_of
from nebrel.core.csg.join import MERGE_SHARE, Meeting, loose_parts, meetings_of
from nebrel.core.errors import BadMeshError, BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.distance import nearest_faces
from nebrel.core.mesh.pose import AXES, turn_about
from nebrel.core.mesh.shells import together
from nebrel.core.mesh.topology import analyse

How = Literal["join", "cut", "apart"]
Place = tuple[float, float, float]
RGBA = tuple[int, int, int, int]
PLAIN: RGBA = (237, 228, 212, 255)


@dataclass(frozen=True)
class PlacedSolid:
    """A solid where it stands.

    Attributes:
        mesh: closed, mm.
        how: joined to the others, cut away from them, or kept apart.
        colour: what it is painted in; None leaves it as it is.
        name: what it is called in sentences and files.
    """

    mesh: TriMesh
    how: How = "join"
    colour: RGBA | None = None
    name: str = ""


@dataclass(frozen=True)
class PutTogether:
    """Solids put together.

    Attributes:
        mesh: the whole.
        meetings: of every two solids whose boxes meet, by number from 0, how they meet.
        loose: joined solids, by number from 0, that nothing holds to the first of them.
    """

    mesh: TriMesh
    meetings: dict[tuple[int, int], Meeting]
    loose: tuple[int, ...]


def placed(mesh: TriMesh, at: Place, turn_deg: Place = (0.0, 0.0, 0.0), scale: float = 1.0) -> TriMesh:
    """A mesh turned about x, then y, then z, sized, and set with the middle of its foot at a place, mm."""
    matrix = np.eye(3)
    for axis, degrees in zip(AXES, turn_deg, strict=True):
        matrix = turn_about(axis, degrees) @ matrix
    points = scale * (mesh.vertices @ matrix.T)
    low, high = points.min(axis=0), points.max(axis=0)
    foot = np.array([(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, low[2]])
    return replace(mesh, vertices=points - foot + np.array(at))


def put_together(parts: list[PlacedSolid]) -> PutTogether:
    """Unite what is joined, cut away what is cut, and lay beside it what is kept apart.

    Raises:
        BadMeshError: a part is not a closed solid.
        BadValueError: there is none, or nothing is left of it.
    """
    if not parts:
        raise BadValueError("Nothing is put together yet; add a piece or a ready part.")
    solids = [_solid(part) for part in parts]
    meetings = meetings_of(solids)
    joined = [at for at, part in enumerate(parts) if part.how == "join"]
    cutters = [solids[at] for at, part in enumerate(parts) if part.how == "cut"]
    apart = [part.mesh for part in parts if part.how == "apart"]
    if not joined and not apart:
        raise BadValueError("Every part is cut away, so nothing is left; join one, or keep one apart.")
    inputs = [part.mesh for part in parts if part.how != "apart"]
    whole_of = joined and len(joined) + len(cutters) > 1
    meshes = [_joined([solids[at] for at in joined], cutters, inputs)] if whole_of else []
    if joined and not meshes:
        meshes = [parts[joined[0]].mesh]
    bare = [TriMesh(mesh.vertices, mesh.faces) for mesh in (*meshes, *apart)]
    whole = bare[0] if len(bare) == 1 else together(bare)
    loose = tuple(joined[at] for at in loose_parts(len(joined), _among(meetings, joined)))
    return PutTogether(_coloured(whole, [part for part in parts if part.how != "cut"]), meetings, loose)


def _solid(part: PlacedSolid) -> manifold3d.Manifold:
    topology = analyse(part.mesh)
    if topology.closed and topology.manifold and topology.flipped_edges == 0:
        solid = solid_of(part.mesh)
        if solid.status() == manifold3d.Error.NoError and not solid.is_empty():
            return solid
    raise BadMeshError(f"“{part.name}” is not a closed solid, so it cannot be put together; repair it first.")


def _joined(solids: list[manifold3d.Manifold], cutters: list[manifold3d.Manifold], inputs: list[TriMesh]) -> TriMesh:
    whole = manifold3d.Manifold.batch_boolean(solids, manifold3d.OpType.Add)
    if cutters:
        whole = manifold3d.Manifold.batch_boolean([whole, *cutters], manifold3d.OpType.Subtract)
    if whole.is_empty():
        raise BadValueError("Nothing is left when all that is cut away is taken from the rest; move it.")
    low, high = np.array(whole.bounding_box()).reshape(2, 3)
    return cleanup(whole, MERGE_SHARE * float((high - low).max()), inputs)


def _among(meetings: dict[tuple[int, int], Meeting], chosen: list[int]) -> dict[tuple[int, int], Meeting]:
    number = {at: among for among, at in enumerate(chosen)}
    return {
        (number[one], number[other]): meeting
        for (one, other), meeting in meetings.items()
        if one in number and other in number
    }


def _coloured(whole: TriMesh, parts: list[PlacedSolid]) -> TriMesh:
    """Every face in the colour of the part that it came from: the one whose surface is nearest to its middle."""
    if not any(part.colour or part.mesh.colours is not None or part.mesh.corner_colours is not None for part in parts):
        return whole
    everything = together([TriMesh(part.mesh.vertices, part.mesh.faces) for part in parts])
    tints = np.concatenate([_tints(part) for part in parts])
    nearest = nearest_faces(everything, whole.corners.mean(axis=1))
    return replace(whole, corner_colours=np.repeat(tints[nearest][:, None, :], 3, axis=1))


def _tints(part: PlacedSolid) -> NDArray[np.uint8]:
    """One colour for every face, uint8 (M, 4)."""
    mesh, count = part.mesh, len(part.mesh.faces)
    if part.colour is not None:
        return np.tile(np.array(part.colour, dtype=np.uint8), (count, 1))
    if mesh.corner_colours is not None:
        return np.round(mesh.corner_colours.mean(axis=1)).astype(np.uint8)
    if mesh.colours is not None:
        return np.round(mesh.colours[mesh.faces].mean(axis=1)).astype(np.uint8)
    return np.tile(np.array(PLAIN, dtype=np.uint8), (count, 1))
