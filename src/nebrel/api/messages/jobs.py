"""Long work."""

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from nebrel.api.messages.carving import CarvingResult
from nebrel.core.picture.write import PictureFormat
from nebrel.core.proof.film import FilmFormat
from nebrel.piece.printing.report import PlateReport
from nebrel.piece.report import BuildReport

JobStateName = Literal["waiting", "running", "done", "failed", "cancelled", "interrupted"]


class BuildResult(BaseModel):
    """What a finished build left behind."""

    report: BuildReport
    solid_key: str
    file_key: str
    file_name: str
    recipe_key: str | None = None


class PictureResult(BaseModel):
    """What a finished export of a prepared picture left behind."""

    file_key: str
    file_name: str
    size_px: tuple[int, int]
    dpi: float


class FilmResult(BaseModel):
    """What a turntable left behind."""

    file_key: str
    file_name: str
    frames: int
    size_px: tuple[int, int]


class PlateResult(BaseModel):
    """What laying pieces on one bed left behind."""

    file_key: str
    file_name: str
    report: PlateReport
    sound: bool


class ParcelOrder(BaseModel):
    """Pieces that are to be built and packed."""

    piece_ids: list[str] = Field(min_length=1, max_length=500)


class ParcelResult(BaseModel):
    """What packing many pieces left behind; `refused` has a sentence for each that could not be made."""

    file_key: str
    file_name: str
    done: int
    unsound: int
    refused: list[str]


class FilmOrder(BaseModel):
    """How to film a solid that turns once round: as what, and how long that takes."""

    format: FilmFormat = "mp4"
    seconds: float = Field(6.0, ge=1, le=30)


class ServiceResult(BaseModel):
    """What a service that makes depths left behind: a depth picture, and what it cost."""

    blob: str
    name: str
    span_mm: float
    cost: float
    cost_unit: str


class PictureOrder(BaseModel):
    """How to export a prepared picture."""

    format: PictureFormat = "png"


class JobView(BaseModel):
    """Long work: where it is, and how it ended. `result` is that of a build, `picture` that of an exported picture,
    `depths` that of a service, `film` that of a turntable, `carving` that of a carving, `plate` that of pieces on one
    bed, `parcel` that of many in one ZIP."""

    id: str
    kind: str
    piece_id: str
    revision: int
    state: JobStateName
    stage: str
    fraction: float
    message: str
    created: datetime
    result: BuildResult | None = None
    picture: PictureResult | None = None
    depths: ServiceResult | None = None
    film: FilmResult | None = None
    carving: CarvingResult | None = None
    plate: PlateResult | None = None
    parcel: ParcelResult | None = None
