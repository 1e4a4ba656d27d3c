import type { Page } from '@playwright/test';

/** Roles of what can be used. */
const USED = new Set([
  'button',
  'checkbox',
  'combobox',
  'link',
  'menuitem',
  'radio',
  'searchbox',
  'slider',
  'spinbutton',
  'switch',
  'tab',
  'textbox',
]);

/** Names that more than one control of a page has, as a screen reader tells them: each with its role and how often. */
export async function repeatedNames(page: Page): Promise<string[]> {
  const client = await page.context().newCDPSession(page);
  const { nodes } = await client.send('Accessibility.getFullAXTree');
  await client.detach();
  const counts = new Map<string, number>();
  for (const { role, name, ignored } of nodes) {
    if (ignored || !USED.has(String(role?.value))) continue;
    const told = `${role!.value} "${name?.value ?? ''}"`;
    counts.set(told, (counts.get(told) ?? 0) + 1);
  }
  return [...counts].filter(([, count]) => count > 1).map(([told, count]) => `${told}: ${count}`);
}
