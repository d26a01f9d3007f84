"""What the tables of a database are, as the database itself tells it."""

from typing import Any

from sqlalchemy import Engine, text

QUESTIONS = {
    "tables": "select table_name, engine, table_collation from information_schema.tables "
    "where table_schema = database() order by 1",
    "columns": "select table_name, column_name, column_type, is_nullable, column_default, extra, collation_name "
    "from information_schema.columns where table_schema = database() order by 1, 2",
    "checks": "select table_name, constraint_name, check_clause from information_schema.check_constraints "
    "where constraint_schema = database() order by 1, 2",
    "indexes": "select table_name, index_name, seq_in_index, column_name, non_unique "
    "from information_schema.statistics where table_schema = database() order by 1, 2, 3",
    "references": "select table_name, constraint_name, column_name, referenced_table_name, referenced_column_name "
    "from information_schema.key_column_usage where referenced_table_name is not null and table_schema = database() "
    "order by 1, 2, 3",
    "triggers": "select event_object_table, trigger_name, action_statement from information_schema.triggers "
    "where trigger_schema = database() order by 1, 2",
}


def layout_of(engine: Engine) -> dict[str, list[tuple[Any, ...]]]:
    """Return the tables, columns, checks, indexes, references and triggers of a database."""
    with engine.connect() as connection:
        return {what: [tuple(row) for row in connection.execute(text(ask))] for what, ask in QUESTIONS.items()}
