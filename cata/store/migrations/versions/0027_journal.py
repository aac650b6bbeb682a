"""what a change touched as rows of their own, so that a long one is taken back in steps

What could be undone before is forgotten.
"""

from alembic import op

revision = '0027'
down_revision = '0026'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute('DELETE FROM change')
    op.execute('ALTER TABLE change DROP COLUMN rows')
    for column in ('partly', 'dropped'):
        op.execute(f'ALTER TABLE change ADD COLUMN {column} BOOLEAN NOT NULL DEFAULT 0')
    op.execute(
        'CREATE TABLE moved (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, change_id INTEGER NOT NULL, '
        'table_name VARCHAR NOT NULL, row_id INTEGER NOT NULL, before JSON, after JSON, undone BOOLEAN NOT NULL, '
        'FOREIGN KEY(change_id) REFERENCES change (id) ON DELETE CASCADE)'
    )
    op.execute('CREATE INDEX ix_moved_row ON moved (change_id, table_name, row_id)')


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
