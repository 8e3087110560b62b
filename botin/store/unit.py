"""One transaction a request: a use case says that it is done, and whoever asked for it commits.

A request of the browser sets the edge: what its use cases wrote is committed when all of it is done, before the
answer is sent, or not at all. A command, a job and a test have none: what is done there is committed at once.
"""

from __future__ import annotations

from collections.abc import Callable

from sqlalchemy import event
from sqlalchemy.orm import Session

_EDGE, _DONE, _AFTER = "edge", "done", "after"


def set_edge(session: Session) -> None:
    """Let the one who opened the session commit what is done in it."""
    session.info[_EDGE] = True


def finish(session: Session, *, as_written: bool = False) -> None:
    """Say that a use case is done: what it wrote is kept, now or with the request that asked for it.

    Parameters
    ----------
    as_written : bool
        The records that were read stand as they are stored: no statement of SQL changed one of them. They are not
        read anew then, which is a third of what logging a card asks of the file.
    """
    if not session.info.get(_EDGE):
        session.commit()
        return
    session.flush()
    if not as_written:
        session.expire_all()  # what statements of SQL changed is read anew
    session.info[_DONE] = True


def afterwards(session: Session, deed: Callable[[], None]) -> None:
    """Do something once what was written is committed: at once where it is already."""
    if session.info.get(_EDGE) and session.info.get(_DONE):
        session.info.setdefault(_AFTER, []).append(deed)
    else:
        deed()


def commit_what_is_done(session: Session) -> None:
    """Commit at the edge, when a use case was done since the last rollback; then do what waits for it."""
    if not session.info.pop(_DONE, False):
        return
    session.commit()
    for deed in session.info.pop(_AFTER, []):
        deed()


@event.listens_for(Session, "after_rollback")
def _nothing_is_done(session: Session) -> None:
    session.info.pop(_DONE, None)
    session.info.pop(_AFTER, None)
