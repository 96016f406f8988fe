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
    driver = connection.connection.driver_connection
    assert driver is not None
    # SQLite rebuilds a table by dropping it, which with foreign keys on would delete what hangs on it;
    # the switch does nothing inside a transaction.
    driver.execute("PRAGMA foreign_keys=OFF")
    try:
        context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True, user_module_prefix="")
        with context.begin_transaction():
            context.run_migrations()
            broken = connection.exec_driver_sql("PRAGMA foreign_key_check").all()
            assert not broken, f"a migration left rows hanging on nothing: {broken[:3]}"
    finally:
        connection.rollback()
        driver.execute("PRAGMA foreign_keys=ON")
