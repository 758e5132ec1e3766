// What is heard of a press that ready.js listens for: whether the element that was to be clicked was pressed, was clicked, is still
// there, what else received the press where it did not, why the press was held back where it was, whether a frame has been drawn
// since, and whether the page is going to another document. As soon as the press is over this is said with the press's number, of
// itself, where the element has received the click and can lead nowhere; else the number alone is said. Gives a function that asks
// for it later: where the page may be going elsewhere, or the element did not receive the click, a frame is waited for then.
(press) => {
  const frame = () => new Promise((next) => { requestAnimationFrame(() => setTimeout(next)); setTimeout(next, document.hidden ? 100 : 500); });
  let looks = 0;
  let drawn = 0;
  const tell = (give) => {
    // Where the machine is busy, the press may come late, and the release later than the press.
    const awaited = press.held ? !press.released : !press.clicked && !press.other && press.node.isConnected;
    if (awaited && (looks += 1) < 10) return setTimeout(tell, 30, give);
    press.ended.abort();
    // One that was armed meanwhile is another click's.
    if (globalThis.waryHoundPress === press) globalThis.waryHoundPress = null;
    globalThis.waryHoundStruck = press.struck || null;
    globalThis.waryHoundDrawing = drawn ? null : frame();  // for the next look: begun now, it comes with what the click has changed
    const going = Boolean(press.going && !press.going.defaultPrevented);
    give([press.pressed, press.clicked, press.node.isConnected, press.other, press.held, drawn, going]);
  };
  const leaves = () => !press.held && (press.leaves || !press.clicked || !press.node.isConnected);
  press.over.then(() => {
    if (press.ended.signal.aborted || !globalThis.waryHoundSay) return;
    const say = (heard) => globalThis.waryHoundSay(JSON.stringify([press.number, ...heard]));
    if (press.held || press.leads || leaves()) say([]);
    else tell(say);
  });
  return () => new Promise((resolve) => {
    const draw = () => {
      drawn = 1;
      frame().then(() => tell(resolve));
    };
    if (leaves()) draw();
    else setTimeout(() => (leaves() ? draw() : tell(resolve)));
  });
}
