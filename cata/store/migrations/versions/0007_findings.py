"""findings keep the numbers of their text: they are derived, so all audits are done again"""

import sqlalchemy as sa
from alembic import op

revision = '0007'
down_revision = '0006'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute('DELETE FROM finding')
    op.add_column('finding', sa.Column('numbers', sa.JSON(), nullable=False, server_default='{}'))
    op.execute('DELETE FROM audited')


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
