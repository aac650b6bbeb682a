"""a number that moves with everything that choosing rests on"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = '0017'
down_revision = '0016'
branch_labels = None
depends_on = None

TABLES = ('flight', 'test', 'contender', 'take', 'planned', 'analysed', 'reading')


def upgrade() -> None:
    op.create_table(
        'revision',
        sa.Column('name', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
        sa.Column('number', sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint('name'),
    )
    op.execute("INSERT INTO revision VALUES ('evidence', 0)")
    for table in TABLES:
        for what in ('INSERT', 'UPDATE', 'DELETE'):
            op.execute(
                f"CREATE TRIGGER revision_{table}_{what.lower()} AFTER {what} ON \"{table}\" BEGIN "
                "UPDATE revision SET number = number + 1 WHERE name = 'evidence'; END"
            )


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
