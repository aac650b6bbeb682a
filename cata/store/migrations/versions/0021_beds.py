"""beds that takes are heard against"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = '0021'
down_revision = '0020'
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString


def upgrade() -> None:
    op.create_table(
        'bed',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('name', TEXT(), nullable=False),
        sa.Column('digest', TEXT(), nullable=False),
        sa.Column('filename', TEXT(), nullable=False),
        sa.Column('size_bytes', sa.Integer(), nullable=False),
        sa.Column('duration_s', sa.Float(), nullable=False),
        sa.Column('rate_hz', sa.Integer(), nullable=False),
        sa.Column('channels', sa.Integer(), nullable=False),
        sa.Column('tempo_bpm', sa.Float(), nullable=True),
        sa.Column('loudness_lufs', sa.Float(), nullable=True),
        sa.Column('copy_gain_db', sa.Float(), nullable=False),
        sa.Column('added_at', TEXT(), nullable=False),
        sa.PrimaryKeyConstraint('id'),
    )
    op.create_index(op.f('ix_bed_digest'), 'bed', ['digest'], unique=False)


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
