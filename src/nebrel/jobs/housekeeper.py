"""What is done by itself while a server works: copies of the database, and sources that nothing uses any more."""

import logging
import threading

from nebrel.jobs.workshop import Workshop
from nebrel.store.copies import copy_when_due
from nebrel.store.folder import DATABASE
from nebrel.store.housekeeping import Housekeeping

LOG = logging.getLogger("nebrel.housekeeper")
# A start is not held up; then it is looked after once an hour.
FIRST_SECONDS, EVERY_SECONDS = 10.0, 3600.0


class Housekeeper:
    """Looks after a data folder in a thread of its own; what it cannot do is told to the log and tried again."""

    def __init__(self, workshop: Workshop) -> None:
        self._workshop = workshop
        self._stopping = threading.Event()
        self._thread = threading.Thread(target=self._look_after, name="housekeeper", daemon=True)

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def stop(self) -> None:
        """End, after what is being done."""
        self._stopping.set()
        self._thread.join(timeout=30)

    def work(self) -> None:
        """Do what is due."""
        folder = self._workshop.settings.data_dir
        for act in (
            lambda: copy_when_due(folder, folder / DATABASE),
            lambda: Housekeeping(self._workshop.database, folder).drop_unused(),
        ):
            try:
                act()
            except Exception:
                LOG.exception("Something in the data folder could not be looked after")

    def _look_after(self) -> None:
        wait = FIRST_SECONDS
        while not self._stopping.wait(wait):
            self.work()
            wait = EVERY_SECONDS
