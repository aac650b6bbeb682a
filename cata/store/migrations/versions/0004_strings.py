"""probes of pickups: six open strings instead of the test file, and how the pickup stood"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = '0004'
down_revision = '0003'
branch_labels = None
depends_on = None


def upgrade() -> None:
    text = sqlmodel.sql.sqltypes.AutoString
    op.add_column('probe', sa.Column('kind', text(), nullable=False, server_default='testfile'))
    op.add_column('probe', sa.Column('made', sa.JSON(), nullable=False, server_default='{}'))
