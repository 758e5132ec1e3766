// Whether the element that was to be clicked was pressed, was clicked, is still there, what else received the press where it did
// not, why the press was held back where it was, whether a frame has been drawn since, and whether the page is going to another
// document. Where it may, or did not receive the click, a frame is waited for. Null where nobody listened.
() => new Promise((resolve) => {
  const press = globalThis.waryHoundPress;
  if (!press) return resolve(null);
  let looks = 0;
  const tell = () => {
    // Where the machine is busy, the release may come later than the press.
    const awaited = press.held ? !press.released : press.pressed && !press.clicked && press.node.isConnected;
    if (awaited && (looks += 1) < 10) return setTimeout(tell, 30);
    press.ended.abort();
    // One that was armed meanwhile is another click's.
    if (globalThis.waryHoundPress === press) globalThis.waryHoundPress = null;
    globalThis.waryHoundStruck = press.struck || null;
    const going = Boolean(press.going && !press.going.defaultPrevented);
    resolve([press.pressed, press.clicked, press.node.isConnected, press.other, press.held, drawn, going]);
  };
  let drawn = 0;
  const draw = () => {
    drawn = 1;
    new Promise((next) => { requestAnimationFrame(() => setTimeout(next)); setTimeout(next, 100); }).then(tell);
  };
  const leaves = () => !press.held && (press.leaves || !press.clicked || !press.node.isConnected);
  if (leaves()) draw();
  else setTimeout(() => (leaves() ? draw() : tell()));
})
