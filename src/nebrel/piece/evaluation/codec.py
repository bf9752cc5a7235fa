"""Built solids as bytes, for the folder of kept results."""

import io
import json
from dataclasses import asdict

import numpy as np

from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.surface_error import Deviation

_NONE = np.empty((0, 4), np.uint8)


def encode_slab(slab: Slab) -> bytes:
    """An uncompressed npz archive."""
    file = io.BytesIO()
    np.savez(
        file,
        vertices=slab.mesh.vertices,
        faces=slab.mesh.faces,
        colours=_NONE if slab.mesh.colours is None else slab.mesh.colours,
        corner_colours=_NONE if slab.mesh.corner_colours is None else slab.mesh.corner_colours,
        tolerance=slab.tolerance,
        unlined=slab.unlined,
        deviation=json.dumps(asdict(slab.deviation)),
    )
    return file.getvalue()


def decode_slab(data: bytes) -> Slab:
    """The slab that `encode_slab` wrote."""
    with np.load(io.BytesIO(data), allow_pickle=False) as archive:
        tolerance = float(archive["tolerance"])
        deviation = Deviation(**json.loads(str(archive["deviation"])))
        colours = archive["colours"] if len(archive["colours"]) else None
        corner_colours = archive["corner_colours"] if len(archive["corner_colours"]) else None
        mesh = TriMesh(archive["vertices"], archive["faces"], colours, corner_colours)
        unlined = "unlined" in archive and bool(archive["unlined"])
    return Slab(mesh=mesh, deviation=deviation, tolerance=tolerance, unlined=unlined)
