"""The exception tree. Every error says what was wrong, where, and what to do next, in one line."""

from __future__ import annotations


class WaryHoundError(Exception):
    """Base of all errors that this library raises on purpose."""


class PageError(WaryHoundError):
    """A page could not be read, or holds nothing."""


class FactsError(PageError):
    """The facts of a page were asked for (a box, a picture) and are not known."""


class NotationError(WaryHoundError):
    """A locator, or the expression in it, does not parse.

    `column` counts characters from 1 in `text`; `expected` says what could stand there.
    """

    def __init__(self, text: str, column: int, expected: str, what: str = "locator") -> None:
        self.text = text
        self.column = column
        self.expected = expected
        shown = text if len(text) <= 200 else text[:197] + "..."
        self.what = what
        super().__init__(f"{what} does not parse at column {column}: expected {expected}, in: {shown}")

    def __reduce__(self) -> tuple[object, ...]:
        return type(self), (self.text, self.column, self.expected, self.what)


class LocatorError(WaryHoundError):
    """A locator that parses cannot be evaluated on this page (no boxes known, too much work)."""


class NotFound(WaryHoundError):
    """A locator matched no element. `explanation` tells where it narrowed to nothing."""

    def __init__(self, message: str, explanation: object = None) -> None:
        self.explanation = explanation
        super().__init__(message)


class Ambiguous(WaryHoundError):
    """A locator matched several elements. `explanation` tells what sets them apart."""

    def __init__(self, message: str, explanation: object = None) -> None:
        self.explanation = explanation
        super().__init__(message)


class FileError(WaryHoundError):
    """A book, journey, history or snapshot file is missing, broken or changed meanwhile."""


class StepFailed(WaryHoundError):
    """A step of a journey failed: its number, what it says, and why."""


class BrowserError(WaryHoundError):
    """The browser is not there, went away, or refused."""


class BrowserGone(BrowserError):
    """The browser has ended, or the connection to it: start another."""


class PageClosed(BrowserError):
    """The page has been closed, by itself or by somebody; the browser is there."""


class DocumentGone(BrowserError):
    """The document went away under a question, by a navigation: ask again."""


class ElementGone(BrowserError):
    """The element was taken out of its document under a question: look it up again."""


class NotSupported(BrowserError):
    """This browser does not have the command."""


class BrowserTimeout(BrowserError):
    """Something was waited for and did not come in time; the message says what.

    Where it was a locator or an action: `explanation` has what the locator matched on the way, `nearest` the elements that come
    nearest to it, `picture` what was to be seen (PNG).
    """

    def __init__(self, message: str, explanation: object = None, nearest: tuple[object, ...] = (), picture: bytes = b"") -> None:
        self.explanation = explanation
        self.nearest = nearest
        self.picture = picture
        super().__init__(message)
