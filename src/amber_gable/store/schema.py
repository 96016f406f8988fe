"""Bringing a database to the current schema, by Alembic."""

from importlib import resources

from sqlalchemy import Engine, inspect, text

from amber_gable.store.models import Base

# The newest migration; a test holds it to Alembic's own answer. Kept here so that a start on an
# up-to-date database need not import Alembic.
HEAD = "0025"


# All tables that a database of any version may hold.
TABLES = frozenset({*Base.metadata.tables, "alembic_version"})


def current_revision(engine: Engine) -> str | None:
    """Return the revision the database stands at, None for an empty one."""
    if not inspect(engine).has_table("alembic_version"):
        return None
    with engine.connect() as connection:
        return connection.execute(text("SELECT version_num FROM alembic_version")).scalar()


def is_known(revision: str) -> bool:
    """Return whether a revision is one that this version can bring up to date."""
    return revision.isdigit() and int(revision) <= int(HEAD)


def migrate(engine: Engine) -> bool:
    """Bring the database to the newest schema; return whether anything had to be done."""
    if current_revision(engine) == HEAD:
        return False
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(resources.files("amber_gable.store") / "migrations"))
    config.attributes["engine"] = engine
    command.upgrade(config, "head")
    return True
