"""decision cards that are kept"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = '0016'
down_revision = '0015'
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString


def upgrade() -> None:
    op.create_table(
        'choice',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('name', TEXT(), nullable=False),
        sa.Column('made_at', TEXT(), nullable=False),
        sa.Column('asked', sa.JSON(), nullable=False),
        sa.Column('need', sa.JSON(), nullable=False),
        sa.Column('card', sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint('id'),
    )


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
