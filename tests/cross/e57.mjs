// Reads every .e57 of a folder with an independent reader and compares coordinates, point by point.
//   node e57.mjs DIR
import { readFileSync, readdirSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { pathToFileURL } from 'node:url';

const require = createRequire(import.meta.url);
const base = join(dirname(require.resolve('laz-perf')), '..', '..', '..', 'web-e57');
const reader = await import(pathToFileURL(join(base, 'e57_bg.js')).href);
const { instance } = await WebAssembly.instantiate(readFileSync(join(base, 'e57_bg.wasm')), { './e57_bg.js': reader });
reader.__wbg_set_wasm(instance.exports);

const folder = process.argv[2];
const points = (text) => text.trim().split('\n').map((l) => l.split(' ').slice(0, 3).map(Number));
let checked = 0, wrong = 0;
for (const name of readdirSync(folder).filter((n) => n.endsWith('.e57'))) {
  const want = points(readFileSync(join(folder, name.replace('.e57', '.xyz')), 'utf8'));
  let problem = '';
  try {
    const got = points(reader.convertE57(new Uint8Array(readFileSync(join(folder, name))), 'XYZ'));
    if (got.length !== want.length) problem = `${got.length} points instead of ${want.length}`;
    const bad = want.findIndex((p, i) => !got[i] || p.some((v, a) => Math.abs(v - got[i][a]) > 2e-6));
    if (!problem && bad >= 0) problem = `point ${bad}: ${got[bad]} instead of ${want[bad]}`;
  } catch (e) {
    problem = String(e).split('\n')[0];
  }
  checked++;
  if (problem) {
    wrong++;
    console.log(`${name}: ${problem}`);
  }
}
console.log(`${checked} E57 files compared, ${wrong} wrong`);
process.exit(wrong || !checked ? 1 : 0);
