"""The desk of the preferences: hands them to the page, and keeps what is chosen."""

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog

from humble_courier.errors import BadInput
from humble_courier.ui.desk import StageDesk
from humble_courier.ui.stages.preferences.stage import PreferencesStage
from humble_courier.ui.workplace import Workplace

AT_NEXT_START = "From the next start on: {folder}. What is here stays here; the copy of everything (Records) moves it."


class PreferencesDesk(StageDesk):
    """Preferences belong to the person, not to the records."""

    def __init__(self, work: Workplace) -> None:
        self.stage = PreferencesStage()
        super().__init__(self.stage, work)
        self.stage.preferred.connect(lambda key, value: work.do(lambda: work.prefer(**{key: value})))
        self.stage.folder.connect(self._choose)
        self.stage.step_wanted.connect(work.step_wanted)

    def show(self) -> None:
        """Show what is preferred."""
        now, here = self.work.preferences, str(self.work.opened_records().folder)
        other = now.data and Path(now.data).expanduser() != Path(here)
        told = AT_NEXT_START.format(folder=now.data) if other else "Links, proofs, kit, own sheets and logs are all in it."
        if self.work.kept_preferences.problem:
            self.problem(self.work.kept_preferences.problem)
        self.stage.show_team(self.work.preferences.records, self.work.team_told)
        self.stage.show_preferences(now, here, told, self.work.theme.scale)

    def _choose(self) -> None:
        chosen = QFileDialog.getExistingDirectory(self.stage, "Folder of the records")
        if chosen:
            self.work.do(lambda: self.live_in(Path(chosen)))

    def live_in(self, folder: Path) -> None:
        """Prefer a folder for the records. Raises BadInput where it is none."""
        if not folder.is_dir():
            raise BadInput(f"{folder} is not a folder")
        self.work.prefer(data=str(folder))
