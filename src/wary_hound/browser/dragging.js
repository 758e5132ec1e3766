// Notes whether HTML's own drag of an element begins and is carried on, for dropping.js.
(element) => {
  const note = globalThis.waryHoundDrag = { begun: false, carried: false, data: null };
  const ended = new AbortController();
  note.ended = ended;
  const options = { capture: true, signal: ended.signal };
  addEventListener("dragstart", (event) => { note.begun = true; note.data = event.dataTransfer; }, { signal: ended.signal });
  for (const kind of ["drop", "dragend"]) addEventListener(kind, () => { note.carried = true; }, options);
}
