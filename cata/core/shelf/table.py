"""From bytes to rows: encodings, separators and line ends as spreadsheets of all countries write them."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass
from itertools import islice

from cata.errors import Refused

MAX_BYTES = 32 << 20
MAX_ROWS = 20_000
MAX_COLUMNS = 200
MAX_CELL = 20_000
SEPARATORS = (",", ";", "\t", "|")
MARKS = ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16"))
# What spreadsheets write where they do not write UTF-8; which one it is cannot be told from a few names.
OLD_ENCODINGS = ("cp1252", "cp1250", "cp1251", "mac_roman")
SNIFFED_ROWS = 60
FORMULA = ("=", "+", "-", "@")
"""What a spreadsheet takes for the begin of a formula, also behind white space."""


@dataclass(frozen=True)
class Table:
    """A table of text: headers, rows (as wide as the headers), and how it was written."""

    headers: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    encoding: str
    separator: str


def read_text(data: bytes, old: str = "cp1252") -> tuple[str, str]:
    """The text of a file and the encoding it was written in; ``old`` where it is no Unicode. Refused where no text."""
    if not data.strip():
        raise Refused("the file is empty", "empty")
    if len(data) > MAX_BYTES:
        raise Refused(
            f"the file has {len(data) / 1e6:.0f} MB; at most {MAX_BYTES >> 20} MB are read at once: split it",
            "too_large",
        )
    for mark, encoding in MARKS:
        if data.startswith(mark):
            try:
                return data.decode(encoding), encoding
            except UnicodeDecodeError as error:
                raise Refused(f"the file says it is {encoding} but is not", "bad_encoding") from error
    if b"\x00" in data[:4096]:
        raise Refused("the file is no text: save the sheet as CSV first", "no_text")
    try:
        return data.decode("utf-8"), "utf-8"
    except UnicodeDecodeError:
        return data.decode(old, errors="replace"), old


def _lines(text: str) -> Iterable[str]:
    # io.StringIO would hold four bytes for every letter.
    return io.TextIOWrapper(io.BytesIO(text.encode("utf-8", "surrogatepass")), "utf-8", "surrogatepass", newline=None)


def _separator(text: str) -> str:
    """The separator that divides the first lines into most columns, the same number in each."""

    def merit(separator: str) -> tuple[float, int]:
        first = islice(csv.reader(_lines(text), delimiter=separator), SNIFFED_ROWS)
        widths = [len(row) for row in first if row]
        usual = max(set(widths), key=widths.count) if widths else 0
        return (widths.count(usual) / len(widths) if usual > 1 else 0.0, usual)

    return max(SEPARATORS, key=merit)


def read_table(data: bytes, old: str = "cp1252") -> Table:
    """A CSV file as a table. Refused with a plain reason where it is none, or is too large."""
    text, encoding = read_text(data, old)
    csv.field_size_limit(MAX_BYTES)
    separator = _separator(text)
    try:
        lines = csv.reader(_lines(text), delimiter=separator)
        # Counted while they are read: of a file of line ends alone nobody wants millions of rows first.
        rows = list(islice((row for row in lines if any(map(str.strip, row))), MAX_ROWS + 2))
    except csv.Error as error:
        raise Refused(f"the file is no table: {error}", "no_table") from error
    if len(rows) < 2:
        raise Refused("the file has no rows under its headings", "no_rows")
    if len(rows) - 1 > MAX_ROWS:
        raise Refused(f"the file has more than {MAX_ROWS:,} rows: split it", "too_many")
    headers = tuple(cell.strip()[:80] for cell in rows[0])
    if len(headers) > MAX_COLUMNS:
        raise Refused(f"the file has {len(headers)} columns; at most {MAX_COLUMNS} are read", "too_many")
    width = len(headers)
    body = tuple(tuple(_cell(c) for c in (*row, *[""] * (width - len(row)))[:width]) for row in rows[1:])
    return Table(headers, body, encoding, separator)


def _cell(text: str) -> str:
    text = "".join(c for c in text.strip()[:MAX_CELL] if c.isprintable() or c in "\n\t")
    # Written by an export that keeps spreadsheets from calculating it.
    return text[1:].strip() if text[:1] == "'" and _begins_a_formula(text) else text


def safe(text: str) -> str:
    """A cell that no spreadsheet takes for a formula; :func:`read_table` gives the text back as it was."""
    return f"'{text}" if _begins_a_formula(text) and not _is_number(text) else text


def _begins_a_formula(text: str) -> bool:
    # One that was kept from being calculated before, perhaps more than once, is kept once more.
    return text.lstrip("' \t\n")[:1] in FORMULA and text.lstrip("' \t\n") != ""


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True


def write_table(headers: list[str], rows: list[list[str]]) -> bytes:
    """A CSV file (RFC 4180) in UTF-8 with a mark, as every spreadsheet opens it."""
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow([safe(header) for header in headers])
    writer.writerows([[safe(cell) for cell in row] for row in rows])
    return out.getvalue().encode("utf-8-sig")
