"""what is sold together for less"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = '0019'
down_revision = '0018'
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString


def upgrade() -> None:
    op.create_table(
        'deal',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('name', TEXT(), nullable=False),
        sa.Column('items', sa.JSON(), nullable=False),
        sa.Column('off_minor', sa.Integer(), nullable=False),
        sa.Column('currency', TEXT(), nullable=False),
        sa.Column('on_date', TEXT(), nullable=False),
        sa.Column('source', TEXT(), nullable=False),
        sa.PrimaryKeyConstraint('id'),
    )


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
