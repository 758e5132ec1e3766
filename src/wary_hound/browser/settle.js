// Resolves when nothing in the document has changed for `quiet` milliseconds, or with false when `limit` has passed.
(quiet, limit) => new Promise((resolve) => {
  let timer;
  const done = (value) => { observer.disconnect(); clearTimeout(timer); clearTimeout(end); resolve(value); };
  const again = () => { clearTimeout(timer); timer = setTimeout(() => done(true), quiet); };
  const observer = new MutationObserver(again);
  const end = setTimeout(() => done(false), limit);
  observer.observe(document, { subtree: true, childList: true, attributes: true, characterData: true });
  again();
})
