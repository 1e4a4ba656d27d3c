import { chromium } from '@playwright/test';
(async () => {
  const b = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--autoplay-policy=no-user-gesture-required'] });
  const p = await b.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: 'light' });
  p.on('pageerror', e => console.log('pageerror', e.message));
  p.on('console', m => { if (m.type()==='error') console.log('console', m.text().slice(0,300)); });
  await p.goto('http://127.0.0.1:3111/');
  await p.getByRole('link', { name: /Low Water Signal/ }).first().click();
  await p.waitForSelector('.member'); await p.waitForTimeout(2000);
  await p.getByRole('button', { name: 'Nylon harp', exact: true }).first().click().catch(async()=>p.getByText('Nylon harp').first().click());
  for (const name of ['Flanger', 'Chorus', 'Phaser']) {
    await p.getByRole('button', { name: 'effect', exact: true }).click();
    await p.getByRole('button', { name: new RegExp('^'+name) }).last().click();
    await p.getByRole('button', { name: 'Effect', exact: true }).click();
    if (name === 'Flanger') {
      const main = p.getByRole('group', { name: 'Main controls' }); await main.getByRole('slider', { name: 'Depth' }).hover(); await main.getByRole('button', { name: 'Depth: move it with a modulator' }).click();
      await p.getByRole('button', { name: 'Oscillator', exact: true }).click();
      await p.keyboard.press('Space'); await p.waitForTimeout(2500);
    }
    await p.waitForTimeout(1500);
    await p.screenshot({ path: `/tmp/shot-${name}.png` });
    if (name === 'Flanger') { await p.getByRole('button', { name: 'Close modulators' }).click(); await p.getByRole('button', { name: 'Movement', exact: true }).click(); await p.waitForTimeout(1200); await p.screenshot({ path: `/tmp/shot-moves.png` }); }
  }
  await b.close();
})();
