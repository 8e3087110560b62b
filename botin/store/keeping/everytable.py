"""Importing this knows every table: each module of models adds its own to the one register."""

from botin.store import models as models  # noqa: PLC0414
from botin.store import models_books as models_books  # noqa: PLC0414
from botin.store import models_copies as models_copies  # noqa: PLC0414
from botin.store import models_grading as models_grading  # noqa: PLC0414
from botin.store import models_selling as models_selling  # noqa: PLC0414
