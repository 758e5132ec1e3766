// A strip along the edge of the window that says what is pointed at: `lines` is a text of JSON, [[words, bold], ...]; an empty
// list takes it away. It keeps out of the way of what is pointed at, `y` CSS pixels from the top of the page, and is no part of
// a capture.
(lines, y) => {
  const said = JSON.parse(lines);
  const layer = globalThis.waryHoundLayer;
  if (!layer) return;
  let strip = layer.querySelector("section");
  if (!said.length) { if (strip) strip.remove(); return; }
  if (!strip) { strip = document.createElement("section"); layer.append(strip); }
  const low = y - scrollY < innerHeight - 150;
  strip.style.cssText = "all:initial;pointer-events:none;position:fixed;left:12px;max-width:calc(100% - 24px);display:block;box-sizing:border-box;" +
    (low ? "bottom:12px;" : "top:12px;") + "padding:10px 14px;border-radius:8px;background:#1c2536;color:#f4f1ea;" +
    "font:14px/20px system-ui,sans-serif;box-shadow:0 2px 12px #0008;border-left:6px solid #6A3D9A;";
  strip.replaceChildren(...said.map(([words, strong]) => {
    const line = document.createElement("div");
    line.textContent = words;
    line.style.cssText = strong ? "font:600 15px/22px ui-monospace,monospace;overflow-wrap:anywhere;" : "color:#c9c4b8;";
    return line;
  }));
}
