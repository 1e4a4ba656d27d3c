import type { Page } from '@playwright/test';

/** Letters of 11 CSS pixels are the smallest; so much is left to rounding. */
export const SMALLEST_PX = 10.6;

/** Texts on the screen that are drawn smaller than that, with their size as it is seen, drawings and zoomed sheets included. */
export async function smallLetters(page: Page): Promise<string[]> {
  return page.evaluate((least) => {
    const WIDE_PX = 100;
    const found = new Set<string>();
    const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
    for (let node = walk.nextNode(); node; node = walk.nextNode()) {
      const element = node.parentElement!;
      const text = node.textContent!.trim();
      if (text === '' || element.closest('script, style, title, option, .visually-hidden')) continue;
      if (!element.checkVisibility({ visibilityProperty: true })) continue;
      const box = element.getBoundingClientRect();
      if (box.width === 0 || box.bottom < 0 || box.top > innerHeight) continue;
      let scale = 1;
      if (element instanceof SVGGraphicsElement) scale = Math.abs(element.getScreenCTM()!.d);
      else {
        // The width of a letter is told in whole pixels: what is around it tells its scale.
        let wide: HTMLElement | null = element;
        while (wide && wide.offsetWidth < WIDE_PX) wide = wide.parentElement;
        if (wide) scale = wide.getBoundingClientRect().width / wide.offsetWidth;
      }
      // What is turned or pressed flat is not smaller for it.
      const size = parseFloat(getComputedStyle(element).fontSize) * (scale > 0.98 && scale < 1.02 ? 1 : scale);
      if (size > 0 && size < least)
        found.add(`${size.toFixed(1)} px: ${text.slice(0, 40)} (${element.className.toString().slice(0, 30)})`);
    }
    return [...found];
  }, SMALLEST_PX);
}
