"""words that takes were said to be"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = '0022'
down_revision = '0021'
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString


def upgrade() -> None:
    op.create_table(
        'pointed',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('take_id', sa.Integer(), nullable=False),
        sa.Column('word', TEXT(), nullable=False),
        sa.Column('who', TEXT(), nullable=False),
        sa.Column('said', sa.Boolean(), nullable=False),
        sa.Column('at', TEXT(), nullable=False),
        sa.ForeignKeyConstraint(['take_id'], ['take.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id'),
        sa.UniqueConstraint('take_id', 'word', 'who'),
    )
    op.create_index(op.f('ix_pointed_take_id'), 'pointed', ['take_id'], unique=False)
    op.create_index(op.f('ix_pointed_word'), 'pointed', ['word'], unique=False)


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
