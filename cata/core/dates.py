"""Days as people write them, in English and German. A day that could be two is refused, never guessed."""

from __future__ import annotations

import re
from datetime import datetime

from cata.errors import Invalid

FORMS = ("%Y-%m-%d", "%Y/%m/%d", "%d.%m.%Y", "%d.%m.%y", "%d %B %Y", "%d %b %Y", "%B %d %Y", "%b %d %Y", "%Y%m%d")
SLASHED = re.compile(r"(\d{1,2})/(\d{1,2})/(\d{4})")
GERMAN = {"januar": "january", "jänner": "january", "februar": "february", "märz": "march", "mai": "may",
          "juni": "june", "juli": "july", "oktober": "october", "dezember": "december", "okt": "oct", "dez": "dec",
          "mrz": "mar"}  # fmt: skip
EARLIEST, LATEST = 1950, 2100


def read_day(text: str) -> str:
    """The ISO date (2026-03-05) of "5.3.2026", "05.03.26", "2026/03/05", "5. März 2026", "March 5, 2026".

    Of "03/05/2026" nobody knows which is the month: Invalid, as for anything else that is no day.
    """
    plain = text.strip()
    if found := SLASHED.fullmatch(plain):
        first, second = int(found[1]), int(found[2])
        if first <= 12 and second <= 12 and first != second:
            raise Invalid(f"{text!r} is the month or the day first? Write 2026-03-31", "two_days")
        day, month = (first, second) if second <= 12 else (second, first)
        plain = f"{found[3]}-{month}-{day}"
    else:
        plain = re.sub(r"(?<=\d)(\.|st|nd|rd|th)(?=\s)|(?<=[^\W\d])\.|,", " ", plain)
        plain = " ".join(GERMAN.get(word.casefold(), word) for word in plain.split())
    for form in FORMS:
        try:
            found_day = datetime.strptime(plain, form)
        except ValueError:
            continue
        if EARLIEST <= found_day.year <= LATEST:
            return found_day.date().isoformat()
    raise Invalid(f"{text!r} is not a date such as 2026-03-31", "no_date")
