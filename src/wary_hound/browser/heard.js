// What was heard of a press that ready.js listens for: whether the element that was to be clicked was pressed, was clicked, is still
// there, what else received the press where it did not, why the press was held back where it was, whether a frame has been drawn
// since, and whether the page is going to another document. Where it may, or did not receive the click, a frame is waited for.
// Asked `early`, before the input has been answered for, it tells where the element has received the click and can lead nowhere,
// and else that it is to be asked again.
(press) => (early) => new Promise((resolve) => {
  const AGAIN = "again";
  const frame = () => new Promise((next) => { requestAnimationFrame(() => setTimeout(next)); setTimeout(next, 100); });
  let looks = 0;
  const tell = () => {
    // Where the machine is busy, the release may come later than the press.
    const awaited = press.held ? !press.released : press.pressed && !press.clicked && press.node.isConnected;
    if (awaited && (looks += 1) < 10) return setTimeout(tell, 30);
    press.ended.abort();
    // One that was armed meanwhile is another click's.
    if (globalThis.waryHoundPress === press) globalThis.waryHoundPress = null;
    globalThis.waryHoundStruck = press.struck || null;
    globalThis.waryHoundDrawing = drawn ? null : frame();  // for the next look
    const going = Boolean(press.going && !press.going.defaultPrevented);
    resolve([press.pressed, press.clicked, press.node.isConnected, press.other, press.held, drawn, going]);
  };
  let drawn = 0;
  const draw = () => {
    drawn = 1;
    frame().then(tell);
  };
  const leaves = () => !press.held && (press.leaves || !press.clicked || !press.node.isConnected);
  if (early) press.over.then(() => (press.held || press.ended.signal.aborted || press.leads || leaves() ? resolve(AGAIN) : tell()));
  else if (leaves()) draw();
  else setTimeout(() => (leaves() ? draw() : tell()));
})
