import type { ElementHandle, Page } from '@playwright/test';

/** Around a control, in CSS pixels: as far as its focus is looked for. */
const AROUND = 8;
/** WCAG 2.2, 2.4.13: pixels that change by this contrast count, and are to be as many as a line of this width around it. */
const CONTRAST = 3;
const LINE = 2;

/** Controls that are in sight, one of each kind that is not known yet: of one tag and role in one set of classes. */
async function kindsOf(page: Page, known: Set<string>): Promise<ElementHandle<HTMLElement | SVGElement>[]> {
  const all = await page.evaluateHandle(
    (before) => {
      const seen = new Set(before);
      const kindOf = (element: Element) =>
        [
          element.tagName,
          element.getAttribute('role'),
          element.getAttribute('type'),
          element.getAttribute('class'),
        ].join();
      return [
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
        if (!hit || !(element.contains(hit) || hit.contains(element))) return false;
        const kind = kindOf(element);
        if (seen.has(kind)) return false;
        seen.add(kind);
        element.dataset.kind = kind;
        return true;
      });
    },
    [...known],
  );
  const controls = [...(await all.getProperties()).values()].flatMap((one) => one.asElement() ?? []) as ElementHandle<
    HTMLElement | SVGElement
  >[];
  for (const control of controls) known.add(await control.evaluate(({ dataset }) => dataset.kind!));
  return controls;
}

/** How many pixels differ between two pictures by the contrast that is asked for. */
const changed = (page: Page, pictures: readonly Buffer[]): Promise<number> =>
  page.evaluate(
    async ([sources, contrast]) => {
      const [one, other] = await Promise.all(
        sources.map(async (source) => {
          const bytes = Uint8Array.from(atob(source), (c) => c.charCodeAt(0));
          const bitmap = await createImageBitmap(new Blob([bytes], { type: 'image/png' }));
          const context = new OffscreenCanvas(bitmap.width, bitmap.height).getContext('2d')!;
          context.drawImage(bitmap, 0, 0);
          return context.getImageData(0, 0, bitmap.width, bitmap.height).data;
        }),
      );
      const linear = (byte: number) =>
        byte / 255 <= 0.04045 ? byte / 255 / 12.92 : ((byte / 255 + 0.055) / 1.055) ** 2.4;
      const luminance = (data: Uint8ClampedArray, at: number) =>
        0.2126 * linear(data[at]!) + 0.7152 * linear(data[at + 1]!) + 0.0722 * linear(data[at + 2]!);
      let count = 0;
      for (let at = 0; at < one!.length; at += 4) {
        const [a, b] = [luminance(one!, at), luminance(other!, at)];
        if ((Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05) >= contrast) count++;
      }
      return count;
    },
    [pictures.map((one) => one.toString('base64')), CONTRAST] as const,
  );

/**
 * Controls whose focus is not plain to see: what they are, and how many pixels changed of how many that should.
 * @param known kinds of controls that have been looked at, to which those here are added
 */
export async function faintFocus(page: Page, known: Set<string>): Promise<string[]> {
  // A key, so that what has the focus shows it.
  await page.keyboard.press('Shift');
  const faint: string[] = [];
  for (const control of await kindsOf(page, known)) {
    const box = await control.boundingBox();
    if (!box) continue;
    const view = page.viewportSize()!;
    const [x, y] = [Math.max(0, box.x - AROUND), Math.max(0, box.y - AROUND)];
    const clip = {
      ...{ x, y },
      width: Math.min(view.width, box.x + box.width + AROUND) - x,
      height: Math.min(view.height, box.y + box.height + AROUND) - y,
    };
    const picture = () => page.screenshot({ clip, animations: 'disabled', caret: 'hide' });
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    const before = await picture();
    await control.evaluate((element) => element.focus({ preventScroll: true }));
    const after = await picture();
    const wanted = LINE * (Math.min(view.width, box.width) + Math.min(view.height, box.height));
    const found = await changed(page, [before, after]);
    if (found < wanted) {
      const name = await control.evaluate(
        (element) =>
          `${element.tagName.toLowerCase()}.${element.getAttribute('class') ?? ''} "${(element.getAttribute('aria-label') ?? element.textContent).slice(0, 40)}"`,
      );
      faint.push(`${name}: ${found} of ${Math.round(wanted)} pixels`);
    }
  }
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  return faint;
}
