"""plans: chains, house rules, order, planned takes, long recordings"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = '0002'
down_revision = '0001'
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString


def upgrade() -> None:
    for table, name, kind, default in (
        ('flight', 'chain', sa.JSON(), '{}'),
        ('flight', 'rules', sa.JSON(), '{}'),
        ('flight', 'order', sa.JSON(), '{}'),
        ('contender', 'changes', sa.JSON(), '{}'),
        ('contender', 'wanted', sa.JSON(), '[]'),
        ('take', 'repeat', sa.Integer(), '0'),
        ('take', 'used', sa.JSON(), '{}'),
    ):
        op.add_column(table, sa.Column(name, kind, nullable=False, server_default=default))
    op.add_column('test', sa.Column('condition', sa.JSON(), nullable=True))
    op.create_table('planned',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('flight_id', sa.Integer(), nullable=False),
    sa.Column('number', sa.Integer(), nullable=False),
    sa.Column('contender_id', sa.Integer(), nullable=False),
    sa.Column('test_id', sa.Integer(), nullable=False),
    sa.Column('anchor', sa.Integer(), nullable=False),
    sa.Column('position', sa.Integer(), nullable=False),
    sa.Column('session', sa.Integer(), nullable=False),
    sa.Column('state', TEXT(), nullable=False),
    sa.ForeignKeyConstraint(['contender_id'], ['contender.id'], ondelete='CASCADE'),
    sa.ForeignKeyConstraint(['flight_id'], ['flight.id'], ondelete='CASCADE'),
    sa.ForeignKeyConstraint(['test_id'], ['test.id'], ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id'),
    sa.UniqueConstraint('flight_id', 'number')
    )
    for column in ('contender_id', 'flight_id', 'test_id'):
        op.create_index(f'ix_planned_{column}', 'planned', [column], unique=False)
    op.create_table('recording',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('flight_id', sa.Integer(), nullable=False),
    sa.Column('digest', TEXT(), nullable=False),
    sa.Column('filename', TEXT(), nullable=False),
    sa.Column('size_bytes', sa.Integer(), nullable=False),
    sa.Column('duration_s', sa.Float(), nullable=False),
    sa.Column('rate_hz', sa.Integer(), nullable=False),
    sa.Column('by_slates', sa.Boolean(), nullable=False),
    sa.Column('evidence', TEXT(), nullable=False),
    sa.Column('pieces', sa.JSON(), nullable=False),
    sa.Column('slates', sa.Integer(), nullable=False),
    sa.Column('added_at', TEXT(), nullable=False),
    sa.ForeignKeyConstraint(['flight_id'], ['flight.id'], ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id')
    )
    op.create_index('ix_recording_digest', 'recording', ['digest'], unique=False)
    op.create_index('ix_recording_flight_id', 'recording', ['flight_id'], unique=False)
    op.create_table('waveform',
    sa.Column('recording_id', sa.Integer(), autoincrement=False, nullable=False),
    sa.Column('outline', sa.JSON(), nullable=False),
    sa.ForeignKeyConstraint(['recording_id'], ['recording.id'], ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('recording_id')
    )


def downgrade() -> None:
    for table in ('waveform', 'recording', 'planned'):
        op.drop_table(table)
    op.drop_column('test', 'condition')
    for table, name in (('flight', 'chain'), ('flight', 'rules'), ('flight', 'order'), ('contender', 'changes'),
                        ('contender', 'wanted'), ('take', 'repeat'), ('take', 'used')):
        op.drop_column(table, name)
