// Reads every .glb of a folder with an independent reader and compares places and colours, corner by corner.
//   node glb.mjs DIR
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { NodeIO } from '@gltf-transform/core';

const folder = process.argv[2];
const screen = (v) => Math.round(255 * (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055));
let checked = 0, wrong = 0;
for (const name of readdirSync(folder).filter((n) => n.endsWith('.glb'))) {
  const want = readFileSync(join(folder, name.replace('.glb', '.corners')), 'utf8').trim().split('\n').map((l) => l.split(' ').map(Number));
  const got = [];
  let problem = '';
  try {
    const document = await new NodeIO().readBinary(new Uint8Array(readFileSync(join(folder, name))));
    for (const node of document.getRoot().listNodes()) {
      const m = node.getWorldMatrix();
      for (const p of node.getMesh()?.listPrimitives() ?? []) {
        const places = p.getAttribute('POSITION'), colours = p.getAttribute('COLOR_0'), indices = p.getIndices();
        for (let i = 0; i < indices.getCount(); i++) {
          const [x, y, z] = places.getElement(indices.getScalar(i), []), c = colours.getElement(indices.getScalar(i), []);
          const w = [0, 1, 2].map((l) => m[l] * x + m[4 + l] * y + m[8 + l] * z + m[12 + l]);
          got.push([w[0], -w[2], w[1], screen(c[0]), screen(c[1]), screen(c[2])]);
        }
      }
    }
    if (got.length !== want.length) problem = `${got.length} corners instead of ${want.length}`;
    const bad = want.findIndex((p, i) => !got[i] || p.some((v, a) => Math.abs(v - got[i][a]) > (a < 3 ? 1e-4 : 0)));
    if (!problem && bad >= 0) problem = `corner ${bad}: ${got[bad]} instead of ${want[bad]}`;
  } catch (e) {
    problem = String(e).split('\n')[0];
  }
  checked++;
  if (problem) {
    wrong++;
    console.log(`${name}: ${problem}`);
  }
}
console.log(`${checked} glTF files read, ${wrong} wrong`);
if (checked === 0 || wrong > 0) process.exit(1);
