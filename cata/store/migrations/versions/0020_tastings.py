"""blind tastings"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = '0020'
down_revision = '0019'
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString


def upgrade() -> None:
    op.create_table(
        'tasting',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('flight_id', sa.Integer(), nullable=False),
        sa.Column('test_id', sa.Integer(), nullable=False),
        sa.Column('name', TEXT(), nullable=False),
        sa.Column('contenders', sa.JSON(), nullable=False),
        sa.Column('digests', sa.JSON(), nullable=False),
        sa.Column('rounds', sa.JSON(), nullable=False),
        sa.Column('school', TEXT(), nullable=False),
        sa.Column('seed', TEXT(), nullable=False),
        sa.Column('created_at', TEXT(), nullable=False),
        sa.Column('revealed_at', TEXT(), nullable=False),
        sa.ForeignKeyConstraint(['flight_id'], ['flight.id'], ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['test_id'], ['test.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id'),
    )
    op.create_index(op.f('ix_tasting_flight_id'), 'tasting', ['flight_id'], unique=False)
    op.create_index(op.f('ix_tasting_test_id'), 'tasting', ['test_id'], unique=False)
    op.create_table(
        'taster',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('tasting_id', sa.Integer(), nullable=False),
        sa.Column('number', sa.Integer(), nullable=False),
        sa.Column('name', TEXT(), nullable=False),
        sa.Column('created_at', TEXT(), nullable=False),
        sa.ForeignKeyConstraint(['tasting_id'], ['tasting.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id'),
        sa.UniqueConstraint('tasting_id', 'number'),
    )
    op.create_index(op.f('ix_taster_tasting_id'), 'taster', ['tasting_id'], unique=False)
    op.create_table(
        'answer',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('taster_id', sa.Integer(), nullable=False),
        sa.Column('round', sa.Integer(), nullable=False),
        sa.Column('trial', sa.Integer(), nullable=False),
        sa.Column('what', sa.JSON(), nullable=False),
        sa.Column('at', TEXT(), nullable=False),
        sa.ForeignKeyConstraint(['taster_id'], ['taster.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id'),
        sa.UniqueConstraint('taster_id', 'round', 'trial'),
    )
    op.create_index(op.f('ix_answer_taster_id'), 'answer', ['taster_id'], unique=False)


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
