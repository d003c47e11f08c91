"""Reading a JSON file as a checked record: one plain sentence when it is none."""

from __future__ import annotations

from pathlib import Path
from typing import TypeVar

from pydantic import BaseModel, ValidationError

from waxtwin.formats.files import FormatError, read_text

Record = TypeVar("Record", bound=BaseModel)


def read_model(path: Path, kind: type[Record]) -> Record:
    """The file as a record. Raises FormatError, which names the field that is wrong."""
    text = read_text(path)
    try:
        return kind.model_validate_json(text)
    except ValidationError as fault:
        first = fault.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        said = first["msg"].removeprefix("Value error, ")
        raise FormatError(path, f"{where + ': ' if where else ''}{said[:160]}") from None
    except RecursionError:
        raise FormatError(path, "it is nested too deeply") from None
    except (OverflowError, TypeError):
        raise FormatError(path, "it holds a number that is too large") from None
