// Holds a ledger against its JSON Schema, and sees that the schema refuses what is none.
//   node ledger.mjs LEDGER SCHEMA
import { readFileSync } from 'node:fs';
import Ajv2020 from 'ajv/dist/2020.js';

const [ledger, schema] = process.argv.slice(2).map((f) => JSON.parse(readFileSync(f, 'utf8')));
const valid = new (Ajv2020.default ?? Ajv2020)({ allErrors: true, strict: true, strictRequired: false }).compile(schema);
let wrong = 0;
const expect = (what, j, want) => {
  if (valid(j) === want) return;
  wrong++;
  console.log(`FAILED: ${what}`, valid.errors);
};
expect('the ledger as it is written', ledger, true);
const kinds = new Set(ledger.items.flatMap((i) => i.entries.map((e) => e.kind)));
if (!kinds.has('removal') || !kinds.has('class')) { wrong++; console.log('FAILED: the sample has no entry of each kind'); }
const changed = (change) => { const j = structuredClone(ledger); change(j); return j; };
const filled = ledger.items.findIndex((i) => i.entries.length > 0);
expect('another format', changed((j) => { j.format = 'x'; }), false);
expect('no items', changed((j) => { delete j.items; }), false);
expect('a count below nothing', changed((j) => { j.items[filled].entries[0].count = -1; }), false);
expect('a kind that is none', changed((j) => { j.items[filled].entries[0].kind = 'gone'; }), false);
expect('a time that is none', changed((j) => { j.items[filled].entries[0].time = 'yesterday'; }), false);
expect('a class without its code', changed((j) => { j.items[filled].entries.find((e) => e.kind === 'class').class = undefined; j.items = JSON.parse(JSON.stringify(j.items)); }), false);
console.log(wrong === 0 ? 'the ledger fits its schema' : `${wrong} wrong`);
process.exit(wrong > 0 ? 1 : 0);
