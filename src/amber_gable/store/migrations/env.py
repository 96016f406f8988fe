"""Alembic's entry: runs migrations on the engine that `store.schema` hands over."""

from alembic import context
from sqlalchemy import Engine

from amber_gable.store.engine import open_engine
from amber_gable.store.models import Base

engine: Engine | None = context.config.attributes.get("engine")
if engine is None:
    # Called from the command line, to write a new migration.
    engine = open_engine(context.get_x_argument(as_dictionary=True)["url"])

with engine.connect().execution_options(writing=True) as connection:
    context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True, user_module_prefix="")
    with context.begin_transaction():
        context.run_migrations()
