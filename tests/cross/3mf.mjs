// Reads every .3mf of a folder with independent readers (a package of zip, a model in XML) and compares places and
// colours, corner by corner.
//   node 3mf.mjs DIR
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { unzipSync, strFromU8 } from 'fflate';
import { XMLParser } from 'fast-xml-parser';

const folder = process.argv[2];
const list = (v) => (v === undefined ? [] : Array.isArray(v) ? v : [v]);
let checked = 0, wrong = 0;
for (const name of readdirSync(folder).filter((n) => n.endsWith('.3mf'))) {
  const want = readFileSync(join(folder, name.replace('.3mf', '.corners')), 'utf8').trim().split('\n').map((l) => l.split(' ').map(Number));
  const got = [];
  let problem = '';
  try {
    const files = unzipSync(new Uint8Array(readFileSync(join(folder, name))));
    const part = Object.keys(files).find((n) => n.endsWith('.model'));
    const model = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '', removeNSPrefix: true }).parse(strFromU8(files[part])).model;
    if (model.unit !== 'meter') problem = `unit ${model.unit}`;
    const groups = new Map(list(model.resources.colorgroup).map((g) => [g.id, list(g.color).map((c) => c.color)]));
    for (const object of list(model.resources.object)) {
      const places = list(object.mesh.vertices.vertex).map((v) => [v.x, v.y, v.z].map(Number));
      for (const t of list(object.mesh.triangles.triangle)) {
        const colours = groups.get(t.pid ?? object.pid), p1 = Number(t.p1 ?? object.pindex);
        [[t.v1, p1], [t.v2, t.p2 ?? p1], [t.v3, t.p3 ?? p1]].forEach(([v, p]) => {
          const rgb = parseInt(colours[Number(p)].slice(1, 7), 16);
          got.push([...places[Number(v)], rgb >> 16, (rgb >> 8) & 255, rgb & 255]);
        });
      }
    }
    if (got.length !== want.length) problem = `${got.length} corners instead of ${want.length}`;
    const near = (p) => [p[0], p[1] - 5250000, ...p.slice(2)];
    const bad = want.findIndex((p, i) => !got[i] || near(p).some((v, a) => Math.abs(v - got[i][a]) > (a < 3 ? 1e-4 : 0)));
    if (!problem && bad >= 0) problem = `corner ${bad}: ${got[bad]} instead of ${near(want[bad])}`;
  } catch (e) {
    problem = String(e).split('\n')[0];
  }
  checked++;
  if (problem) {
    wrong++;
    console.log(`${name}: ${problem}`);
  }
}
console.log(`${checked} 3MF files read, ${wrong} wrong`);
if (checked === 0 || wrong > 0) process.exit(1);
