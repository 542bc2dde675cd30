"""The folder that holds everything the maker owns: the database, the secret key, gathered styles."""

import os
import secrets
from pathlib import Path

KEY_FILE = "secret-key"


def prepare(folder: Path) -> None:
    """Make the folder, for its owner only, and its secret key where there is none."""
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    secret_key(folder)


def secret_key(folder: Path) -> str:
    """The key of this workshop: made once, by a rename, and readable by its owner only."""
    file = folder / KEY_FILE
    if file.exists() and (key := file.read_text().strip()):
        return key
    fresh = folder / f"{KEY_FILE}.{os.getpid()}"
    with os.fdopen(os.open(fresh, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as new:
        new.write(key := secrets.token_urlsafe(50))
    fresh.replace(file)
    return key
