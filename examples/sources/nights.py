"""Elements of the nights page, as W3C WebDriver strategy and value."""

HOLD_MOON = ("xpath", '//table[@id="nights"]/tbody/tr[5]/td[5]/button')
SEND_BOOKING = ("css selector", "form.booking > div.form-actions > button.button:first-child")
VISITOR_NAME = ("id", "visitor-name")  # the same word in a text is left alone: "visitor-name"
BOOKING_STATUS = ("css selector", "#booking-status")
GREETING = "Good evening, visitor-name"
