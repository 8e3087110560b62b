"""A finding: what cannot be right in a product, where, with its numbers and what to do."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Severity(StrEnum):
    """How bad it is: an error makes figures wrong, a warning may, an info only says."""

    ERROR = "error"
    WARNING = "warning"
    INFO = "info"


@dataclass(frozen=True, slots=True)
class Finding:
    """One finding; ``where`` is like ``odds.csv:5``, the line in the file; ``first`` the line it repeats."""

    code: str
    severity: Severity
    where: str
    message: str
    first: str = ""


def finding(code: str, where: str, message: str, severity: Severity = Severity.ERROR) -> Finding:
    """Make a finding; an error unless said otherwise."""
    return Finding(code, severity, where, message)
