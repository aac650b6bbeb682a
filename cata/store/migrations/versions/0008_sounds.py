"""ready sounds ask for drive that carries over between phrases: those in briefs that nobody changed are asked anew"""

import json

import sqlalchemy as sa
from alembic import op

revision = '0008'
down_revision = '0007'
branch_labels = None
depends_on = None

# Reading, part, from, to, how much it counts; what it is held against.
BEFORE = {
    "clean-rhythm": (
        ("drive_density", "", None, 0.78, 2.0),
        ("crest_db", "", 13.0, None, 1.0),
        ("harshness_db", "", -14.0, 0.0, 1.0),
        ("regions_db", "lows", None, -9.0, 1.0),
    ),
    "edge-of-breakup": (
        ("drive_density", "", 0.72, 0.86, 2.0),
        ("level_spread_db", "", 10.0, 24.0, 2.0),
        ("harshness_db", "", -12.0, 0.0, 1.0),
        ("regions_db", "upper_mids", -9.0, None, 1.0),
    ),
    "crunch": (
        ("drive_density", "", 0.8, 0.92, 2.0),
        ("level_spread_db", "", 5.0, 15.0, 1.0),
        ("low_tightness_ms", "", None, 130.0, 1.0),
        ("harshness_db", "", -8.0, 1.0, 1.0),
    ),
    "singing-lead": (
        ("sustain", "db_per_s", None, 9.0, 2.0),
        ("level_spread_db", "", None, 9.0, 1.0),
        ("harshness_db", "", -10.0, -1.0, 1.0),
        ("regions_db", "lows", None, -12.0, 1.0),
    ),
    "fuzz": (
        ("drive_density", "", 0.88, None, 2.0),
        ("level_spread_db", "", None, 8.0, 1.0),
        ("sustain", "db_per_s", None, 7.0, 1.0),
    ),
    "tight-riff": (
        ("low_tightness_ms", "", None, 105.0, 3.0),
        ("regions_db", "lows", -14.0, -5.0, 1.0),
        ("drive_density", "", 0.66, None, 1.0),
    ),
}
AFTER = {
    "clean-rhythm": (
        ("equivalent_drive", "percent", None, 3.0, 3.0, ""),
        ("level_spread_db", "", -4.0, None, 1.0, "reference"),
        ("harshness_db", "", -5.0, 4.0, 1.0, "reference"),
        ("regions_db", "lows", None, 3.0, 1.0, "reference"),
    ),
    "edge-of-breakup": (
        ("equivalent_drive", "percent", 3.0, 12.0, 3.0, ""),
        ("level_spread_db", "", -6.0, None, 1.0, "reference"),
        ("harshness_db", "", -5.0, 5.0, 1.0, "reference"),
        ("regions_db", "upper_mids", -2.0, None, 1.0, "reference"),
    ),
    "crunch": (
        ("equivalent_drive", "percent", 8.0, 24.0, 3.0, ""),
        ("level_spread_db", "", -9.0, None, 1.0, "reference"),
        ("low_tightness_ms", "", None, 25.0, 1.0, "reference"),
        ("harshness_db", "", -7.0, 6.0, 1.0, "reference"),
    ),
    "singing-lead": (
        ("equivalent_drive", "percent", 10.0, 45.0, 3.0, ""),
        ("sustain", "db_per_s", None, -2.0, 2.0, "reference"),
        ("harshness_db", "", -10.0, 4.0, 1.0, "reference"),
        ("regions_db", "lows", None, 3.0, 1.0, "reference"),
    ),
    "fuzz": (
        ("equivalent_drive", "percent", 30.0, None, 3.0, ""),
        ("level_spread_db", "", None, -2.0, 1.0, "reference"),
        ("sustain", "db_per_s", None, -4.0, 1.0, "reference"),
    ),
    "tight-riff": (
        ("low_tightness_ms", "", None, 10.0, 3.0, "reference"),
        ("regions_db", "lows", -6.0, 4.0, 1.0, "reference"),
        ("equivalent_drive", "percent", 5.0, None, 3.0, ""),
    ),
}


def upgrade() -> None:
    connection = op.get_bind()
    for ident, text in connection.execute(sa.text('SELECT id, need FROM brief')).all():
        need = json.loads(text)
        for sound in need.get('sounds', []):
            if _rows(sound) == BEFORE.get(sound['key']):
                names = ('reading', 'part', 'low', 'high', 'weight', 'against')
                sound['targets'] = [dict(zip(names, row, strict=True)) for row in AFTER[sound['key']]]
        connection.execute(sa.text('UPDATE brief SET need = :need WHERE id = :id'), {'need': json.dumps(need), 'id': ident})


def _rows(sound: dict) -> tuple:
    names = ('reading', 'part', 'low', 'high', 'weight')
    return tuple(tuple(target.get(name) for name in names) for target in sound.get('targets', []))


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
