"""beds of several stems"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = '0024'
down_revision = '0023'
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString


def upgrade() -> None:
    op.add_column('bed', sa.Column('mix', TEXT(), nullable=False, server_default=''))
    op.create_table(
        'stem',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('bed_id', sa.Integer(), nullable=False),
        sa.Column('name', TEXT(), nullable=False),
        sa.Column('digest', TEXT(), nullable=False),
        sa.Column('filename', TEXT(), nullable=False),
        sa.Column('size_bytes', sa.Integer(), nullable=False),
        sa.Column('gain_db', sa.Float(), nullable=False),
        sa.Column('side', sa.Float(), nullable=False),
        sa.Column('added_at', TEXT(), nullable=False),
        sa.ForeignKeyConstraint(['bed_id'], ['bed.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id'),
    )
    op.create_index(op.f('ix_stem_bed_id'), 'stem', ['bed_id'], unique=False)
    op.create_index(op.f('ix_stem_digest'), 'stem', ['digest'], unique=False)


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
