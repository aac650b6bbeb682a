"""takes that a person lined up by hand: how much later they begin than the take they are held against"""

from alembic import op

revision = '0028'
down_revision = '0027'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute('ALTER TABLE take ADD COLUMN hand_s FLOAT')
    op.execute("ALTER TABLE take ADD COLUMN hand_to VARCHAR NOT NULL DEFAULT ''")


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
