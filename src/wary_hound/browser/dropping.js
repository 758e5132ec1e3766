// Where HTML's own drag has begun and was not carried on by the browser: its further events, as HTML has them (section 6.11).
async (element, target) => {
  const note = globalThis.waryHoundDrag;
  if (!note) return "";
  for (let n = 0; note.begun && !note.carried && n < 5; n++) await new Promise((next) => setTimeout(next, 40));
  note.ended.abort();
  globalThis.waryHoundDrag = null;
  if (!note.begun || note.carried) return "";
  const data = new DataTransfer();
  const source = element.closest("[draggable=true]") || element;
  const send = (where, kind) => {
    const box = where.getBoundingClientRect();
    const at = { clientX: box.left + box.width / 2, clientY: box.top + box.height / 2 };
    return where.dispatchEvent(new DragEvent(kind, { bubbles: true, cancelable: true, composed: true, dataTransfer: data, ...at }));
  };
  send(source, "dragstart");
  send(target, "dragenter");
  const taken = !send(target, "dragover");
  if (taken) send(target, "drop"); else send(target, "dragleave");
  send(source, "dragend");
  return taken ? "dropped" : "refused";
}
