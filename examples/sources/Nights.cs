// Elements of the nights page, as W3C WebDriver strategy and value.
static class Nights
{
    public static readonly string[] HoldMoon = { "xpath", @"//table[@id=""nights""]/tbody/tr[5]/td[5]/button" };
    public static readonly string[] SendBooking = { "css selector", "form.booking > div.form-actions > button.button:first-child" };
    public static string Greeting(string name) => $"Good evening, {name}";
}
