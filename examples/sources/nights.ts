// Elements of the nights page, in the notation of the book.
type Locator = string;
export const sendBooking: Locator = "css{form.booking > div.form-actions > button.button:first-child}";
export const extraCocoa: Locator = 'css{input[value="cocoa"]}';
export const telescope: Locator = `css{#telescope}`;
