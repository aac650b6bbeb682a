"""what 0 dBFS of an interface comes out as, so that headroom is told in volts"""

import sqlalchemy as sa
from alembic import op

revision = '0030'
down_revision = '0029'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('probe', sa.Column('full_scale_dbu', sa.Float(), nullable=True))


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
