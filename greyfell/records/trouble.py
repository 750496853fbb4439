"""What can be the matter with the data folder, each as a sentence and a way on."""

from pathlib import Path


class Trouble(Exception):
    """Something is the matter with the data folder: what, and what can be done about it."""

    def __init__(self, sentence: str, way: str):
        super().__init__(sentence, way)
        self.sentence, self.way = sentence, way

    def __str__(self) -> str:
        return f"{self.sentence} {self.way}"


RESTORE = "“greyfell check” looks it over, “greyfell restore” puts a backup back."
AGAIN = "Nothing of this was stored. Wait a moment, then send it again."
SPACE = "Nothing of this was stored. Make room, then send it again."
FOLDER = "Nothing of this was stored. Put the folder right, or start with another: --data FOLDER."
WORDS = (
    ("locked", "Another program holds the data file.", AGAIN),
    ("busy", "Another program holds the data file.", AGAIN),
    ("disk is full", "The disk is full.", SPACE),
    ("no space left", "The disk is full.", SPACE),
    ("file too large", "The data file may not grow: the disk or a limit is full.", SPACE),
    ("disk i/o error", "The data file could not be written or read: is the disk full?", SPACE),
    ("readonly", "The data folder cannot be written.", FOLDER),
    ("read-only", "The data folder cannot be written.", FOLDER),
    ("permission denied", "The data folder cannot be written.", FOLDER),
    ("not a directory", "The data folder is no folder.", FOLDER),
    ("file exists", "The data folder is no folder.", FOLDER),
    ("no such file", "The data folder cannot be made there.", FOLDER),
    ("unable to open", "The data file cannot be opened.", FOLDER),
    ("malformed", "The data file is damaged.", RESTORE),
    ("not a database", "The data file is damaged, or is no data file.", RESTORE),
    ("no such table", "The data file lacks a table: it is damaged, or another program's.", RESTORE),
)
"""What an error says, by a word of it: the sentence, and the way on."""


def told(error: BaseException) -> Trouble:
    """An error of the database or the disk, as it is told.

    >>> told(OSError("database is locked")).sentence
    'Another program holds the data file.'
    """
    said = str(error).lower()
    for word, sentence, way in WORDS:
        if word in said:
            return Trouble(sentence, way)
    return Trouble("The data file could not be used.", RESTORE)


def gone(folder: Path) -> Trouble:
    """The folder, or the file in it, is not the one that was opened."""
    return Trouble(
        f"The data folder {folder} was moved, removed or replaced while Greyfell was open.",
        "Nothing of this was stored. Put it back where it was, or start Greyfell again.",
    )
