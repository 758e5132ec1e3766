// After the next frame: whether the element that was to be clicked was pressed, was clicked, is still there, and what else received
// the press where it did not. Null where nobody listened.
() => new Promise((resolve) => {
  const press = globalThis.waryHoundPress;
  if (!press) return resolve(null);
  let looks = 0;
  const tell = () => {
    // Where the machine is busy, the release may come later than the press.
    if (press.pressed && !press.clicked && press.node.isConnected && (looks += 1) < 10) return setTimeout(tell, 30);
    press.ended.abort();
    // One that was armed meanwhile is another click's.
    if (globalThis.waryHoundPress === press) globalThis.waryHoundPress = null;
    globalThis.waryHoundStruck = press.struck || null;
    resolve([press.pressed, press.clicked, press.node.isConnected, press.other]);
  };
  const drawn = new Promise((next) => { requestAnimationFrame(() => setTimeout(next)); setTimeout(next, 100); });
  drawn.then(tell);
})
