"""What a person last made of pictures of a sort."""

from nebrel.store.database import Database
from nebrel.store.tables import LastChoiceRow


class LastChoices:
    """The last choice by the character of a picture."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def of(self, character: str) -> str | None:
        """What was last made of pictures of that character; None where there was none yet."""
        with self._database.reading() as session:
            row = session.get(LastChoiceRow, character)
            return None if row is None else row.choice

    def remember(self, character: str, choice: str) -> None:
        """Keep what was made of a picture of that character."""
        with self._database.writing() as session:
            session.merge(LastChoiceRow(character=character, choice=choice))
