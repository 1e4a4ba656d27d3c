import type { Page } from '@playwright/test';

/** How far around a control its focus ring is looked for, in CSS pixels. */
const AROUND = 8;
/** WCAG 2.2, 2.4.13: as many pixels change by this contrast as a line of this width (CSS pixels) around the control has. */
const CONTRAST = 3;
const LINE = 2;

interface Control {
  kind: string;
  name: string;
  /** In CSS pixels. */
  box: { left: number; top: number; right: number; bottom: number };
}

/** Marks one control in sight of each kind (tag, role, type and classes) that is not known yet, in the order returned. */
const markControls = (page: Page, known: Set<string>): Promise<Control[]> =>
  page.evaluate(
    (before) => {
      const seen = new Set(before);
      const kindOf = (element: Element) =>
        [element.tagName, ...['role', 'type', 'class'].map((name) => element.getAttribute(name))].join();
      const controls = [
        ...document.querySelectorAll<HTMLElement | SVGElement>(
          'a[href], button, input, select, textarea, [tabindex="0"]',
        ),
      ].filter((element) => {
        const { left, top, right, bottom, width, height } = element.getBoundingClientRect();
        const [x, y] = [(left + right) / 2, (top + bottom) / 2];
        const inSight = width > 0 && height > 0 && x >= 0 && y >= 0 && x < innerWidth && y < innerHeight;
        if (!inSight || (element as HTMLButtonElement).disabled || element.classList.contains('visually-hidden'))
          return false;
        if (element.closest('[inert]') || getComputedStyle(element).visibility === 'hidden') return false;
        const hit = document.elementFromPoint(x, y);
        // Of a line the middle of its box may be empty sheet, and the line itself out of sight.
        const isThere = hit && (element.contains(hit) || (hit.contains(element) && !(element instanceof SVGElement)));
        if (!isThere) return false;
        const kind = kindOf(element);
        if (seen.has(kind)) return false;
        seen.add(kind);
        return true;
      });
      return controls.map((element, index) => {
        element.dataset.focusProbe = String(index);
        const { left, top, right, bottom } = element.getBoundingClientRect();
        const label = element.getAttribute('aria-label') ?? element.textContent;
        return {
          kind: kindOf(element),
          name: `${element.tagName.toLowerCase()}.${element.getAttribute('class') ?? ''} "${label.slice(0, 40)}"`,
          box: { left, top, right, bottom },
        };
      });
    },
    [...known],
  );

/** Groups of controls, by index, whose surroundings do not overlap. */
function apart(controls: readonly Control[]): number[][] {
  const groups: number[][] = [];
  const meet = (a: Control['box'], b: Control['box']) =>
    a.left - b.right < 2 * AROUND &&
    b.left - a.right < 2 * AROUND &&
    a.top - b.bottom < 2 * AROUND &&
    b.top - a.bottom < 2 * AROUND;
  controls.forEach(({ box }, index) => {
    const group = groups.find((others) => !others.some((other) => meet(box, controls[other]!.box)));
    if (group) group.push(index);
    else groups.push([index]);
  });
  return groups;
}

/** Pixels in and `AROUND` each box that differ between two pictures by `CONTRAST` or more. */
const changed = (page: Page, pictures: readonly Buffer[], boxes: readonly Control['box'][]): Promise<number[]> =>
  page.evaluate(
    async ([sources, areas, contrast, around]) => {
      const [one, other] = await Promise.all(
        sources.map(async (source) => {
          const bytes = Uint8Array.from(atob(source), (c) => c.charCodeAt(0));
          const bitmap = await createImageBitmap(new Blob([bytes], { type: 'image/png' }));
          const context = new OffscreenCanvas(bitmap.width, bitmap.height).getContext('2d')!;
          context.drawImage(bitmap, 0, 0);
          return context.getImageData(0, 0, bitmap.width, bitmap.height);
        }),
      );
      const linear = (byte: number) =>
        byte / 255 <= 0.04045 ? byte / 255 / 12.92 : ((byte / 255 + 0.055) / 1.055) ** 2.4;
      const luminance = (data: Uint8ClampedArray, at: number) =>
        0.2126 * linear(data[at]!) + 0.7152 * linear(data[at + 1]!) + 0.0722 * linear(data[at + 2]!);
      return areas.map(({ left, top, right, bottom }) => {
        let count = 0;
        for (let y = Math.max(0, Math.floor(top - around)); y < Math.min(one!.height, bottom + around); y++)
          for (let x = Math.max(0, Math.floor(left - around)); x < Math.min(one!.width, right + around); x++) {
            const at = 4 * (y * one!.width + x);
            const [a, b] = [luminance(one!.data, at), luminance(other!.data, at)];
            if ((Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05) >= contrast) count++;
          }
        return count;
      });
    },
    [pictures.map((one) => one.toString('base64')), boxes, CONTRAST, AROUND] as const,
  );

/**
 * Controls whose focus ring is too faint, with the pixels that changed and those required. The styles of many controls are
 * forced into the focused state at once, so that a view takes a few screenshots.
 * @param known kinds of controls that have been looked at, to which those here are added
 */
export async function faintFocus(page: Page, known: Set<string>): Promise<string[]> {
  const blur = () => page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await blur();
  // A key, so that what has the focus shows it.
  await page.keyboard.press('Shift');
  const controls = await markControls(page, known);
  const browser = await page.context().newCDPSession(page);
  await browser.send('DOM.enable');
  await browser.send('CSS.enable');
  const { root } = await browser.send('DOM.getDocument', { depth: 0 });
  const nodes = await Promise.all(
    controls.map(async (_, index) => {
      const selector = `[data-focus-probe="${index}"]`;
      return (await browser.send('DOM.querySelector', { nodeId: root.nodeId, selector })).nodeId;
    }),
  );
  const force = (group: readonly number[], forcedPseudoClasses: string[]) =>
    Promise.all(
      group.map((index) => browser.send('CSS.forcePseudoState', { nodeId: nodes[index]!, forcedPseudoClasses })),
    );
  const picture = () => page.screenshot({ animations: 'disabled', caret: 'hide' });
  const view = page.viewportSize()!;
  const faint: string[] = [];
  for (const group of apart(controls)) {
    const before = await picture();
    await force(group, ['focus', 'focus-visible']);
    const after = await picture();
    await force(group, []);
    const boxes = group.map((index) => controls[index]!.box);
    const found = await changed(page, [before, after], boxes);
    for (const [at, index] of group.entries()) {
      const { name, box } = controls[index]!;
      const wanted = LINE * (Math.min(view.width, box.right - box.left) + Math.min(view.height, box.bottom - box.top));
      if (found[at]! >= wanted) continue;
      // What is drawn by script, not by style, shows only with the focus itself.
      await page.locator(`[data-focus-probe="${index}"]`).evaluate((element) => element.focus({ preventScroll: true }));
      const [pixels] = await changed(page, [before, await picture()], [box]);
      await blur();
      if (pixels! < wanted) faint.push(`${name}: ${pixels} of ${Math.round(wanted)} pixels`);
    }
  }
  await browser.detach();
  await page.evaluate(() => {
    for (const element of document.querySelectorAll<HTMLElement>('[data-focus-probe]'))
      delete element.dataset.focusProbe;
  });
  for (const { kind } of controls) known.add(kind);
  return faint;
}
