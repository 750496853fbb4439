"""What a data file says by plain SQL, without the tools that write it: a glance costs no start."""

import sqlite3
from contextlib import closing
from pathlib import Path

from greyfell.core.evidence.loading import PRACTICE, PRACTISED
from greyfell.records.copying import PATIENCE

PRACTISED_SQL = (
    f"(title LIKE '{PRACTISED}%' OR EXISTS (SELECT 1 FROM json_each(head, '$.statements') AS said "
    f"WHERE json_extract(said.value, '$.kind') = '{PRACTICE}'))"
)
"""Of the table of pieces: whether one is for practice, as `Transformer.practised` has it."""


def iron_tags(path: Path) -> list[str] | None:
    """Tags of the iron in a data file, in order; None where there is no file that can be read."""
    if not path.is_file() or not path.stat().st_size:
        return None
    query = f"SELECT tag FROM piece WHERE NOT {PRACTISED_SQL} ORDER BY tag"
    try:
        with closing(sqlite3.connect(path, timeout=PATIENCE)) as connection:
            return [str(row[0]) for row in connection.execute(query)]
    except sqlite3.Error:
        return None
