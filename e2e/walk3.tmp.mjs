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
await p.goto('http://127.0.0.1:4700/moves/1/deliver');
await p.fill('input[type=email]', 'admin@marrowick.example');
await p.fill('input[type=password]', 'peg-and-wedge');
await p.getByRole('button', { name: /sign in/i }).click();
await p.waitForURL(/moves\/1/);
await p.waitForTimeout(1500);
await shot('09-deliver');
await p
  .getByText('T-1')
  .first()
  .waitFor({ timeout: 30000 })
  .catch(() => {});
await p.waitForTimeout(1500);
await shot('10-delivering');
await p.locator('.toggle').click();
await p.waitForTimeout(300);
await shot('11-tideline');
await p.locator('.toggle').click();
await p.waitForURL(/check|hand/, { timeout: 60000 }).catch(() => {});
await p.waitForTimeout(3000);
await shot('12-check0');
console.log(p.url());
await p.goto('http://127.0.0.1:4700/moves/1/check');
await p.waitForTimeout(2000);
await shot('12-check');
await p.goto('http://127.0.0.1:4700/moves/1/hand-over');
await p.waitForTimeout(2000);
await shot('13-handover');
await p.goto('http://127.0.0.1:4700/strongroom');
await p.waitForTimeout(2000);
await shot('14-strongroom');
await p.goto('http://127.0.0.1:4700/reports');
await p.waitForTimeout(1500);
await shot('15-reports');
await p.goto('http://127.0.0.1:4700/moves');
await p.waitForTimeout(1500);
await shot('16-moves');
await p.goto('http://127.0.0.1:4700/bench');
await p.waitForTimeout(1500);
await shot('17-bench');
await b.close();
