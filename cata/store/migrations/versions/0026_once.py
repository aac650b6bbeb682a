"""numbers of rows that are never given out again, a name for good of each row, and copies where numbers stood in JSON

Every table with a number is made anew (SQLite cannot add AUTOINCREMENT): foreign keys must be off meanwhile. What could
be undone before is forgotten: its rows have another shape.
"""

import json

import sqlalchemy as sa
from alembic import op

revision = '0026'
down_revision = '0025'
branch_labels = None
depends_on = None

ENTERED = (
    'gear', 'price', 'rate', 'deal', 'brief', 'flight', 'contender', 'test', 'take', 'planned', 'recording', 'probe',
    'accepted', 'habit', 'choice', 'tasting', 'taster', 'answer', 'bed', 'stem', 'pointed',
)
OTHERS = ('change', 'asked', 'failure', 'reading', 'finding')
NUMBER, KEY = 'id INTEGER NOT NULL', 'PRIMARY KEY (id)'
NUMBERED = 'id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT'
UID = 'lower(hex(randomblob(16)))'

NEW = (
    f'CREATE TABLE deal_item ({NUMBERED}, uid VARCHAR NOT NULL, deal_id INTEGER NOT NULL, gear_id INTEGER, '
    'name VARCHAR NOT NULL, UNIQUE (uid), FOREIGN KEY(deal_id) REFERENCES deal (id) ON DELETE CASCADE, '
    'FOREIGN KEY(gear_id) REFERENCES gear (id) ON DELETE SET NULL)',
    f'CREATE TABLE brief_item ({NUMBERED}, uid VARCHAR NOT NULL, brief_id INTEGER NOT NULL, gear_id INTEGER, '
    'name VARCHAR NOT NULL, own BOOLEAN NOT NULL, feel JSON, UNIQUE (uid), '
    'FOREIGN KEY(brief_id) REFERENCES brief (id) ON DELETE CASCADE, '
    'FOREIGN KEY(gear_id) REFERENCES gear (id) ON DELETE SET NULL)',
    f'CREATE TABLE glass ({NUMBERED}, uid VARCHAR NOT NULL, tasting_id INTEGER NOT NULL, place INTEGER NOT NULL, '
    'contender_id INTEGER, gear_id INTEGER, name VARCHAR NOT NULL, letter VARCHAR NOT NULL, colour INTEGER NOT NULL, '
    'price_minor INTEGER, currency VARCHAR NOT NULL, digest VARCHAR NOT NULL, lag_s FLOAT NOT NULL, '
    'gain_db FLOAT NOT NULL, duration_s FLOAT NOT NULL, measured JSON, UNIQUE (tasting_id, place), '
    'UNIQUE (uid), FOREIGN KEY(tasting_id) REFERENCES tasting (id) ON DELETE CASCADE, '
    'FOREIGN KEY(contender_id) REFERENCES contender (id) ON DELETE SET NULL, '
    'FOREIGN KEY(gear_id) REFERENCES gear (id) ON DELETE SET NULL)',
)
INDICES = (
    ('deal_item', 'deal_id'), ('deal_item', 'gear_id'), ('brief_item', 'brief_id'), ('brief_item', 'gear_id'),
    ('glass', 'tasting_id'), ('glass', 'contender_id'), ('glass', 'gear_id'), ('glass', 'digest'),
)


def upgrade() -> None:
    connection = op.get_bind()
    if connection.exec_driver_sql('PRAGMA foreign_keys').scalar():
        raise RuntimeError('tables are made anew: foreign keys must be off')
    given = _given(connection)
    for statement in NEW:
        op.execute(statement)
    for table, column in INDICES:
        op.execute(f'CREATE INDEX ix_{table}_{column} ON {table} ({column})')
    items = _items(connection)
    poured = _poured(connection)
    op.execute('DELETE FROM change')
    for table in (*ENTERED, *OTHERS):
        _anew(connection, table)
    for table, row in items + poured:
        named = ', '.join(row)
        connection.execute(
            sa.text(f'INSERT INTO {table} (uid, {named}) VALUES ({UID}, {", ".join(":" + key for key in row)})'), row
        )
    for table, number in given.items():
        connection.exec_driver_sql('DELETE FROM sqlite_sequence WHERE name = ?', (table,))
        connection.exec_driver_sql('INSERT INTO sqlite_sequence (name, seq) VALUES (?, ?)', (table, number))
    op.execute(f"INSERT INTO setting (key, value) VALUES ('library', {UID})")
    if connection.exec_driver_sql('PRAGMA foreign_key_check').first() is not None:
        raise RuntimeError('a row points nowhere')


def _given(connection) -> dict[str, int]:
    """The greatest number of each table that is known to have been given out, removed rows included."""
    given = {
        table: connection.exec_driver_sql(f'SELECT coalesce(max(id), 0) FROM "{table}"').scalar()
        for table in (*ENTERED, *OTHERS)
    }

    def note(table, number):
        if table in given and isinstance(number, int) and number < 2**31:
            given[table] = max(given[table], number)

    for (rows,) in connection.exec_driver_sql('SELECT rows FROM change'):
        for row in json.loads(rows):
            note(row['table'].lower(), ((row['before'] or row['after']) or {}).get('id'))
    for (items,) in connection.exec_driver_sql('SELECT items FROM deal'):
        for number in json.loads(items):
            note('gear', number)
    for (contenders,) in connection.exec_driver_sql('SELECT contenders FROM tasting'):
        for number in json.loads(contenders):
            note('contender', number)
    return given


def _names(connection):
    return dict(connection.exec_driver_sql('SELECT id, name FROM gear').fetchall())


def _items(connection):
    """What deals and briefs say of items, as rows; it is taken out of their JSON."""
    names = _names(connection)
    found = []
    for ident, items in connection.exec_driver_sql('SELECT id, items FROM deal').fetchall():
        found += [
            ('deal_item', {'deal_id': ident, 'gear_id': one if one in names else None, 'name': names.get(one, '')})
            for one in json.loads(items)
        ]
    for ident, text in connection.exec_driver_sql('SELECT id, need FROM brief').fetchall():
        need = json.loads(text)
        own = need.pop('own_items', [])
        feel = {int(key): value for key, value in need.pop('feel', {}).items()}
        for one in sorted({*own, *feel} & set(names)):
            row = {'brief_id': ident, 'gear_id': one, 'name': names[one], 'own': one in own,
                   'feel': json.dumps(feel[one]) if one in feel else 'null'}
            found.append(('brief_item', row))
        connection.exec_driver_sql('UPDATE brief SET need = ? WHERE id = ?', (json.dumps(need), ident))
    return found


def _poured(connection):
    """What tastings poured, as far as it is still known."""
    found = []
    statement = 'SELECT id, flight_id, test_id, contenders, digests, revealed_at FROM tasting'
    for ident, flight, test, contenders, digests, revealed in connection.exec_driver_sql(statement).fetchall():
        for place, (number, digest) in enumerate(zip(json.loads(contenders), json.loads(digests))):
            row = connection.exec_driver_sql(
                'SELECT gear_id, name, position, colour, price_minor, currency FROM contender '
                'WHERE id = ? AND flight_id = ?', (number, flight),
            ).first()
            gear, name, position, colour, price, currency = row or (None, 'taken away since', 0, 0, None, 'EUR')
            if row is not None and price is None and gear is not None:
                price, currency = _price(connection, gear, currency)
            take = connection.exec_driver_sql(
                'SELECT take.duration_s, alignment.lag_s FROM take LEFT JOIN alignment ON alignment.take_id = take.id '
                'WHERE digest = ? AND test_id = ?', (digest, test),
            ).first()
            found.append(('glass', {
                'tasting_id': ident, 'place': place, 'contender_id': number if row else None, 'gear_id': gear,
                'name': name, 'letter': chr(ord('A') + position) if row and 0 <= position < 26 else '',
                'colour': colour, 'price_minor': price, 'currency': currency, 'digest': digest,
                'lag_s': (take[1] if take else None) or 0.0, 'gain_db': 0.0, # How loud it was poured is not known: a tasting that is open is to be set up anew.
                'duration_s': take[0] if take and revealed else 0.0,
                'measured': 'null',
            }))
    return found


def _price(connection, gear, currency):
    """What an item costs, as it counts for a contender that names no price: the newest of the first kind there is."""
    row = connection.exec_driver_sql(
        "SELECT price_minor, currency FROM price WHERE gear_id = ? ORDER BY CASE kind WHEN 'new' THEN 0 "
        "WHEN 'offer' THEN 1 ELSE 2 END, on_date DESC, id DESC", (gear,),
    ).first()
    return tuple(row) if row is not None else (None, currency)


def _anew(connection, table: str) -> None:
    """The table with numbers that only grow and, where a person enters it, a name of each row."""
    rest = connection.exec_driver_sql(
        "SELECT sql FROM sqlite_master WHERE tbl_name = ? AND type IN ('index', 'trigger') AND sql IS NOT NULL", (table,)
    ).fetchall()
    (sql,) = connection.exec_driver_sql(
        "SELECT sql FROM sqlite_master WHERE name = ? AND type = 'table'", (table,)
    ).one()
    columns = [row[1] for row in connection.exec_driver_sql(f'PRAGMA table_info("{table}")')]
    gone = {'deal': ('items',), 'tasting': ('contenders', 'digests')}.get(table, ())
    kept = [column for column in columns if column not in gone]
    parts = _parts(sql)
    assert NUMBER in parts and KEY in parts, sql
    parts = [NUMBERED if part == NUMBER else part for part in parts if part != KEY]
    parts = [part for part in parts if part.split(' ', 1)[0].strip('"') not in gone]
    values = ', '.join(f'"{column}"' for column in kept)
    into, of = values, values
    if table in ENTERED:
        parts[1:1] = ['uid VARCHAR NOT NULL']
        parts.insert(len([part for part in parts if not part.startswith(('UNIQUE', 'FOREIGN', 'CONSTRAINT'))]),
                     'UNIQUE (uid)')
        into, of = f'{into}, uid', f'{of}, {UID}'
    if table == 'tasting':
        parts = [_test_may_go(part) for part in parts]
        parts[2:2] = ["test VARCHAR NOT NULL", "set_by VARCHAR NOT NULL", "looked JSON NOT NULL"]
        into += ', test, set_by, looked'
        of += ", (SELECT name FROM test WHERE test.id = tasting.test_id), '', '{}'"
    connection.exec_driver_sql(f'CREATE TABLE "anew_{table}" ({", ".join(parts)})')
    connection.exec_driver_sql(f'INSERT INTO "anew_{table}" ({into}) SELECT {of} FROM "{table}"')
    connection.exec_driver_sql(f'DROP TABLE "{table}"')
    connection.exec_driver_sql(f'ALTER TABLE "anew_{table}" RENAME TO "{table}"')
    for (statement,) in rest:
        connection.exec_driver_sql(statement)


def _test_may_go(part: str) -> str:
    if part == 'test_id INTEGER NOT NULL':
        return 'test_id INTEGER'
    return part.replace('REFERENCES test (id) ON DELETE CASCADE', 'REFERENCES test (id) ON DELETE SET NULL')


def _parts(sql: str) -> list[str]:
    """The columns and rules of a CREATE TABLE, one each."""
    inside = sql[sql.index('(') + 1 : sql.rindex(')')]
    found, depth, quoted, part = [], 0, False, ''
    for letter in inside:
        quoted ^= letter == "'"
        depth += (letter == '(') - (letter == ')') if not quoted else 0
        if letter == ',' and depth == 0 and not quoted:
            found.append(part)
            part = ''
        else:
            part += letter
    return [' '.join(one.split()) for one in (*found, part)]


def downgrade() -> None:
    raise NotImplementedError('data is kept by backups, not by going back')
