"""what a contender does in any take, so that a rule that finds it need not be looked at again"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = '0010'
down_revision = '0009'
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString


def upgrade() -> None:
    op.create_table(
        'habit',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('contender_id', sa.Integer(), nullable=False),
        sa.Column('rule', TEXT(), nullable=False),
        sa.ForeignKeyConstraint(['contender_id'], ['contender.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id'),
        sa.UniqueConstraint('contender_id', 'rule'),
    )
    op.create_index('ix_habit_contender_id', 'habit', ['contender_id'], unique=False)


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
