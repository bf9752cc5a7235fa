"""Settings, from `NEBREL_*` environment variables."""

from pathlib import Path
from typing import TYPE_CHECKING, Literal

import platformdirs
from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

if TYPE_CHECKING:
    from nebrel.core.picture import ReadLimits


class Settings(BaseSettings):
    """What an installation may change without touching code."""

    model_config = SettingsConfigDict(env_prefix="NEBREL_")

    data_dir: Path = Field(default_factory=lambda: Path(platformdirs.user_data_dir("nebrel")))
    host: str = "127.0.0.1"
    port: int = 8642
    access_token: str | None = None
    certificate: Path | None = None
    key: Path | None = None
    picture_bytes: int = 640 * 2**20
    picture_pixels: int = 16_384 * 16_384
    picture_side_px: int = 16_384
    mesh_bytes: int = 3 * 2**30
    drawing_bytes: int = 64 * 2**20
    pack_bytes: int = 512 * 2**20
    piece_bytes: int = 4 * 2**30
    body_bytes: int = 16 * 2**20
    memory_cache_bytes: int = 768 * 2**20
    folder_cache_bytes: int = 4 * 2**30
    service_url: str = ""
    service_token: str | None = None
    printer_url: str = ""
    workers: int = Field(1, ge=1, le=16)
    cluster_workers: int = Field(0, ge=0, le=64)
    scheduler: str = ""
    results: str = ""
    readers: int = Field(2, ge=1, le=16)
    lookers: int = Field(2, ge=1, le=16)
    log_level: Literal["debug", "info", "warning", "error"] = "info"
    log_format: Literal["text", "json"] = "text"
    log_bytes: int = Field(4 * 2**20, ge=2**12)
    log_files: int = Field(5, ge=1, le=100)

    @property
    def read_limits(self) -> "ReadLimits":
        """How large a picture may be."""
        from nebrel.core.picture import ReadLimits

        return ReadLimits(self.picture_bytes, self.picture_pixels, self.picture_side_px)
