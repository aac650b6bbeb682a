"""which browser did something, or asked for it, so that an undo there takes back its own"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = '0012'
down_revision = '0011'
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString


def upgrade() -> None:
    for table in ('change', 'asked'):
        with op.batch_alter_table(table) as batch:
            batch.add_column(sa.Column('by', TEXT(), nullable=False, server_default=''))


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
