"""The search index over all checklists (SQLite FTS5): what a card can be found by."""

from __future__ import annotations

from sqlalchemy import text
from sqlalchemy.orm import Session

_OF_PRODUCT = "SELECT c.id FROM card c JOIN section s ON s.id = c.section_id WHERE s.product_id = :product"
_FORGET = text(f"DELETE FROM card_search WHERE rowid IN ({_OF_PRODUCT})")  # noqa: S608  (no outside text in it)
_INDEX = text("""
    INSERT INTO card_search (rowid, number, name, team, club, section)
    SELECT c.id, c.number, c.name, c.team, coalesce(t.clubs, ''), s.label
    FROM card c
    JOIN section s ON s.id = c.section_id
    LEFT JOIN temp.clubs_of_teams t ON t.team = c.team
    WHERE s.product_id = :product
""")


def forget_cards(session: Session, product_id: int) -> None:
    """Take a product's cards out of the index, before they change."""
    session.execute(_FORGET, {"product": product_id})


def index_cards(session: Session, product_id: int) -> None:
    """Put a product's cards into the index: number, people, teams, the clubs behind the teams, section."""
    session.execute(text("CREATE TEMP TABLE IF NOT EXISTS clubs_of_teams (team TEXT PRIMARY KEY, clubs TEXT)"))
    session.execute(text("DELETE FROM temp.clubs_of_teams"))
    session.execute(
        text("""
            INSERT INTO temp.clubs_of_teams
            SELECT own.team, group_concat(DISTINCT t.club)
            FROM (SELECT DISTINCT c.team FROM card c JOIN section s ON s.id = c.section_id
                  WHERE s.product_id = :product AND c.team <> '') own
            JOIN team_club t ON t.product_id = :product AND instr(own.team, t.team)
            GROUP BY own.team
        """),
        {"product": product_id},
    )
    session.execute(_INDEX, {"product": product_id})
