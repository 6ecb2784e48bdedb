import { expect } from 'chai';
import fc from 'fast-check';
import { READER, renderTemplate } from '../../src/core/template/template.ts';
import { dateInMessage } from '../../src/core/words/date-in-message.ts';
import { planStep } from '../../src/steps/plan-step.ts';
import { catalogueOf, freshStep, nadia, scopeOf } from '../stage/sheets.ts';

const NOW = Date.parse('2026-11-20T12:00:00Z');

describe('what reaches people is text', () => {
  const scope = scopeOf({ lead: { first_name: 'Nadia' }, answers: { town: 'Wren' } });
  const shown = (source: string) => {
    const came = renderTemplate(source, scope);
    return came.ok ? came.text : `problem: ${came.problem.text}`;
  };
  it('never the name of an object of ours, however a field is written', () => {
    for (const source of [
      '{{ lead }}',
      '{{ answers }}',
      '{{ lead | upcase }}',
      '{{ first_name }}',
      '{{ Lead.first_name }}',
      '{{ lead.first_name | default: answers }}',
      '{{ lead.nothing | default: answers }}',
      '{{ answers.constructor }}',
      '{{ lead.toString }}',
    ])
      expect(shown(`Hi ${source}!`), source).to.match(/^Hi (Nadia)?!$/);
    expect(shown('{{ "It is" }} {{ 5 }} {{ answers.town | upcase }}')).to.equal('It is 5 WREN');
  });
  it('whatever stands between the brackets', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 30 }), (inside) => {
        fc.pre(!inside.includes('object'));
        expect(shown(`{{ ${inside} }}`)).not.to.match(/\[object/);
      }),
    );
  });
});

describe('dates in messages to people', () => {
  const london = { locale: 'en-GB', timeZone: 'Europe/London', now: NOW };
  for (const [typed, reader, words] of [
    ['2026-11-27T16:00:00Z', london, 'Friday 27 November, 16:00'],
    ['2026-11-27T16:00:00Z', { ...london, timeZone: 'Europe/Lisbon' }, 'Friday 27 November, 16:00'],
    ['2026-11-27T16:00:00Z', { ...london, timeZone: 'America/New_York' }, 'Friday 27 November, 11:00'],
    ['2026-07-27T16:00:00+02:00', london, 'Monday 27 July, 15:00'],
    ['2026-11-27T16:00', { ...london, timeZone: 'Asia/Tokyo' }, 'Friday 27 November, 16:00'],
    ['2026-11-27', { ...london, timeZone: 'Pacific/Honolulu' }, 'Friday 27 November'],
    ['2027-01-04T09:30:00Z', london, 'Monday 4 January 2027, 09:30'],
    ['2026-11-27T16:00:00Z', { ...london, locale: 'de-DE', timeZone: 'Europe/Berlin' }, 'Freitag, 27. November, 17:00'],
    ['2026-11-27T16:00:00Z', { ...london, locale: 'fr-FR', timeZone: 'Europe/Paris' }, 'vendredi 27 novembre, 17:00'],
    ['2026-02-30', london, '2026-02-30'],
    ['27/11/2026', london, '27/11/2026'],
    ['Piano', london, 'Piano'],
    ['+447700900123', london, '+447700900123'],
  ] as const)
    it(`${typed} for ${reader.locale} in ${reader.timeZone} is “${words}”`, () =>
      expect(dateInMessage(typed, reader).replaceAll('\u202f', ' ')).to.equal(words));

  it('a text and an email say it by the lead’s clock, a sheet row keeps it as it is', () => {
    const context = {
      ...nadia({ answers: { start: '2026-11-27T16:00:00Z' } }),
      zone: 'America/New_York',
    };
    const catalogue = catalogueOf({ tabs: [{ id: 'tab', name: 'Rows', columns: [{ id: 'c', name: 'Start' }] }] });
    const text = planStep(freshStep('text', 't', { message: 'See you {{ answers.start }}' }), context, catalogue, NOW);
    expect(text).to.have.nested.property('message.text', 'See you Friday 27 November, 11:00');
    const email = planStep(
      freshStep('email', 'e', { subject: '{{ answers.start }}', message: 'x' }),
      context,
      catalogue,
      NOW,
    );
    expect(email).to.have.nested.property('message.subject', 'Friday 27 November, 11:00');
    const row = planStep(
      freshStep('sheet-row', 'r', { tab: 'tab', cells: { c: '{{ answers.start }}' } }),
      context,
      catalogue,
      NOW,
    );
    expect(JSON.stringify(row)).to.include('2026-11-27T16:00:00Z');
  });
  it('in HTML what a lead typed is escaped all the same', () => {
    const came = renderTemplate(
      '<b>{{ lead.first_name }}</b>',
      { ...scopeOf({ lead: { first_name: '<i>&"' } }), [READER]: london },
      'html',
    );
    expect(came).to.deep.equal({ ok: true, text: '<b>&lt;i&gt;&amp;&#34;</b>' });
  });
});
