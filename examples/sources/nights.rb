# Elements of the nights page, as W3C WebDriver strategy and value.
HOLD_MOON = ['xpath', '//table[@id="nights"]/tbody/tr[5]/td[5]/button'].freeze
SEND_BOOKING = ['css selector', "form.booking > div.form-actions > button.button:first-child"].freeze
VISITOR_NAME = ['id', 'visitor-name'].freeze
