"""Nebrel for programs: from a picture to a solid in a few lines. `import nebrel` has all of it.

Lengths are millimetres. What is refused raises a `nebrel.NebrelError` with one sentence. Pieces are made of the same
documents as on the shelf, so that whatever a document can say can be asked for by `changed`.
"""
