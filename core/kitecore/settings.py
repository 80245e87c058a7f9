"""What can be set from outside, by variables of the environment; checked where it is read."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Annotated

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError

from kitecore.errors import SettingsError


def _paths(text: object) -> object:
    return [Path(path) for path in text.split(os.pathsep) if path] if isinstance(text, str) else text


class Settings(BaseModel):
    """Each is read from ``KITE_`` and its name in capitals; what is empty or missing has its default."""

    model_config = ConfigDict(frozen=True)

    most_megapixels: float = Field(default=250, gt=0, description="Largest source that is taken.")
    threads: int = Field(default=0, ge=0, description="Processor threads of a network; 0: as many as there are.")
    provider: str | None = Field(default=None, description="Execution provider of networks; the best unless given.")
    networks_gigabytes: float = Field(
        default=2,
        gt=0,
        description="About how much memory networks that are loaded hold; those used longest ago are let go.",
    )
    engines: Annotated[list[Path], BeforeValidator(_paths)] = Field(
        default=[], description="Folders of engines beside the shipped ones, separated like PATH."
    )
    lenses: Annotated[list[Path], BeforeValidator(_paths)] = Field(
        default=[], description="Folders of lens profiles (XML) beside the database's, separated like PATH."
    )
    decoded: Path | None = Field(
        default=None,
        description="Folder in which developed raws are kept for all processes; a passing one unless given.",
    )
    decoded_gigabytes: float = Field(default=6, gt=0, description="What is kept there at most.")
    tables: Annotated[list[Path], BeforeValidator(_paths)] = Field(
        default=[], description="Folders of look-up tables, separated like PATH."
    )


def settings() -> Settings:
    """The settings as the environment has them now.

    Raises SettingsError with a sentence that names the variable.
    """
    given = {name: text for name in Settings.model_fields if (text := os.environ.get(f"KITE_{name.upper()}"))}
    try:
        return Settings.model_validate(given)
    except ValidationError as error:
        fault = error.errors(include_url=False)[0]
        variable = f"KITE_{str(fault['loc'][0]).upper()}"
        raise SettingsError(
            f"{variable} is set to “{fault['input']}”, which is not usable: {fault['msg'].rstrip('.').lower()}."
        ) from error
