// Outlines elements of the last capture on the page, each with a word on a tag: `marks` is a text of JSON, [[number, word], ...].
// Where `given` elements are meant, the numbers are theirs, and the first is brought into view.
// They scroll with the page, lie above all else, take no pointer, and are no part of a capture. An empty list takes them away.
(marks, ...given) => {
  const PAINT = "#6A3D9A";
  const plain = "all:initial;pointer-events:none;display:block;position:absolute;";
  let host = globalThis.waryHoundDrawn;
  const wanted = JSON.parse(marks);
  if (!host) {
    host = globalThis.waryHoundDrawn = document.createElement("div");
    const firm = { all: "initial", display: "block", position: "absolute", left: "0", top: "0", width: "0", height: "0", margin: "0",
                   padding: "0", border: "0", background: "none", overflow: "visible", "pointer-events": "none", "z-index": "2147483647" };
    for (const [name, value] of Object.entries(firm)) host.style.setProperty(name, value, "important");
    host.setAttribute("aria-hidden", "true");
    host.popover = "manual";
    globalThis.waryHoundLayer = host.attachShadow({ mode: "closed" });
  }
  if (!host.isConnected) document.documentElement.append(host);
  if (host.hidePopover) {  // to the top again, above dialogs that opened meanwhile
    if (host.matches(":popover-open")) host.hidePopover();
    host.showPopover();
  }
  const [first] = given;
  if (first) {
    const rect = first.getBoundingClientRect();
    const inside = rect.top >= 0 && rect.left >= 0 && rect.bottom <= innerHeight && rect.right <= innerWidth;
    if (!inside || window !== top) first.scrollIntoView({ block: "center", inline: "nearest", behavior: "instant" });
  }
  const layer = globalThis.waryHoundLayer;
  for (const old of [...layer.children]) if (old.localName !== "section") old.remove();
  const zero = host.getBoundingClientRect();
  for (const [number, word] of wanted) {
    const node = (first ? given : globalThis.waryHoundTaken || [])[number];
    const rect = node && node.isConnected && node.getBoundingClientRect();
    if (!rect || !rect.width || !rect.height) continue;
    const box = document.createElement("div");
    const left = rect.left - zero.left, top = rect.top - zero.top;
    box.style.cssText = plain + `left:${left - 1}px;top:${top - 1}px;width:${rect.width + 2}px;` +
      `height:${rect.height + 2}px;outline:2px solid ${PAINT};outline-offset:0;border-radius:4px;` +
      "box-shadow:0 0 0 4px #ffffffb0, inset 0 0 0 1px #ffffffb0;";
    layer.append(box);
    if (word) {
      const tag = document.createElement("div");
      // Before the element, where labels seldom are; above or below it where there is no room.
      const before = left + zero.left + scrollX > 30;
      const high = before ? top + Math.min(0, rect.height / 2 - 10) : top + zero.top + scrollY < 24 ? top + rect.height + 5 : top - 23;
      tag.style.cssText = plain + `left:${before ? left - 2 : left - 3}px;top:${high}px;${before ? "transform:translateX(-100%);" : ""}` +
        `font:600 12px/18px system-ui,sans-serif;color:#fff;background:${PAINT};padding:0 6px;border-radius:4px;white-space:nowrap;`;
      tag.textContent = word;
      layer.append(tag);
    }
  }
}
