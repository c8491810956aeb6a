"""The provider that a team signs on with, as a file beside its records tells it."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Literal
from urllib.parse import urlsplit

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, SecretStr, StringConstraints, ValidationError

from dastan.core.errors import AppError, InputError, SourceError
from dastan.documents.read import faults_of
from dastan.documents.yaml_places import read_yaml

SIGN_ON_FILE = "sign-on.yaml"
_LOCAL = ("127.0.0.1", "localhost", "::1")


def safe_address(address: str) -> str:
    """An address that is read by TLS, or on this machine alone. Raises ValueError."""
    parts = urlsplit(address)
    if parts.scheme != "https" and not (parts.scheme == "http" and parts.hostname in _LOCAL):
        raise ValueError("an address begins with https://")
    return address


Text = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=500)]
Address = Annotated[Text, AfterValidator(safe_address)]


class Provider(BaseModel):
    """`caption` is what people call it; the three claims are where it tells a person's name, what they sign in as, and
    their groups. It admits everybody whom it knows, or only those whom an administrator has let in."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    caption: Text
    issuer: Address
    client_id: Text
    client_secret: SecretStr
    scopes: Text = "openid profile email"
    sign_in_claim: Text = "preferred_username"
    name_claim: Text = "name"
    groups_claim: Text = "groups"
    admits: Literal["invited", "everybody"] = "invited"
    session_hours: Annotated[int, Field(ge=1, le=24 * 14)] = 12
    """A provider that lets somebody go is asked again after so many."""


def read_provider(data: Path) -> Provider | None:
    """The provider of a team's data folder, if it has one. Raises InputError with every fault, and SourceError."""
    path = data / SIGN_ON_FILE
    if not path.is_file():
        return None
    try:
        if path.stat().st_mode & 0o077:
            path.chmod(0o600)  # it holds a secret
        text = path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as exc:
        raise SourceError(f"{path} cannot be read: {exc}.", "It is UTF-8 text that the server may read.") from exc
    try:
        document, line_of = read_yaml(text, path.name)
        return Provider.model_validate(document)
    except ValidationError as exc:
        faults = faults_of(exc, path.name, line_of)
        raise InputError(
            f"{path} cannot be used.", "docs/security.md shows an example.", details={"faults": faults}
        ) from exc
    except AppError as exc:
        raise InputError(exc.message, exc.hint, details=exc.details) from exc
