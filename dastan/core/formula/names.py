"""How a name is written, in every place where names are: in double quotes, those inside it doubled."""

from __future__ import annotations


def quoted(name: str) -> str:
    """A name in double quotes, those inside it doubled."""
    return '"' + name.replace('"', '""') + '"'


def unquoted(text: str) -> str:
    """What stands in quotes, or a bare word itself."""
    if text[:1] in "\"'" and len(text) > 1:
        return text[1:-1].replace(text[0] * 2, text[0])
    return str(text)
