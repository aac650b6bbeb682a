"""one index of words over gear, flights, their rows, columns and takes, and briefs, kept by triggers

A later migration that makes one of these tables anew makes its triggers anew too.
"""

from alembic import op

revision = '0013'
down_revision = '0012'
branch_labels = None
depends_on = None

# Table, place in the row number, flight, title, body; of the row {0} (new or old).
INDEXED = (
    ('gear', 0, 'NULL', '{0}.name', "{0}.kind || ' ' || {0}.about || ' ' || {0}.structure || ' ' || "
     "coalesce((SELECT group_concat(value, ' ') FROM json_each({0}.specs)), '')"),
    ('flight', 1, '{0}.id', '{0}.name', "{0}.question || ' ' || {0}.link"),
    ('contender', 2, '{0}.flight_id', '{0}.name', "''"),
    ('test', 3, '{0}.flight_id', '{0}.name', '{0}.about'),
    ('take', 4, '{0}.flight_id', '{0}.filename', "''"),
    ('brief', 5, 'NULL', '{0}.name', "coalesce(json_extract({0}.need, '$.style'), '')"),
)


def upgrade() -> None:
    op.execute(
        "CREATE VIRTUAL TABLE find USING fts5(title, body, flight UNINDEXED, "
        "tokenize = 'unicode61 remove_diacritics 2', prefix = '2 3')"
    )
    for table, place, flight, title, body in INDEXED:
        number = f'{{0}}.id * 8 + {place}'
        values = ', '.join((number, title, body, flight))
        add = f'INSERT INTO find (rowid, title, body, flight) VALUES ({values.format("new")})'
        drop = f'DELETE FROM find WHERE rowid = {number.format("old")}'
        op.execute(f'CREATE TRIGGER find_{table}_new AFTER INSERT ON "{table}" BEGIN {add}; END')
        op.execute(f'CREATE TRIGGER find_{table}_gone AFTER DELETE ON "{table}" BEGIN {drop}; END')
        op.execute(f'CREATE TRIGGER find_{table}_changed AFTER UPDATE ON "{table}" BEGIN {drop}; {add}; END')
        known = values.format(f'"{table}"')
        op.execute(f'INSERT INTO find (rowid, title, body, flight) SELECT {known} FROM "{table}"')


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
