"""What can keep somebody from signing on, in words for them and for whoever administers."""

from __future__ import annotations

from typing import Literal, get_args

TroubleCode = Literal[
    "unreachable", "busy", "stale", "refused", "unclear", "not-invited", "name-taken", "shut-out", "no-name", "stays"
]
TROUBLES: frozenset[str] = frozenset(get_args(TroubleCode))

_WORDS: dict[TroubleCode, tuple[str, str]] = {
    "unreachable": ("{0} could not be reached.", "Try again in a moment; if it stays so, tell an administrator."),
    "busy": ("Very many people are signing in just now.", "Try again in a moment."),
    "stale": ("This took too long, or was begun in another window.", "Begin again here."),
    "refused": ("{0} did not let you in.", "Try again, or ask whoever runs it."),
    "unclear": ("What {0} said of you could not be believed.", "Try again; if it stays so, tell an administrator."),
    "not-invited": ("{0} knows you, but nobody has let you in here yet.", "Ask an administrator to invite you by it."),
    "name-taken": (
        "Somebody signs in here by the name that {0} gives you.",
        "Ask an administrator to let you in by it, if that is you.",
    ),
    "shut-out": ("You may not sign in here any more.", "Ask an administrator."),
    "no-name": ("{0} does not say what you sign in as.", "Ask an administrator: it may be told by another claim."),
    "stays": ("{0} cannot be left from here.", "Sign out there yourself."),
}


class SignOnError(Exception):
    """Somebody cannot sign on. `reason` is for administrators."""

    def __init__(self, code: TroubleCode, reason: str = "") -> None:
        super().__init__(f"{code}: {reason}" if reason else code)
        self.code: TroubleCode = code
        self.reason = reason


def trouble_words(code: TroubleCode, provider: str) -> tuple[str, str]:
    """What happened, and what to do, for whoever wanted to sign on by a provider of that caption."""
    message, hint = _WORDS[code]
    return message.format(provider), hint
