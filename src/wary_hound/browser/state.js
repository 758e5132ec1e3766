// What a control is now, whatever its markup says.
(shown, element) => {
  const attribute = (name) => element.getAttribute(name);
  const ticked = ["checkbox", "radio"].includes(element.type) ? element.checked
    : attribute("aria-checked") !== null ? attribute("aria-checked") === "true" : null;
  let active = document.activeElement;
  while (active && active.shadowRoot && active.shadowRoot.activeElement) active = active.shadowRoot.activeElement;
  return {
    value: typeof element.value === "string" ? element.value : null,
    ticked,
    chosen: element.localName === "select" ? [...element.selectedOptions].map((o) => o.text.trim().replace(/\s+/g, " ")) : [],
    shown: Boolean(shown(element)),
    enabled: !element.matches(":disabled") && attribute("aria-disabled") !== "true",
    editable: element.matches(":read-write"),
    focused: element === active || (element.getRootNode().activeElement === element),
    text: (element.innerText === undefined ? element.textContent : element.innerText).trim(),
  };
}
