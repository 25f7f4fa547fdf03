// Times two independent LAZ decoders (WebAssembly) on one file, three runs each.
//   node laz_against_others.mjs FILE.laz      from build/cross, where tests/cross/run has put the packages
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { pathToFileURL } from 'node:url';

const require = createRequire(join(process.cwd(), 'x.js'));
const file = readFileSync(process.argv[2]);
const length = file.readUInt16LE(105);
const count = file.readUInt32LE(107) || Number(file.readBigUInt64LE(247));

const { createLazPerf } = require('laz-perf');
const perf = await createLazPerf();
const base = dirname(require.resolve('@loaders.gl/las'));
const rs = await import(pathToFileURL(join(base, 'libs/laz-rs-wasm/laz_rs_wasm.js')).href);
await rs.default({ module_or_path: readFileSync(join(base, 'libs/laz-rs-wasm/laz_rs_wasm_bg.wasm')) });

const decoders = {
  'laz-perf': () => {
    const at = perf._malloc(file.length), dest = perf._malloc(length);
    perf.HEAPU8.set(file, at);
    const zip = new perf.LASZip();
    zip.open(at, file.length);
    for (let i = 0; i < count; i++) zip.getPoint(dest);
    zip.delete();
    perf._free(at);
    perf._free(dest);
  },
  '@loaders.gl/las': () => {
    const zip = new rs.WasmLasZipDecompressor(new Uint8Array(file));
    zip.decompress_many(new Uint8Array(count * length));
    zip.free();
  },
};
for (const [name, decode] of Object.entries(decoders)) {
  const times = [];
  for (let run = 0; run < 3; run++) {
    const start = performance.now();
    decode();
    times.push((performance.now() - start) / 1000);
  }
  times.sort((a, b) => a - b);
  console.log(`${name}: decoding ${(count / 1e6).toFixed(2)} M points: ${times[1].toFixed(3)} s`);
}
