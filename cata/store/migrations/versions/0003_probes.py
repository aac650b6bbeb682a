"""probes: recordings of the test file, and what was read from them"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = '0003'
down_revision = '0002'
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString


def upgrade() -> None:
    op.create_table('probe',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('gear_id', sa.Integer(), nullable=True),
    sa.Column('loop_id', sa.Integer(), nullable=True),
    sa.Column('digest', TEXT(), nullable=False),
    sa.Column('filename', TEXT(), nullable=False),
    sa.Column('size_bytes', sa.Integer(), nullable=False),
    sa.Column('settings', sa.JSON(), nullable=False),
    sa.Column('nominal_dbfs', sa.Float(), nullable=True),
    sa.Column('channel', sa.Integer(), nullable=True),
    sa.Column('bench', TEXT(), nullable=False),
    sa.Column('added_at', TEXT(), nullable=False),
    sa.ForeignKeyConstraint(['gear_id'], ['gear.id'], ondelete='CASCADE'),
    sa.ForeignKeyConstraint(['loop_id'], ['probe.id'], ondelete='SET NULL'),
    sa.PrimaryKeyConstraint('id')
    )
    for column in ('digest', 'gear_id', 'loop_id'):
        op.create_index(f'ix_probe_{column}', 'probe', [column], unique=False)
    op.create_table('probed',
    sa.Column('probe_id', sa.Integer(), nullable=False),
    sa.Column('state', TEXT(), nullable=False),
    sa.Column('result', sa.JSON(), nullable=False),
    sa.ForeignKeyConstraint(['probe_id'], ['probe.id'], ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('probe_id')
    )
