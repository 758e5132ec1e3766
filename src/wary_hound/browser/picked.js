// Sets the value of a field that browsers set by a picker: dates, times, colours, ranges. Gives "set", what is wrong, or an empty
// text for any other field.
(element, value) => {
  if (!element.isConnected) return "";  // caret.js says so
  if (!["date", "time", "datetime-local", "month", "week", "color", "range"].includes(element.type)) return "";
  element.focus();
  element.value = value;
  if (element.value !== value && !(element.type === "range" && Number(element.value) === Number(value))) {
    return `it holds ${JSON.stringify(element.value)} then`;
  }
  for (const kind of ["input", "change"]) element.dispatchEvent(new Event(kind, { bubbles: true, composed: kind === "input" }));
  return "set";
}
