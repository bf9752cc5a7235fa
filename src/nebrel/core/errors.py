"""Everything that Nebrel refuses, each with one sentence for the person who reads it."""


class NebrelError(Exception):
    """A refusal. Its text says in plain words what was wrong and what would be accepted."""


class BadPictureError(NebrelError):
    """The picture cannot be read, or holds nothing that could be sculpted."""


class BadMeshError(NebrelError):
    """The mesh file cannot be read, or holds no usable triangles."""


class UnitNeededError(BadMeshError):
    """The mesh file does not say its unit, and in millimetres it would not be as large as things that are made.

    Attributes:
        size: its extent in X, Y and Z, in whatever its numbers are.
    """

    def __init__(self, name: str, size: tuple[float, ...]) -> None:
        sides = " × ".join(f"{side:.3g}" for side in size)
        super().__init__(
            f"{name} would be {sides} mm, and its format tells no unit; please say whether its numbers are mm, cm, m, "
            "in or ft."
        )
        self.name = name
        self.size = size

    def __reduce__(self) -> tuple[type["UnitNeededError"], tuple[str, tuple[float, ...]]]:
        return UnitNeededError, (self.name, self.size)


class BadDrawingError(NebrelError):
    """The file of outlines cannot be read, or holds none."""


class BadValueError(NebrelError):
    """A number or a choice lies outside what would be accepted."""


class TooLargeError(NebrelError):
    """The input passes a limit on bytes, pixels or triangles."""


class NotFoundError(NebrelError):
    """What was asked for is not in the store."""


class ConflictError(NebrelError):
    """The request does not fit the state that the store has reached meanwhile."""


class NoSpaceError(NebrelError):
    """The disk of the data folder has no more room."""


class BusyError(NebrelError):
    """Something that only one can use at a time is in use for too long."""


class LeftError(NebrelError):
    """Nobody waits for this any more."""
