"""The only reader of the environment. Each package is handed a frozen object."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from pydantic import Field, SecretStr
from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """How the program runs. Every name can be set as TRUE_BACKDROP_<NAME>."""

    model_config = SettingsConfigDict(env_prefix="TRUE_BACKDROP_", frozen=True)

    database_url: SecretStr = SecretStr("postgresql+psycopg://true_backdrop@127.0.0.1:54329/true_backdrop")
    blob_url: str = Field("var/blobs", description="Folder or fsspec URL of the blob store.")
    deliveries: Path = Field(Path("var/deliveries"), description="Where deliveries to a folder are laid.")
    frontend: Path = Field(Path("frontend/dist"), description="The built interface.")
    host: str = "127.0.0.1"
    port: int = 8470
    studio: str = Field("", description="host:port of a studio device, gphoto2 for a camera on USB; empty for none.")
    preview_cache: int = Field(6, description="Frames kept ready for moving a control; about 70 MB each.")

    @property
    def libpq_url(self) -> str:
        """The database address as psycopg and Procrastinate want it."""
        return self.database_url.get_secret_value().replace("postgresql+psycopg://", "postgresql://", 1)


@lru_cache(1)
def settings() -> Settings:
    """The settings of this process, read once."""
    return Settings()
