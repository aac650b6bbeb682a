"""A version made from code changes with what the code does, and with nothing else."""

from __future__ import annotations

import pytest

from cata.core.versioned import shape_of, version_of
from cata.services.match import audits

RULE = '"""A rule."""\nLIMIT = 3.5\n\n\ndef over(value: float) -> bool:\n    return value > LIMIT\n'


def test_words_about_the_code_change_nothing_and_a_limit_does() -> None:
    told = RULE.replace("return", '"""Whether it is over."""\n    return').replace("A rule", "Another").replace(
        "LIMIT = 3.5", "LIMIT = 3.5  # set on flights"
    )  # fmt: skip
    assert shape_of(told) == shape_of(RULE)
    assert shape_of(RULE.replace("3.5", "3.6")) != shape_of(RULE)
    assert shape_of(RULE.replace(" > ", " >= ")) != shape_of(RULE)


def test_a_package_stands_for_all_its_modules_and_a_wrong_name_is_refused() -> None:
    whole, part = version_of("cata.core.match"), version_of("cata.core.match.rules")
    assert len(whole) == 16
    assert len({whole, part, version_of("cata.core.match.rules.tone")}) == 3
    with pytest.raises(ModuleNotFoundError):
        version_of("cata.core.match.rules.none")


def test_a_changed_rule_makes_every_audit_due(monkeypatch: pytest.MonkeyPatch) -> None:
    before = audits._state([1])
    assert audits._state([1]) == before
    monkeypatch.setattr(audits, "version_of", lambda *names: f"changed {names}")
    assert audits._state([1]) != before
