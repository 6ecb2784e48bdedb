import { expect } from 'chai';
import fc from 'fast-check';
import { sortHttpAnswer, sortSmtpReply } from '../../src/core/delivery/answer.ts';
import { matchingEmail, readEmail } from '../../src/core/message/email-address.ts';
import { measureText } from '../../src/core/message/text-segments.ts';
import { properName, splitName } from '../../src/core/people/name.ts';
import { phoneWords, readPhone } from '../../src/core/people/phone.ts';
import { headerText } from '../../src/core/template/email-html.ts';
import { renderTemplate, type TemplateScope } from '../../src/core/template/template.ts';
import { blankDefinition, Definition, placedSteps } from '../../src/core/workflow/definition.ts';
import { addStep, copyStep, moveStep, removeStep } from '../../src/islands/run-sheet/edits.ts';
import { readBody } from '../../src/sources/body/read-body.ts';
import { scopeOf, stepOf } from '../stage/sheets.ts';

describe('what must hold whatever is typed', () => {
  it('a text never loses room by being shortened, and parts hold what they say', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 700 }), (text) => {
        const whole = measureText(text);
        expect(whole.units).to.be.at.most(whole.room);
        const shorter = measureText(Array.from(text).slice(0, -1).join(''));
        expect(shorter.parts).to.be.at.most(whole.parts);
      }),
      { numRuns: 300 },
    );
  });

  it('an address that is taken can go into an envelope: one line, one @ that counts, no spaces or brackets', () => {
    const almost = fc
      .tuple(
        fc.string({ maxLength: 20 }),
        fc.constantFrom('@', '', '@@', ' @ '),
        fc.constantFrom('example.com', 'EXAMPLE.org', 'a b.com', 'x', '-a.com', 'example.com\r\nRCPT TO:<x@y.z>'),
      )
      .map((parts) => parts.join(''));
    fc.assert(
      fc.property(almost, (typed) => {
        const reading = readEmail(typed);
        if (!reading.ok) return;
        expect(reading.address).to.not.match(/[\s<>()[\],;:"\\]/);
        expect(readEmail(reading.address)).to.deep.equal(reading);
        expect(matchingEmail(reading.address)).to.equal(matchingEmail(matchingEmail(reading.address)));
      }),
      { numRuns: 500 },
    );
  });

  it('a number that is taken is E.164 and reads back as itself', () => {
    fc.assert(
      fc.property(
        fc.stringMatching(/^[+0]?[0-9 ()./-]{4,22}$/),
        fc.constantFrom('GB', 'US', 'DE', 'IT', 'FR', 'AU'),
        (typed, country) => {
          const reading = readPhone(typed, country);
          if (!reading.ok) return;
          expect(reading.e164).to.match(/^\+[1-9]\d{1,14}$/);
          expect(readPhone(reading.e164, 'GB')).to.include({ ok: true, e164: reading.e164 });
          expect(phoneWords(reading.e164).replace(/\D/g, '')).to.equal(reading.e164.slice(1));
        },
      ),
      { numRuns: 500 },
    );
  });

  it('tidying a name twice changes nothing more, loses no letter, and splitting loses no word but titles', () => {
    const word = fc.constantFrom(
      'NADIA',
      "o'brien",
      'van',
      'der',
      'Berg',
      'mcdonald',
      'Éloïse',
      '王小明',
      'de',
      'MARY-JANE',
      'x',
      'iii',
    );
    fc.assert(
      fc.property(fc.array(word, { minLength: 1, maxLength: 5 }), (words) => {
        const typed = words.join('  ');
        const once = properName(typed);
        expect(properName(once)).to.equal(once);
        expect(once.toLowerCase()).to.equal(words.join(' ').toLowerCase());
        const { first, last } = splitName(once);
        const kept = `${first} ${last}`.trim();
        expect(once.startsWith(kept) || once === kept, `${once} / ${kept}`).to.equal(true);
      }),
    );
  });

  it('a subject is one line without control characters', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (typed) => {
        expect(headerText(typed)).to.not.match(/[\u0000-\u001f\u007f]/);
      }),
    );
  });

  it('what a lead typed comes out of a message as it was, whatever it looks like', () => {
    fc.assert(
      fc.property(fc.string(), (typed) => {
        const scope: TemplateScope = scopeOf({ lead: { first_name: typed } });
        expect(renderTemplate('<{{ lead.first_name }}>', scope)).to.deep.equal({ ok: true, text: `<${typed}>` });
      }),
    );
    // Liquid in a value is text, not a template.
    const scope = scopeOf({ lead: { first_name: '{{ business.name }}' }, business: { name: 'secret' } });
    expect(renderTemplate('{{ lead.first_name }}', scope)).to.deep.equal({ ok: true, text: '{{ business.name }}' });
  });

  it('any bytes at all are read or refused with a reason', async () => {
    const types = fc.constantFrom(
      'application/json',
      'application/x-www-form-urlencoded',
      '',
      'text/plain; charset=utf-8',
      'application/vnd.x+json',
      'application/xml',
      'multipart/form-data; boundary=x',
      'multipart/form-data',
    );
    await fc.assert(
      fc.asyncProperty(fc.uint8Array({ maxLength: 400 }), types, async (body, contentType) => {
        const result = await readBody({ headers: {}, contentType, body });
        if (!result.ok) expect(result.problem).to.match(/\S.*\.$/);
      }),
      { numRuns: 500 },
    );
  });

  it('every HTTP status and SMTP code falls into exactly what its class says', () => {
    for (let status = 200; status < 600; status++) {
      const { kind } = sortHttpAnswer(status, { detail: '' }, 0);
      const again = [408, 425, 429].includes(status) || status >= 500;
      expect(kind, String(status)).to.equal(status < 300 ? 'accepted' : again ? 'again' : 'refused');
    }
    for (let code = 200; code < 600; code++)
      expect(sortSmtpReply(code, '').kind, String(code)).to.equal(
        code < 300 ? 'accepted' : code >= 500 ? 'refused' : 'again',
      );
  });

  it('any sequence of edits leaves a sheet that is well formed, with every step once', () => {
    const edit = fc.oneof(
      fc.record({
        do: fc.constant('add' as const),
        place: fc.constantFrom('first' as const, 'lead' as const, 'team' as const),
      }),
      fc.record({ do: fc.constant('remove' as const), which: fc.nat() }),
      fc.record({ do: fc.constant('copy' as const), which: fc.nat() }),
      fc.record({
        do: fc.constant('move' as const),
        which: fc.nat(),
        to: fc.constantFrom('first' as const, 'lead' as const, 'team' as const),
        index: fc.nat(5),
      }),
    );
    fc.assert(
      fc.property(fc.array(edit, { maxLength: 30 }), (edits) => {
        let sheet = blankDefinition('m');
        let n = 0;
        for (const edit of edits) {
          const ids = placedSteps(sheet).map(({ step }) => step.id);
          const id = 'which' in edit ? ids[edit.which % Math.max(1, ids.length)] : undefined;
          const before = ids.length;
          if (edit.do === 'add')
            sheet = addStep({ momentId: 'm', caseId: null, place: edit.place }, stepOf('text', `s${n++}`, {}))(sheet);
          else if (id === undefined) continue;
          else if (edit.do === 'remove') sheet = removeStep(id)(sheet);
          else if (edit.do === 'copy') sheet = copyStep(id, `s${n++}`)(sheet);
          else sheet = moveStep(id, { momentId: 'm', caseId: null, place: edit.to }, edit.index)(sheet);
          const after = placedSteps(sheet).map(({ step }) => step.id);
          expect(new Set(after).size).to.equal(after.length);
          expect(after.length).to.equal(
            before + (edit.do === 'add' || edit.do === 'copy' ? 1 : edit.do === 'remove' ? -1 : 0),
          );
          expect(Definition.safeParse(sheet).success).to.equal(true);
        }
      }),
    );
  });
});
