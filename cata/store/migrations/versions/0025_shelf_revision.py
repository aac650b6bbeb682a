"""a number that moves with everything that costs rest on"""

from alembic import op

revision = '0025'
down_revision = '0024'
branch_labels = None
depends_on = None

TABLES = ('gear', 'price', 'rate')


def upgrade() -> None:
    op.execute("INSERT INTO revision VALUES ('shelf', 0)")
    for table in TABLES:
        for what in ('INSERT', 'UPDATE', 'DELETE'):
            op.execute(
                f'CREATE TRIGGER shelf_{table}_{what.lower()} AFTER {what} ON "{table}" BEGIN '
                "UPDATE revision SET number = number + 1 WHERE name = 'shelf'; END"
            )


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
