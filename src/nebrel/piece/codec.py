"""Built solids as bytes, for the folder of kept results."""

import io

import numpy as np

from nebrel.core.mesh import TriMesh
from nebrel.core.solid import Deviation, Slab


def encode_slab(slab: Slab) -> bytes:
    """An uncompressed npz archive."""
    file = io.BytesIO()
    np.savez(
        file,
        vertices=slab.mesh.vertices,
        faces=slab.mesh.faces,
        measures=np.array([slab.deviation.max, slab.deviation.rms, slab.tolerance]),
    )
    return file.getvalue()


def decode_slab(data: bytes) -> Slab:
    """The slab that `encode_slab` wrote."""
    with np.load(io.BytesIO(data), allow_pickle=False) as archive:
        largest, rms, tolerance = archive["measures"].tolist()
        mesh = TriMesh(vertices=archive["vertices"], faces=archive["faces"])
    return Slab(mesh=mesh, deviation=Deviation(max=largest, rms=rms), tolerance=tolerance)
