// Focuses a field: all of it is selected, or the caret stands at its `end` or `start`. Gives what it holds; null where it was taken
// out of the page.
(element, place) => {
  if (!element.isConnected) return null;
  element.focus();
  const text = element.value === undefined ? element.textContent : element.value;
  if (element.select) {
    element.select();
    if (place !== "all") {
      try { element.setSelectionRange(place === "end" ? text.length : 0, place === "end" ? text.length : 0); } catch {
        const held = element.value;  // e-mail and number fields have no caret that can be set: at the end it is after this
        if (place === "end") { element.value = ""; element.value = held; }
      }
    }
  } else {
    getSelection().selectAllChildren(element);
    if (place !== "all") getSelection()[place === "end" ? "collapseToEnd" : "collapseToStart"]();
  }
  return text;
}
