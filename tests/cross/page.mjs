// Opens the page for the client and a report in headless Chromium, drives them as a person would, and looks at pixels.
//   node page.mjs DIR      (DIR/page.html, DIR/report.html; pictures are written beside them)
import { readFileSync, writeFileSync, existsSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { chromium } from 'playwright-core';
import { PNG } from 'pngjs';

const folder = resolve(process.argv[2]);
const path = ['/usr/bin/chromium', '/usr/bin/chromium-browser'].find(existsSync);
if (!path) { console.log('FAILED: there is no chromium'); process.exit(1); }
const browser = await chromium.launch({ executablePath: path, args: ['--no-sandbox', '--use-angle=swiftshader', '--enable-unsafe-swiftshader', '--ignore-gpu-blocklist'] });
let wrong = 0;
const expect = (what, holds) => { if (!holds) { wrong++; console.log(`FAILED: ${what}`); } };
const pixels = (buffer) => PNG.sync.read(buffer);
const differing = (a, b) => { let n = 0; for (let i = 0; i < a.data.length; i += 4) n += Math.abs(a.data[i] - b.data[i]) + Math.abs(a.data[i + 1] - b.data[i + 1]) + Math.abs(a.data[i + 2] - b.data[i + 2]) > 24 ? 1 : 0; return n; };
const coloured = (a) => { let n = 0; for (let i = 0; i < a.data.length; i += 4) n += Math.abs(a.data[i] - 0x1b) + Math.abs(a.data[i + 1] - 0x22) + Math.abs(a.data[i + 2] - 0x2b) > 24 ? 1 : 0; return n; };

async function open(name, width, height) {
  const page = await browser.newPage({ viewport: { width, height } });
  const troubles = [];
  page.on('pageerror', (e) => troubles.push(String(e)));
  page.on('request', (r) => { if (!/^(file|data|blob):/.test(r.url())) troubles.push(`asked for ${r.url()}`); });
  await page.goto(`file://${join(folder, name)}`);
  return { page, troubles };
}

{
  const { page, troubles } = await open('page.html', 1100, 800);
  await page.waitForSelector('body[data-scene=ready]', { timeout: 60000 });
  const canvas = page.locator('#scene');
  const shot = async () => pixels(await canvas.screenshot());
  const after = await shot();
  writeFileSync(join(folder, 'page-after.png'), await page.screenshot());
  expect('the site is seen', coloured(after) > 3000);
  await page.click('#scene-before');
  const before = await shot();
  writeFileSync(join(folder, 'page-before.png'), await page.screenshot());
  expect('what was removed appears', differing(after, before) > 20);
  expect('its tick is set', await page.isChecked('#reason1'));
  await page.click('#scene-after');
  expect('and goes again', differing(after, await shot()) === 0);
  await page.check('#reason1');
  expect('one reason by itself', differing(after, await shot()) > 0);
  await page.click('#scene-after');
  await canvas.focus();
  for (let k = 0; k < 6; k++) await page.keyboard.press('ArrowLeft');
  expect('keys turn it', differing(after, await shot()) > 500);
  await page.keyboard.press('Home');
  await canvas.evaluate((c) => c.blur());  // its frame shows that it has the keys
  expect('Home brings it back', differing(after, await shot()) === 0);
  const box = await canvas.boundingBox();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 120, box.y + box.height / 2 + 30, { steps: 5 });
  await page.mouse.up();
  expect('the mouse turns it', differing(after, await shot()) > 500);
  const { rate, share, rest } = await page.evaluate(() => window.pristineScene.frames(30));
  const points = await page.evaluate(() => window.pristineScene.points);
  console.log(`software rendering, ${points} points: ${rate.toFixed(1)} frames a second while turning (${(100 * share).toFixed(0)} % of them), ${rest.toFixed(0)} ms at rest`);
  expect('nothing is asked from a network, nothing fails: ' + troubles.join('; '), troubles.length === 0);
  await page.close();
}

for (const [name, width, height] of [['phone', 390, 844], ['desk', 1280, 900]]) {
  const { page, troubles } = await open('report.html', width, height);
  writeFileSync(join(folder, `report-${name}.png`), await page.screenshot({ fullPage: true }));
  const sideways = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
  expect(`${name}: the page itself does not move sideways (${sideways} px)`, sideways <= 0);
  const small = await page.evaluate(() => [...document.querySelectorAll('p, td, th, h1, h2, figcaption')].filter((e) => parseFloat(getComputedStyle(e).fontSize) < 11).length);
  expect(`${name}: no words smaller than 11 px`, small === 0);
  const nameless = await page.evaluate(() => [...document.images].filter((i) => !i.hasAttribute('alt') || (i.naturalWidth === 0)).length);
  expect(`${name}: every picture is drawn and told`, nameless === 0);
  expect(`${name}: nothing fails: ${troubles.join('; ')}`, troubles.length === 0);
  await page.close();
}
await browser.close();
console.log(wrong === 0 ? 'the pages hold' : `${wrong} wrong`);
process.exit(wrong > 0 ? 1 : 0);
