// The panel of a recording: the last steps, each of which can be undone, a name to change, and the way to add a check. It stands
// in the layer that is no part of a capture, out of the page's styles and events. `state` is a text of JSON: {lines: [{at, says,
// name}], count, checking}; what is asked for is told as texts of JSON: {kind: "undo" | "rename" | "next" | "checking", at, name}.
(tell, draw, state) => {
  draw("[]");
  const { lines, count, checking } = JSON.parse(state);
  const layer = globalThis.waryHoundLayer;
  let panel = layer.querySelector("section.recording");
  const low = panel && panel.dataset.place === "top" ? "top" : "bottom";
  const fresh = document.createElement("section");
  fresh.className = "recording";
  fresh.dataset.place = low;
  fresh.setAttribute("role", "region");
  fresh.setAttribute("aria-label", "Recording");
  const base = "all:initial;pointer-events:auto;box-sizing:border-box;font:13px/20px system-ui,sans-serif;";
  fresh.style.cssText = base + `position:fixed;right:12px;${low}:12px;width:340px;display:block;padding:10px 12px;border-radius:10px;` +
    "background:#1c2536;color:#f4f1ea;box-shadow:0 2px 14px #0009;border-left:6px solid #6A3D9A;z-index:2147483647;";
  const make = (tag, text, css, act) => {
    const element = document.createElement(tag);
    if (text) element.textContent = text;
    element.style.cssText = base + css;
    if (act) element.addEventListener("click", (event) => { event.stopPropagation(); act(); });
    return element;
  };
  const button = "cursor:pointer;color:#f4f1ea;background:#33405c;border-radius:5px;padding:1px 7px;margin-left:5px;";
  const send = (kind, at, more) => tell(JSON.stringify({ kind, at, ...more }));
  const head = make("div", "", "display:flex;align-items:center;font-weight:600;color:#f4f1ea;");
  head.append(make("span", `● Recording: ${count} step${count === 1 ? "" : "s"}`, "flex:1;font-weight:600;color:#f4f1ea;"));
  const check = make("button", checking ? "Click what to check" : "Check…", button + (checking ? "background:#6A3D9A;" : ""), () => send("checking", -1));
  check.setAttribute("aria-pressed", String(checking));
  head.append(check);
  const dodge = globalThis.waryHoundDodge = () => {
    const top = fresh.dataset.place !== "top";
    fresh.dataset.place = top ? "top" : "bottom";
    fresh.style.top = top ? "12px" : "auto";
    fresh.style.bottom = top ? "auto" : "12px";
  };
  head.append(make("button", "↕", button, dodge));
  head.lastChild.setAttribute("aria-label", "Move the panel");
  fresh.append(head);
  for (const line of lines) {
    const row = make("div", "", "display:flex;align-items:flex-start;margin-top:5px;color:#d9d4c8;");
    row.append(make("span", `${line.at + 1}. ${line.says}`, "flex:1;overflow-wrap:anywhere;color:#d9d4c8;"));
    if (line.check) row.append(make("button", "other", button, () => send("next", line.at)));
    if (line.name) row.append(make("button", "name", button, () => {
      const input = make("input", "", "background:#fff;color:#111;border-radius:4px;padding:1px 6px;width:150px;");
      input.value = line.name;
      input.setAttribute("aria-label", "Name of the element");
      input.addEventListener("keydown", (event) => {
        event.stopPropagation();
        if (event.key === "Enter") send("rename", line.at, { name: input.value });
        if (event.key === "Escape") input.replaceWith(row.children[0]);
      });
      row.replaceChildren(input);
      input.focus();
      input.select();
    }));
    const undo = make("button", "×", button, () => send("undo", line.at));
    undo.setAttribute("aria-label", `Undo step ${line.at + 1}`);
    row.append(undo);
    fresh.append(row);
  }
  fresh.append(make("div", "Alt and a click adds a check.", "margin-top:6px;color:#a9a395;font-size:12px;"));
  if (panel) panel.replaceWith(fresh); else layer.append(fresh);
  globalThis.waryHoundChecking = checking;
}
