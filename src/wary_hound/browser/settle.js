// Resolves when nothing in the document and its open shadow trees has changed for `quiet` milliseconds, or with false when `limit` has passed.
(quiet, limit) => new Promise((resolve) => {
  let timer;
  const done = (value) => { observer.disconnect(); clearTimeout(timer); clearTimeout(end); resolve(value); };
  const again = () => { clearTimeout(timer); timer = setTimeout(() => done(true), quiet); };
  const observer = new MutationObserver(again);
  const end = setTimeout(() => done(false), limit);
  const watch = (root) => {
    observer.observe(root, { subtree: true, childList: true, attributes: true, characterData: true });
    for (const element of root.querySelectorAll("*")) if (element.shadowRoot) watch(element.shadowRoot);
  };
  watch(document);
  again();
})
