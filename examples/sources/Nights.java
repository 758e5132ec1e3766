/** Elements of the nights page, as W3C WebDriver strategy and value. */
final class Nights {
    // css: form.booking > div.form-actions > button.button:first-child (a comment stays as it is)
    static final String[] SEND_BOOKING = {"css selector", "form.booking > div.form-actions > button.button:first-child"};
    static final String[] HOLD_MOON = {"xpath", "//table[@id=\"nights\"]/tbody/tr[5]/td[5]/button"};
    static final String[] VISITOR_NAME = {"id", "visitor-name"};
    static final char QUOTE = '"';
}
