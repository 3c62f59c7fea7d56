"""Preferences: kept, read again, refused where they cannot be, and never lost."""

import stat
from pathlib import Path

import pytest

from humble_courier.app.folders import data_folder
from humble_courier.app.preferences import KeptPreferences, Preferences, preferences_file, read_preferences
from humble_courier.errors import BadInput


def test_they_are_kept_for_the_next_start(tmp_path: Path) -> None:
    path = tmp_path / "deep" / "preferences.json"
    kept = KeptPreferences(path)
    assert kept.now == Preferences() and not path.exists(), "nothing is written before something is preferred"
    kept.change(text=150, colours="outdoor", cautions=["Tell the gate"])
    kept.change(line_end="crlf")
    again = KeptPreferences(path).now
    assert (again.text, again.colours, again.cautions, again.line_end) == (150, "outdoor", ("Tell the gate",), "crlf")
    assert again.first_end.value == "crlf"


@pytest.mark.parametrize("changed", [{"text": 80}, {"text": 210}, {"colours": "pink"}, {"line_end": "nul"}, {"size": 1}])
def test_what_cannot_be_preferred_changes_nothing(tmp_path: Path, changed: dict[str, object]) -> None:
    kept = KeptPreferences(tmp_path / "preferences.json")
    kept.change(text=120)
    with pytest.raises(BadInput):
        kept.change(**changed)
    assert kept.now == read_preferences(tmp_path / "preferences.json") == Preferences(text=120)


@pytest.mark.parametrize("text", ["", "{", "[]", '{"text": 5}', '{"other": 1}', "\xff"])
def test_a_bad_file_is_told_and_left_as_it_is(tmp_path: Path, text: str) -> None:
    path = tmp_path / "preferences.json"
    path.write_bytes(text.encode("latin-1"))
    kept = KeptPreferences(path)
    assert "Mend this file or remove it" in kept.problem and kept.now == Preferences()
    assert path.read_bytes() == text.encode("latin-1")


def test_the_preferred_folder_counts_in_commands_too(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    usual = data_folder()
    KeptPreferences(preferences_file()).change(data=str(tmp_path / "records"))
    assert data_folder() == tmp_path / "records" != usual
    assert data_folder(tmp_path / "asked") == tmp_path / "asked" and "demo" in str(data_folder(demo=True))
    assert stat.S_IMODE(preferences_file().stat().st_mode) == 0o600, "a team's name may hold a password"
    preferences_file().write_text("{")
    with pytest.raises(BadInput, match="Mend this file"):
        data_folder()
