"""Real browsers over W3C WebDriver BiDi: connection, launch, capture, acting."""

from wary_hound.browser.browser import Browser
from wary_hound.browser.page import LivePage
from wary_hound.browser.phone import Phone

__all__ = ["Browser", "LivePage", "Phone"]
