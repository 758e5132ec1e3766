"""Real browsers over W3C WebDriver BiDi: connection, launch, capture."""

from wary_hound.browser.browser import Browser, LivePage

__all__ = ["Browser", "LivePage"]
