"""What a piece could be, and recipes."""

from pydantic import BaseModel, Field

from nebrel.piece.recipes.recipe import Recipe


class ChoiceView(BaseModel):
    """One thing that a piece could be; `now` for what it is, `remembered` for what was last made of such pictures."""

    name: str
    title: str
    now: bool
    remembered: bool


class TileView(BaseModel):
    """How a choice comes out, looked at on a small copy; `picture` is a data address, empty where it cannot be made."""

    size_mm: tuple[float, float, float]
    picture: str
    word: str
    advice: str


class ChoiceOrder(BaseModel):
    """What a piece is to become, ordered while looking at revision `base`."""

    base: int
    name: str = Field(max_length=40)


class RecipeView(BaseModel):
    """A recipe; `ready` for one that is always there, `fits` whether it can be laid on the piece asked about."""

    key: str
    name: str
    makes: str
    ready: bool
    fits: bool


class RecipeName(BaseModel):
    """What the settings of a piece are to be kept as."""

    piece_id: str = Field(max_length=64)
    name: str = Field(min_length=1, max_length=80)


class RecipeOrder(BaseModel):
    """The recipe to lay on a piece, ordered while looking at revision `base`."""

    base: int
    key: str = Field(max_length=100)


class RecipeFile(Recipe):
    """A recipe as a file holds it."""
