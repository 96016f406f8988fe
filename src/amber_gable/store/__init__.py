"""The store: SQLAlchemy models, sessions, migrations, queries. The only room that knows SQL."""
