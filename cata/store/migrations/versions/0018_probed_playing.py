"""what the test file's playing says as a take; choosing rests on measurements too"""

import sqlalchemy as sa
from alembic import op

revision = '0018'
down_revision = '0017'
branch_labels = None
depends_on = None

CHANGES = (*(f'{what} ON {table}' for table in ('probe', 'probed_playing') for what in ('INSERT', 'UPDATE', 'DELETE')),
           'UPDATE OF controls ON gear')


def upgrade() -> None:
    op.create_table(
        'probed_playing',
        sa.Column('probe_id', sa.Integer(), autoincrement=False, nullable=False),
        sa.Column('own', sa.JSON(), nullable=False),
        sa.Column('sent', sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(['probe_id'], ['probe.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('probe_id'),
    )
    for change in CHANGES:
        name = change.lower().replace(' on ', '_').replace(' ', '_')
        op.execute(
            f"CREATE TRIGGER revision_{name} AFTER {change} BEGIN "
            "UPDATE revision SET number = number + 1 WHERE name = 'evidence'; END"
        )


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
