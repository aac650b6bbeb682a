"""how loud takes are to the ear over time"""

import sqlalchemy as sa
from alembic import op

revision = '0009'
down_revision = '0008'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'heard',
        sa.Column('take_id', sa.Integer(), nullable=False),
        sa.Column('version', sa.Integer(), nullable=False),
        sa.Column('sone', sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(['take_id'], ['take.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('take_id'),
    )


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
