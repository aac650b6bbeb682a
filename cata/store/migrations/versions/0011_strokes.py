"""how far the strokes of a take lie from those of the reference, where the two are not one performance"""

import sqlalchemy as sa
from alembic import op

revision = '0011'
down_revision = '0010'
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table('alignment') as batch:
        batch.add_column(sa.Column('doubt_s', sa.Float(), nullable=True))
    # Takes played twice were called one performance where a single note agreed: all are compared again.
    op.execute("DELETE FROM audited")


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
