// Elements of the nights page, as W3C WebDriver strategy and value.
export const sendBooking = { using: "css selector", value: "form.booking > div.form-actions > button.button:first-child" };
export const holdMoon = ["xpath", '//table[@id="nights"]/tbody/tr[5]/td[5]/button'];
export const quoted = /"visitor-name"/g;
export const visitorEmail = `#night-form input[name="email"]`;
