"""what is to be recorded again counts nowhere: findings, and what persons keep, move what choosing rests on"""

from alembic import op

revision = '0029'
down_revision = '0028'
branch_labels = None
depends_on = None


def upgrade() -> None:
    for table in ('finding', 'accepted', 'habit'):
        for what in ('INSERT', 'UPDATE', 'DELETE'):
            op.execute(
                f'CREATE TRIGGER revision_{table}_{what.lower()} AFTER {what} ON "{table}" BEGIN '
                "UPDATE revision SET number = number + 1 WHERE name = 'evidence'; END"
            )


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
