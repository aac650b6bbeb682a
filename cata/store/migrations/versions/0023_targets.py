"""recordings that are no beds but sounds somebody is after"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = '0023'
down_revision = '0022'
branch_labels = None
depends_on = None


def upgrade() -> None:
    text = sqlmodel.sql.sqltypes.AutoString()
    op.add_column('bed', sa.Column('kind', text, nullable=False, server_default='bed'))


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
