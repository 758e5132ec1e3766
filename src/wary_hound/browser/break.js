// Breaks an element of the last capture, and breaks it again whenever the page changes it: for proofs of checks.
(number, change) => {
  const element = (globalThis.waryHoundTaken || [])[number];
  if (!element) return false;
  const acts = {
    "hidden": (e) => e.style.setProperty("display", "none", "important"),
    "shown": (e) => {
      e.hidden = false;
      for (let at = e; at && at.style; at = at.parentElement) {
        if (getComputedStyle(at).display === "none") at.style.setProperty("display", "block", "important");
        if (getComputedStyle(at).visibility !== "visible") at.style.setProperty("visibility", "visible", "important");
      }
    },
    "another text": (e) => { e.textContent = "broken on purpose"; },
    "one taken out": (e) => e.remove(),
    "another value": (e) => { e.value = e.type === "number" ? "987" : "broken on purpose"; },
    "nothing chosen": (e) => { e.selectedIndex = -1; },
    "the other state": (e) => { e.checked = !e.checked; },
    "disabled": (e) => { e.disabled = true; },
    "enabled": (e) => { e.disabled = false; e.removeAttribute("aria-disabled"); },
    "not editable": (e) => { e.readOnly = true; e.disabled = true; },
    "not focused": (e) => { e.blur(); },
    "other colours": (e) => { e.style.setProperty("filter", "invert(1)", "important"); },
  };
  const act = acts[change];
  if (!act) return false;
  act(element);
  if (change === "one taken out" || change === "the other state") return true;
  const again = new MutationObserver(() => {
    act(element);
    again.takeRecords();
  });
  again.observe(element, { attributes: true, childList: true, characterData: true, subtree: true });
  return true;
}
