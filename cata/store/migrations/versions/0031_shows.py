"""which sounds a test shows for one brief, beside what it shows for all"""

from alembic import op

revision = '0031'
down_revision = '0030'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        'CREATE TABLE brief_test (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, uid VARCHAR NOT NULL, '
        'brief_id INTEGER NOT NULL, test_id INTEGER NOT NULL, sounds JSON NOT NULL, UNIQUE (uid), '
        'FOREIGN KEY(brief_id) REFERENCES brief (id) ON DELETE CASCADE, '
        'FOREIGN KEY(test_id) REFERENCES test (id) ON DELETE CASCADE)'
    )
    for column in ('brief_id', 'test_id'):
        op.execute(f'CREATE INDEX ix_brief_test_{column} ON brief_test ({column})')


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
