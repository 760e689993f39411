// The page's script and style, gzipped, stay below 400 kB.
import { readFileSync, readdirSync } from 'node:fs';
import { gzipSync } from 'node:zlib';

const folder = new URL('../dist/assets/', import.meta.url);
const size = readdirSync(folder)
  .filter((name) => /\.(js|css)$/.test(name))
  .reduce((sum, name) => sum + gzipSync(readFileSync(new URL(name, folder))).length, 0);
console.log(`page bundle: ${(size / 1000).toFixed(0)} kB gzipped (at most 400)`);
process.exit(size > 400_000 ? 1 : 0);
