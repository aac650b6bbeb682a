"""solid ground: places are unique, work that was asked for, work that failed"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = '0005'
down_revision = '0004'
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString


def upgrade() -> None:
    for table in ('contender', 'test', 'planned'):
        # Concurrent edits may have given two rows one place: they are numbered anew in the order they were shown in.
        op.execute(f'''UPDATE {table} SET position = (SELECT count(*) FROM {table} other
            WHERE other.flight_id = {table}.flight_id
            AND (other.position < {table}.position OR (other.position = {table}.position AND other.id < {table}.id)))
            WHERE id IN (SELECT one.id FROM {table} one JOIN {table} two
            ON one.flight_id = two.flight_id AND one.position = two.position AND one.id <> two.id)
            OR flight_id IN (SELECT one.flight_id FROM {table} one JOIN {table} two
            ON one.flight_id = two.flight_id AND one.position = two.position AND one.id <> two.id)''')
        op.create_index(f'ix_{table}_position', table, ['flight_id', 'position'], unique=True)
    # Of two takes in one cell the first stays, as it did on every page.
    op.execute('''UPDATE take SET contender_id = NULL, test_id = NULL, repeat = 0 WHERE id IN (
        SELECT later.id FROM take later JOIN take earlier ON earlier.contender_id = later.contender_id
        AND earlier.test_id = later.test_id AND earlier.repeat = later.repeat AND earlier.id < later.id)''')
    op.execute('UPDATE take SET contender_id = NULL, test_id = NULL, repeat = 0 '
               'WHERE (contender_id IS NULL) <> (test_id IS NULL)')
    op.create_index('ix_take_cell', 'take', ['contender_id', 'test_id', 'repeat'], unique=True,
                    sqlite_where=sa.text('test_id IS NOT NULL'))
    for name, kind, default in (('takes', sa.Integer(), '0'), ('found', sa.Boolean(), '1'), ('refusal', TEXT(), '')):
        op.add_column('recording', sa.Column(name, kind, nullable=False, server_default=default))
    op.create_table('asked',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('duty', TEXT(), nullable=False),
    sa.Column('flight_id', sa.Integer(), nullable=False),
    sa.Column('wish', sa.JSON(), nullable=False),
    sa.Column('total', sa.Integer(), nullable=False),
    sa.ForeignKeyConstraint(['flight_id'], ['flight.id'], ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id')
    )
    op.create_index('ix_asked_duty', 'asked', ['duty'], unique=False)
    op.create_index('ix_asked_flight_id', 'asked', ['flight_id'], unique=False)
    op.create_table('failure',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('duty', TEXT(), nullable=False),
    sa.Column('ident', sa.Integer(), nullable=False),
    sa.Column('flight_id', sa.Integer(), nullable=False),
    sa.Column('state', TEXT(), nullable=False),
    sa.Column('code', TEXT(), nullable=False),
    sa.Column('text', TEXT(), nullable=False),
    sa.Column('free_bytes', sa.Integer(), nullable=True),
    sa.Column('at', TEXT(), nullable=False),
    sa.PrimaryKeyConstraint('id'),
    sa.UniqueConstraint('duty', 'ident')
    )
    op.create_index('ix_failure_flight_id', 'failure', ['flight_id'], unique=False)
