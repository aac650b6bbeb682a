"""Settings of the program, in one table: name, default, help. Each can be an environment variable CATA_<NAME>."""

from __future__ import annotations

from pathlib import Path

from platformdirs import user_data_dir
from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

LOOPBACK = "127.0.0.1"


class Settings(BaseSettings):
    """What can be set from outside."""

    model_config = SettingsConfigDict(env_prefix="CATA_")

    port: int = Field(default=8765, ge=1, le=65535, description="port on 127.0.0.1 where Cata answers")
    data_dir: Path = Field(
        default_factory=lambda: Path(user_data_dir("cata", appauthor=False)),
        description="folder that keeps the database and the recordings",
    )
    max_upload_mb: int = Field(default=1024, ge=1, description="largest file that is taken, in MB")
    cluster: str = Field(default="", description="address of a Dask scheduler that does the long work, tcp://host:8786")
    cluster_data_dir: str = Field(
        default="", description="the data folder as the cluster's workers see it: a shared folder or an fsspec address"
    )
    max_minutes: float = Field(default=30.0, gt=0, description="longest recording that is taken, in minutes")

    @property
    def demo_dir(self) -> Path:
        """The folder of the demo, beside that of one's own data."""
        folder = self.data_dir.expanduser()
        return folder.with_name(f"{folder.name}-demo")
