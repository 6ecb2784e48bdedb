import { expect } from 'chai';
import fc from 'fast-check';
import { catalogueOfShare } from '../../src/core/share/share-catalogue.ts';
import { readShare, type ShareFile } from '../../src/core/share/share-file.ts';
import { placedSteps } from '../../src/core/workflow/definition.ts';
import { readAloud } from '../../src/core/workflow/read-aloud.ts';
import { allConsents } from '../../src/core/workflow/run-context.ts';
import type { Catalogue } from '../../src/core/workflow/step-kind.ts';
import { toCheck } from '../../src/core/workflow/to-check.ts';
import { starters } from '../../src/starters/registry.ts';
import { stepKinds } from '../../src/steps/registry.ts';
import { rehearse } from '../../src/steps/rehearse.ts';
import { catalogueOf, nadia } from '../stage/sheets.ts';

/** What the kind of source brings: keys as its definition has them. */
const ANSWERS: Record<string, Record<string, string>> = {
  shop: { event: 'order created', 'order.number': '1042', 'order.status': 'paid', 'order.total': '30 GBP' },
  booking: {
    ...{ event: 'booked', 'appointment.title': 'First talk', 'appointment.start': '2026-03-10T15:00:00Z' },
    ...{ 'appointment.calendar': 'Front room', 'appointment.note': '' },
  },
  mail: { subject: 'A question', text: 'Do you open on Sundays?' },
  sheet: { c000000000005: 'the summer course' },
  feed: { title: 'Episode 9', link: 'https://example.com/9', summary: 'About scales' },
};

/** Everything a starter names is here, and everybody somebody. */
const here = ({ file }: { file: ShareFile }): Catalogue => ({
  ...catalogueOfShare(file, catalogueOf({ directory: { name: 'Directory' } })),
  colleagues: file.things.flatMap(({ id, kind, name }) =>
    kind === 'colleague' ? [{ id, name, email: `${id.slice(-2)}@example.com`, phone: '+447700900100' }] : [],
  ),
});
const context = (comesBy: string, more: Parameters<typeof nadia>[0] = {}) =>
  nadia({
    ...{ answers: ANSWERS[comesBy] ?? {}, consent: allConsents({ text: 'given', email: 'given', chat: 'given' }) },
    ...{ marketing: allConsents({ text: 'given', email: 'given', chat: 'given' }), lastChatAt: NOW },
    ...more,
  });
const NOW = Date.UTC(2026, 2, 2, 10, 0);
const name = fc.string({ unit: 'grapheme', maxLength: 30 });

describe('the starters', () => {
  it('are at least fourteen, of every way in, each with a name and an id of its own', () => {
    expect(starters.length).to.be.at.least(14);
    expect(new Set(starters.map(({ id }) => id)).size).to.equal(starters.length);
    expect(new Set(starters.map(({ name }) => name)).size).to.equal(starters.length);
    for (const way of ['ad form', 'funnel', 'sheet', 'shop', 'booking', 'call', 'mail', 'form', 'chat', 'feed'])
      expect(
        starters.some(({ comesBy }) => comesBy === way),
        way,
      ).to.equal(true);
  });

  for (const starter of starters)
    describe(starter.name, () => {
      const [{ sheet }] = starter.file.workflows as [ShareFile['workflows'][number]];
      const catalogue = here(starter);

      it('is a file that is read as any other, with settings every step takes', () => {
        const read = readShare(JSON.parse(JSON.stringify(starter.file)));
        expect(read.ok, JSON.stringify(read).slice(0, 300)).to.equal(true);
        for (const { step } of placedSteps(sheet)) {
          const kind = stepKinds.get(step.kind)!;
          const settings = kind.settings.safeParse(step.settings);
          expect(settings.success, `${step.kind}: ${settings.error?.message}`).to.equal(true);
        }
      });

      it('has nothing that must be put right once its source, accounts and people are chosen', () => {
        const found = toCheck(sheet, stepKinds, {
          ...{ catalogue, sample: context(starter.comesBy), consentAsked: true, triedSinceChange: true },
          sources: sheet.sources.map((id) => ({ id, name: 'Source', state: 'live' as const })),
        });
        expect(found.map(({ text }) => text)).to.deep.equal([]);
      });

      it('sends everybody whole messages, with whatever they are called, and with no name at all', () => {
        fc.assert(
          fc.property(name, name, fc.boolean(), fc.boolean(), (first_name, last_name, happens, blank) => {
            const person = {
              ...nadia().person,
              first_name: blank ? '' : first_name,
              last_name: blank ? '' : last_name,
            };
            const { moments } = rehearse(sheet, context(starter.comesBy, { person }), catalogue, {
              ...{ now: NOW, happens, zoneOf: () => 'Europe/London', justCameIn: true },
            });
            for (const { plan, stepId } of moments.flatMap(({ steps }) => steps.filter(({ taken }) => taken))) {
              expect(plan.does, `${stepId}: ${JSON.stringify(plan).slice(0, 200)}`).not.to.equal('ask');
              if (plan.does === 'send')
                expect(JSON.stringify(plan.message)).not.to.match(/\{\{|\}\}|undefined|null,? ?you/);
            }
          }),
          { numRuns: 25 },
        );
      });

      it('texts in at most two parts, writes news only with a way to leave, and can be read aloud', () => {
        const { moments } = rehearse(sheet, context(starter.comesBy), catalogue, {
          ...{ now: NOW, happens: false, zoneOf: () => 'Europe/London', justCameIn: true },
        });
        for (const { plan } of moments.flatMap(({ steps }) => steps))
          if (plan.does === 'send' && plan.message.channel === 'text') expect(plan.message.parts).to.be.at.most(2);
        for (const { step } of placedSteps(sheet))
          if (step.settings.purpose === 'marketing')
            expect(String(step.settings.message), step.id).to.include('lead.leave_link');
        const said = readAloud(sheet, stepKinds, catalogue).flatMap((part) => part.sentences);
        expect(said.length).to.be.at.least(2);
        expect(said.join(' ')).not.to.match(/gone|undefined|null/);
      });
    });
});
