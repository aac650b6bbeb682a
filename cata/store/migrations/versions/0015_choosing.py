"""rates between currencies, as a person keeps them"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = '0015'
down_revision = '0014'
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString


def upgrade() -> None:
    op.create_table(
        'rate',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('base', TEXT(), nullable=False),
        sa.Column('quote', TEXT(), nullable=False),
        sa.Column('rate', TEXT(), nullable=False),
        sa.Column('on_date', TEXT(), nullable=False),
        sa.Column('source', TEXT(), nullable=False),
        sa.PrimaryKeyConstraint('id'),
        sa.UniqueConstraint('base', 'quote', 'on_date'),
    )


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
