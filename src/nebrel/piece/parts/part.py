"""What all parts of a piece document have in common."""

from typing import ClassVar

from pydantic import BaseModel, ConfigDict

COLOUR_PATTERN = "^#[0-9a-f]{6}$"


class Part(BaseModel):
    """Immutable, without unknown fields, every number finite; `heading` and `hint` are what its card says."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    heading: ClassVar[str] = ""
    hint: ClassVar[str] = ""
