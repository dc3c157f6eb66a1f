import { chromium } from '@playwright/test';
const b = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: [
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
});
const ctx = await b.newContext({ viewport: { width: 1280, height: 800 } });
const p = await ctx.newPage();
p.on('console', (m) => m.type() === 'error' && console.log('console', m.text()));
p.on('pageerror', (e) => console.log('pageerror', e.message));
const shot = (n) => p.screenshot({ path: `/tmp/shots/${n}.png` });
await p.goto('http://127.0.0.1:4700/moves/1');
await p.fill('input[type=email]', 'admin@marrowick.example');
await p.fill('input[type=password]', 'peg-and-wedge');
await p.getByRole('button', { name: /sign in/i }).click();
await p.waitForURL(/moves\/1/);
await p.getByRole('button', { name: 'Try this step again' }).click();
await p.waitForTimeout(3500);
await shot('04-wait');
await p.waitForTimeout(9000);
await p.waitForTimeout(2000);
console.log(p.url());
await shot('05-now');
await p.goto('http://127.0.0.1:4700/moves/1/fetch');
await p.waitForTimeout(1500);
await shot('05-fetched');
await p.goto('http://127.0.0.1:4700/moves/1/look');
await p.waitForTimeout(2500);
await shot('06-look');
await p.goto('http://127.0.0.1:4700/moves/1/fit');
await p.waitForTimeout(2500);
await shot('07-fit');
await p.getByRole('button', { name: /Accept the fit/ }).click();
await p.waitForTimeout(4000);
await shot('08-build');
console.log(p.url());
await b.close();
