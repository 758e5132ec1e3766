// The first rectangle that an element is drawn in, of more than so many pixels a side; null where it is not shown. An inline element
// that holds a block begins with an empty one. An area of an image map is what it covers of its `image`, in CSS pixels.
(element, least = 0) => {
  const seen = (e) => e.checkVisibility({ visibilityProperty: true })
    && [...e.getClientRects()].find((rect) => rect.width > least && rect.height > least);
  if (element.localName !== "area") return seen(element) || null;
  const map = element.closest("map");
  const image = map && element.getRootNode().querySelector(`img[usemap="#${CSS.escape(map.name)}"]`);
  const whole = image && seen(image);
  if (!whole) return null;
  const coords = element.coords.split(/[\s,;]+/).filter(Boolean).map(Number);
  const [x, y, radius] = coords;
  const round = /^circ/i.test(element.shape);
  const corners = round ? [x - radius, y - radius, x + radius, y + radius] : coords;
  const across = corners.filter((_, n) => n % 2 === 0);
  const down = corners.filter((_, n) => n % 2 === 1);
  if (!down.length || !corners.every(Number.isFinite)) return Object.assign(whole, { image });
  const [left, top] = [whole.left + Math.min(...across), whole.top + Math.min(...down)];
  const rect = new DOMRect(left, top, Math.max(...across) - Math.min(...across), Math.max(...down) - Math.min(...down));
  return Object.assign(rect, { image });
}
