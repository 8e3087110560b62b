r"""One class per failure; the message is a sentence that says what to do.

::

    BotinError                 the answer of `botin.web.errors` and of the command line
    ├── BadAmountError         an amount of money that cannot be read
    ├── CurrencyMismatchError  two currencies added without a rate
    ├── BadOddsError           odds or a rate that cannot be read
    ├── DamageTableError       a line of the damage table that is no kind and percentage
    ├── TimeZoneError          a time zone that is not known
    ├── NotFoundError          a product, box or card that is not there
    ├── StoredValueError       a value in the data file that is not what it is kept as
    ├── StaleFormError         the screen was older than the record
    ├── BoxStateError          the box is sealed, open or closed, and the step needs another state
    ├── EntryError             an entry line that was not understood
    ├── ImportRefusedError     a file that is not taken in
    └── UnreadableFileError    a file that cannot be opened or lacks a required column
"""

from __future__ import annotations


class BotinError(Exception):
    """Base of all expected failures.

    Attributes
    ----------
    status : int
        HTTP status the web layer answers with.
    exit_code : int
        What a command ends with.
    """

    status = 400
    exit_code = 1

    def __init__(self, message: str) -> None:
        super().__init__(message)
        self.message = message


class BadAmountError(BotinError):
    """An amount of money that cannot be read."""

    def __init__(self, text: str) -> None:
        super().__init__(f"“{text}” is not an amount. Write it like 39.99 or 2200.")


class AmountTooLargeError(BadAmountError):
    """An amount beyond what any card or box costs."""

    def __init__(self, text: str) -> None:
        BotinError.__init__(self, f"“{text[:30]}” is too large an amount. Write what it cost, like 39.99.")


class CurrencyMismatchError(BotinError):
    """Two currencies were added without a rate."""

    def __init__(self, one: str, other: str) -> None:
        super().__init__(f"{one} and {other} cannot be added. Enter both in one currency.")


class BadOddsError(BotinError):
    """Odds or a rate that cannot be read."""

    def __init__(self, text: str) -> None:
        super().__init__(f"“{text}” is not a rate. Write odds like 1:24 and counts like 2.")


class DamageTableError(BotinError):
    """A line of the table of damage that is not a kind and a percentage."""

    status = 422

    def __init__(self, number: int, line: str) -> None:
        super().__init__(
            f"Line {number} of the damage table, “{line.strip()[:60]}”, is not a kind and a percentage from 0 to 100."
            " Write it like gum stain; 55."
        )


class TimeZoneError(BotinError):
    """A time zone that is not known."""

    status = 422

    def __init__(self, name: str) -> None:
        super().__init__(
            f"“{name[:60]}” is no time zone. Write it like Europe/Paris, or leave it empty for this machine’s own."
        )


class ColumnTwiceError(BotinError):
    """Two columns of one table are said to be the same."""

    status = 422


class NotFoundError(BotinError):
    """What was asked for is not there (any more)."""

    status = 404


class StoredValueError(BotinError):
    """A value in the data file is not what it is kept as."""

    status = 500

    def __init__(self, kind: str) -> None:
        super().__init__(
            f"A {kind} in the data file cannot be read; another program may have written it. Put a backup back "
            "under Settings, Safe keeping, or ask for help with the log in the data directory."
        )


class StaleFormError(BotinError):
    """The form was filled in on a screen older than the record."""

    status = 409


class BoxStateError(BotinError):
    """The step does not fit the state of the box."""

    status = 409


class EntryError(BotinError):
    """An entry line that was not understood."""

    status = 422


class ImportRefusedError(BotinError):
    """A file that is not taken in, with the reason."""

    status = 422


class UnreadableFileError(BotinError):
    """A file that cannot be opened, or a table without a required column."""

    status = 422
    exit_code = 2
