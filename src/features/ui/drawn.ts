/** Styles that were last written to elements, so that nothing is drawn anew where nothing moves. */
const written = new WeakMap<Element, Map<string, string>>();

/** Writes a text where it is another. */
export function writeText(element: Element | null, text: string): void {
  if (element && element.textContent !== text) element.textContent = text;
}

/** Writes a style where it is another than was written last. */
export function writeStyle(
  element: HTMLElement | SVGElement | null,
  property: 'transform' | 'left' | 'stroke-width' | 'visibility',
  value: string,
): void {
  if (!element) return;
  let styles = written.get(element);
  if (!styles) written.set(element, (styles = new Map()));
  if (styles.get(property) === value) return;
  styles.set(property, value);
  element.style.setProperty(property, value);
}

/** Writes an attribute where it is another. */
export function writeAttribute(element: Element | null, name: string, value: string): void {
  if (element && element.getAttribute(name) !== value) element.setAttribute(name, value);
}
