// The first rectangle that an element is drawn in, of more than so many pixels a side; null where it is not shown. An inline element
// that holds a block begins with an empty one.
(element, least = 0) => (element.checkVisibility({ visibilityProperty: true })
  && [...element.getClientRects()].find((rect) => rect.width > least && rect.height > least)) || null
