"""SQLite through SQLAlchemy: models, queries, migrations, backup."""
