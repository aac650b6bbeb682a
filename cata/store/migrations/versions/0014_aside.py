"""takes that were set aside, and why a finding is kept as it is"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = '0014'
down_revision = '0013'
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString


def upgrade() -> None:
    # Added in place: a batch would make the table anew and lose the triggers that keep the index of words.
    op.add_column('take', sa.Column('aside', sa.Boolean(), nullable=False, server_default=sa.false()))
    for table in ('accepted', 'habit'):
        op.add_column(table, sa.Column('reason', TEXT(), nullable=False, server_default=''))


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
