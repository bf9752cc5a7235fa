"""What all parts of a piece document have in common."""

from pydantic import BaseModel, ConfigDict

COLOUR_PATTERN = "^#[0-9a-f]{6}$"


class Part(BaseModel):
    """Immutable, without unknown fields, every number finite."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
