import { readdirSync, readFileSync } from 'node:fs';
import { expect } from 'chai';
import fc from 'fast-check';
import { within, writtenAt } from '../../src/client/within.ts';
import {
  BUSINESS_COLORS,
  BUSINESS_KEY,
  businessColors,
  businessKey,
  freeColor,
} from '../../src/core/people/business-place.ts';

describe('where a business stands', () => {
  it('its key is its name in small plain letters, and a number behind it where another has that', () => {
    const taken = new Set<string>();
    const keys = [
      'Wrenfield Music School',
      'Wrenfield Music School',
      'Łódź & Köln, 2nd',
      '東京',
      '--',
      'a'.repeat(90),
    ].map((name) => {
      const key = businessKey(name, taken);
      taken.add(key);
      return key;
    });
    expect(keys.slice(0, 3)).to.deep.equal([
      'wrenfield-music-school',
      'wrenfield-music-school-2',
      'lodz-and-koeln-2nd',
    ]);
    expect(keys[4]).to.match(/^business(-2)?$/);
    expect(keys[5]).to.equal('a'.repeat(40));
  });

  it('whatever it is called, its key fits into an address and is nobody else’s', () => {
    fc.assert(
      fc.property(fc.array(fc.string({ unit: 'grapheme', maxLength: 60 }), { maxLength: 12 }), (names) => {
        const taken = new Set<string>();
        for (const name of names) {
          const key = businessKey(name, taken);
          expect(key).to.match(BUSINESS_KEY);
          expect(taken.has(key)).to.equal(false);
          taken.add(key);
        }
      }),
    );
  });

  it('each has a colour of its own as long as there are any', () => {
    const taken: string[] = [];
    for (const _ of businessColors) taken.push(freeColor(taken));
    expect(new Set(taken).size).to.equal(Object.keys(BUSINESS_COLORS).length);
    expect(businessColors).to.include(freeColor(taken));
  });

  it('its bar bears the words on it, in whichever colour, by WCAG 2.2 (1.4.3)', () => {
    const theme = readFileSync('src/styles/theme.css', 'utf8');
    // Relative luminance as WCAG 2.2 defines it.
    const luminance = (hex: string) => {
      const [r, g, b] = [1, 3, 5]
        .map((at) => Number.parseInt(hex.slice(at, at + 2), 16) / 255)
        .map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4)) as [number, number, number];
      return 0.2126 * r + 0.7152 * g + 0.0722 * b;
    };
    // White on black is 21 to 1, by the same document.
    expect((luminance('#ffffff') + 0.05) / (luminance('#000000') + 0.05)).to.equal(21);
    const words = luminance('#f4fbf6');
    for (const color of businessColors.filter((one) => one !== 'pine')) {
      const ground = new RegExp(`data-business="${color}"\\][^}]*--color-bar: (#[0-9a-f]{6})`).exec(theme)?.[1];
      expect(ground, color).to.be.a('string');
      expect((words + 0.05) / (luminance(ground!) + 0.05), color).to.be.at.least(4.5);
    }
  });

  it('an address of ours is led to within it once, and one that leads elsewhere never', () => {
    writtenAt(() => '/at/wrenfield');
    try {
      expect(
        [
          '/leads?x=1',
          '/',
          '/at/other/leads',
          '//evil.example',
          'https://evil.example/',
          '#part',
          '?who=2',
          'mailto:a@b.example',
          '/attic',
        ].map(within),
      ).to.deep.equal([
        ...[
          '/at/wrenfield/leads?x=1',
          '/at/wrenfield/',
          '/at/other/leads',
          '//evil.example',
          'https://evil.example/',
          '#part',
          '?who=2',
          'mailto:a@b.example',
          '/at/wrenfield/attic',
        ],
      ]);
    } finally {
      writtenAt(() => '');
    }
    expect(within('/leads')).to.equal('/leads');
  });
});

describe('links of pages', () => {
  it('lead within the business the page stands in, every one of them', () => {
    // Pages nobody is signed in at, and what belongs to a person.
    const open =
      /^src\/(practice|server|api|app|engine|core|worker|gateways)\/|^src\/pages\/(api|f|sign-in|join|new-password|leave|confirm)\/|^src\/pages\/(forgotten|set-up|businesses|sign-out)\.|layouts\/Bare/;
    const allowed = /["'`]\/(businesses|sign-out|sign-in|set-up|at\/|visits\.js|kept\/)/;
    const files = readdirSync('src', { recursive: true, encoding: 'utf8' })
      .map((file) => `src/${file}`)
      .filter((file) => /\.(tsx|astro|ts)$/.test(file) && !open.test(file));
    expect(files.length).to.be.greaterThan(200);
    const loose = files.flatMap((file) =>
      readFileSync(file, 'utf8')
        .split('\n')
        .filter(
          (line) =>
            /(href=|action=|src=|location\.assign\(|fetch\(|EventSource\(|replaceState\(null, '', |redirect\()(\{)?["'`]\//.test(
              line,
            ) && !allowed.test(line),
        )
        .map((line) => `${file}: ${line.trim()}`),
    );
    expect(loose).to.deep.equal([]);
  });
});
