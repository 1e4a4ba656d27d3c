import { chromium } from '@playwright/test';
const [, , out, path = '/', w = '1280', h = '800', scheme = 'light', ...acts] = process.argv;
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--autoplay-policy=no-user-gesture-required'],
});
const page = await browser.newPage({ viewport: { width: +w, height: +h }, colorScheme: scheme as 'light' });
page.on(
  'console',
  (m) => (m.type() === 'error' || m.type() === 'warning') && console.log('console', m.text().slice(0, 300)),
);
page.on('pageerror', (e) => console.log('pageerror', e.message.slice(0, 500)));
await page.goto('http://127.0.0.1:3111/');
if (path !== '/') {
  await page.getByRole('link', { name: path }).first().click();
  await page.waitForSelector('.shell');
  await page.waitForTimeout(2500);
}
for (const a of acts) {
  const [k, ...r] = a.split(':');
  const v = r.join(':');
  if (k === 'click') await page.getByRole('button', { name: v, exact: true }).first().click();
  if (k === 'wait') await page.waitForTimeout(+v);
  if (k === 'css') await page.locator(v).first().click();
  if (k === 'key') await page.keyboard.press(v);
  if (k === 'dbl') await page.locator(v).first().dblclick();
  if (k === 'type') await page.keyboard.type(v);
  if (k === 'eval') console.log(JSON.stringify(await page.evaluate(v)));
}
await page.waitForTimeout(400);
await page.screenshot({ path: out });
await browser.close();
