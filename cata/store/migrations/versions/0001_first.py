"""first"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = '0001'
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:

    op.create_table('brief',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('name', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('need', sa.JSON(), nullable=False),
    sa.Column('created_at', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.PrimaryKeyConstraint('id')
    )
    op.create_table('change',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('at', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('label', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('undone', sa.Boolean(), nullable=False),
    sa.Column('rows', sa.JSON(), nullable=False),
    sa.PrimaryKeyConstraint('id')
    )
    op.create_table('gear',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('kind', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('name', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('about', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('structure', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('controls', sa.JSON(), nullable=False),
    sa.Column('specs', sa.JSON(), nullable=False),
    sa.Column('created_at', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.PrimaryKeyConstraint('id')
    )
    op.create_table('setting',
    sa.Column('key', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('value', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.PrimaryKeyConstraint('key')
    )
    op.create_table('flight',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('name', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('question', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('link', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('held', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('school', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('brief_id', sa.Integer(), nullable=True),
    sa.Column('created_at', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.ForeignKeyConstraint(['brief_id'], ['brief.id'], ondelete='SET NULL'),
    sa.PrimaryKeyConstraint('id')
    )
    with op.batch_alter_table('flight', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_flight_brief_id'), ['brief_id'], unique=False)

    op.create_table('price',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('gear_id', sa.Integer(), nullable=False),
    sa.Column('kind', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('price_minor', sa.Integer(), nullable=False),
    sa.Column('currency', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('on_date', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('source', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.ForeignKeyConstraint(['gear_id'], ['gear.id'], ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id')
    )
    with op.batch_alter_table('price', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_price_gear_id'), ['gear_id'], unique=False)

    op.create_table('audited',
    sa.Column('scope', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('flight_id', sa.Integer(), nullable=False),
    sa.Column('state', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.ForeignKeyConstraint(['flight_id'], ['flight.id'], ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('scope')
    )
    with op.batch_alter_table('audited', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_audited_flight_id'), ['flight_id'], unique=False)

    op.create_table('contender',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('flight_id', sa.Integer(), nullable=False),
    sa.Column('gear_id', sa.Integer(), nullable=True),
    sa.Column('name', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('position', sa.Integer(), nullable=False),
    sa.Column('colour', sa.Integer(), nullable=False),
    sa.Column('is_bypass', sa.Boolean(), nullable=False),
    sa.Column('price_minor', sa.Integer(), nullable=True),
    sa.Column('currency', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('settings', sa.JSON(), nullable=False),
    sa.ForeignKeyConstraint(['flight_id'], ['flight.id'], ondelete='CASCADE'),
    sa.ForeignKeyConstraint(['gear_id'], ['gear.id'], ondelete='SET NULL'),
    sa.PrimaryKeyConstraint('id')
    )
    with op.batch_alter_table('contender', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_contender_flight_id'), ['flight_id'], unique=False)
        batch_op.create_index(batch_op.f('ix_contender_gear_id'), ['gear_id'], unique=False)

    op.create_table('test',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('flight_id', sa.Integer(), nullable=False),
    sa.Column('name', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('position', sa.Integer(), nullable=False),
    sa.Column('sound', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('about', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.ForeignKeyConstraint(['flight_id'], ['flight.id'], ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id')
    )
    with op.batch_alter_table('test', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_test_flight_id'), ['flight_id'], unique=False)

    op.create_table('take',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('flight_id', sa.Integer(), nullable=False),
    sa.Column('contender_id', sa.Integer(), nullable=True),
    sa.Column('test_id', sa.Integer(), nullable=True),
    sa.Column('digest', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('filename', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('size_bytes', sa.Integer(), nullable=False),
    sa.Column('container', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('codec', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('lossy', sa.Boolean(), nullable=False),
    sa.Column('rate_hz', sa.Integer(), nullable=False),
    sa.Column('channels', sa.Integer(), nullable=False),
    sa.Column('duration_s', sa.Float(), nullable=False),
    sa.Column('notes', sa.JSON(), nullable=False),
    sa.Column('lead_in_s', sa.Float(), nullable=False),
    sa.Column('evidence', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('added_at', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.ForeignKeyConstraint(['contender_id'], ['contender.id'], ondelete='SET NULL'),
    sa.ForeignKeyConstraint(['flight_id'], ['flight.id'], ondelete='CASCADE'),
    sa.ForeignKeyConstraint(['test_id'], ['test.id'], ondelete='SET NULL'),
    sa.PrimaryKeyConstraint('id')
    )
    with op.batch_alter_table('take', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_take_contender_id'), ['contender_id'], unique=False)
        batch_op.create_index(batch_op.f('ix_take_digest'), ['digest'], unique=False)
        batch_op.create_index(batch_op.f('ix_take_flight_id'), ['flight_id'], unique=False)
        batch_op.create_index(batch_op.f('ix_take_test_id'), ['test_id'], unique=False)

    op.create_table('accepted',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('take_id', sa.Integer(), nullable=False),
    sa.Column('rule', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.ForeignKeyConstraint(['take_id'], ['take.id'], ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id'),
    sa.UniqueConstraint('take_id', 'rule')
    )
    with op.batch_alter_table('accepted', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_accepted_take_id'), ['take_id'], unique=False)

    op.create_table('alignment',
    sa.Column('take_id', sa.Integer(), autoincrement=False, nullable=False),
    sa.Column('reference_id', sa.Integer(), nullable=False),
    sa.Column('lag_s', sa.Float(), nullable=True),
    sa.Column('exact', sa.Boolean(), nullable=False),
    sa.Column('polarity', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('tempo_ratio', sa.Float(), nullable=True),
    sa.Column('tuning_cents', sa.Float(), nullable=True),
    sa.Column('same_phrase', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.ForeignKeyConstraint(['take_id'], ['take.id'], ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('take_id')
    )
    op.create_table('analysed',
    sa.Column('take_id', sa.Integer(), autoincrement=False, nullable=False),
    sa.Column('method', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('lead_in_s', sa.Float(), nullable=False),
    sa.Column('refusal', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('copy_gain_db', sa.Float(), nullable=False),
    sa.Column('outline', sa.JSON(), nullable=False),
    sa.Column('spectrum', sa.JSON(), nullable=False),
    sa.ForeignKeyConstraint(['take_id'], ['take.id'], ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('take_id')
    )
    op.create_table('finding',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('flight_id', sa.Integer(), nullable=False),
    sa.Column('test_id', sa.Integer(), nullable=True),
    sa.Column('take_id', sa.Integer(), nullable=False),
    sa.Column('rule', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('severity', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('text', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('advice', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('picture', sa.JSON(), nullable=True),
    sa.ForeignKeyConstraint(['flight_id'], ['flight.id'], ondelete='CASCADE'),
    sa.ForeignKeyConstraint(['take_id'], ['take.id'], ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id')
    )
    with op.batch_alter_table('finding', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_finding_flight_id'), ['flight_id'], unique=False)
        batch_op.create_index(batch_op.f('ix_finding_take_id'), ['take_id'], unique=False)
        batch_op.create_index(batch_op.f('ix_finding_test_id'), ['test_id'], unique=False)

    op.create_table('reading',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('take_id', sa.Integer(), nullable=False),
    sa.Column('key', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('value', sa.JSON(), nullable=True),
    sa.Column('flag', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('refusal', sqlmodel.sql.sqltypes.AutoString(), nullable=False),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.ForeignKeyConstraint(['take_id'], ['take.id'], ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id'),
    sa.UniqueConstraint('take_id', 'key')
    )
    with op.batch_alter_table('reading', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_reading_take_id'), ['take_id'], unique=False)




def downgrade() -> None:

    with op.batch_alter_table('reading', schema=None) as batch_op:
        batch_op.drop_index(batch_op.f('ix_reading_take_id'))

    op.drop_table('reading')
    with op.batch_alter_table('finding', schema=None) as batch_op:
        batch_op.drop_index(batch_op.f('ix_finding_test_id'))
        batch_op.drop_index(batch_op.f('ix_finding_take_id'))
        batch_op.drop_index(batch_op.f('ix_finding_flight_id'))

    op.drop_table('finding')
    op.drop_table('analysed')
    op.drop_table('alignment')
    with op.batch_alter_table('accepted', schema=None) as batch_op:
        batch_op.drop_index(batch_op.f('ix_accepted_take_id'))

    op.drop_table('accepted')
    with op.batch_alter_table('take', schema=None) as batch_op:
        batch_op.drop_index(batch_op.f('ix_take_test_id'))
        batch_op.drop_index(batch_op.f('ix_take_flight_id'))
        batch_op.drop_index(batch_op.f('ix_take_digest'))
        batch_op.drop_index(batch_op.f('ix_take_contender_id'))

    op.drop_table('take')
    with op.batch_alter_table('test', schema=None) as batch_op:
        batch_op.drop_index(batch_op.f('ix_test_flight_id'))

    op.drop_table('test')
    with op.batch_alter_table('contender', schema=None) as batch_op:
        batch_op.drop_index(batch_op.f('ix_contender_gear_id'))
        batch_op.drop_index(batch_op.f('ix_contender_flight_id'))

    op.drop_table('contender')
    with op.batch_alter_table('audited', schema=None) as batch_op:
        batch_op.drop_index(batch_op.f('ix_audited_flight_id'))

    op.drop_table('audited')
    with op.batch_alter_table('price', schema=None) as batch_op:
        batch_op.drop_index(batch_op.f('ix_price_gear_id'))

    op.drop_table('price')
    with op.batch_alter_table('flight', schema=None) as batch_op:
        batch_op.drop_index(batch_op.f('ix_flight_brief_id'))

    op.drop_table('flight')
    op.drop_table('setting')
    op.drop_table('gear')
    op.drop_table('change')
    op.drop_table('brief')

