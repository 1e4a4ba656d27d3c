import { chromium } from '@playwright/test';
const [,, name, width='1280', height='800', theme='light', ...steps] = process.argv;
(async () => {
  const b = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--autoplay-policy=no-user-gesture-required'] });
  const p = await b.newPage({ viewport: { width: +width, height: +height }, colorScheme: theme as 'light'|'dark' });
  p.on('pageerror', e => console.log('pageerror', e.message));
  p.on('console', m => { if (m.type()==='error') console.log('console', m.text().slice(0,300)); });
  await p.goto('http://127.0.0.1:3111/');
  await p.getByRole('link', { name: /Low Water Signal/ }).first().click();
  await p.waitForSelector('.member'); await p.waitForTimeout(2500);
  for (const s of steps) {
    const [kind, arg] = [s.slice(0, s.indexOf(':')), s.slice(s.indexOf(':')+1)];
    if (kind==='b') await p.getByRole('button', { name: arg, exact: true }).last().click();
    if (kind==='br') await p.getByRole('button', { name: new RegExp(arg) }).first().click();
    if (kind==='c') await p.locator(arg).first().click();
    if (kind==='w') await p.waitForTimeout(+arg);
    if (kind==='k') await p.keyboard.press(arg);
    if (kind==='tab') await p.getByRole('tab', { name: arg, exact: true }).click();
  }
  await p.waitForTimeout(600);
  await p.screenshot({ path: `/tmp/shot-${name}.png` });
  await b.close();
})();
