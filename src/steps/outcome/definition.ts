import { Temporal } from 'temporal-polyfill';
import { z } from 'zod';
import { readNumber } from '../../core/fields/read-number.ts';
import { renderTemplate } from '../../core/template/template.ts';
import { readDate } from '../../core/time/read-date.ts';
import { atWallClock } from '../../core/time/zone.ts';
import { machineScope } from '../../core/workflow/run-context.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';

const Settings = z.object({
  action: z.enum(['note', 'take_back']),
  /** What it is called in results: "Trial lesson had". The business's own word, made by its first use. */
  name: z.string().trim().max(60),
  /** A template; empty where no money goes with it. */
  amount: z.string().max(300),
  /** ISO 4217; empty for the business's own. */
  currency: z.string().max(3),
  /** When it happened, a template; empty for when the step is done. */
  at: z.string().max(300).default(''),
  /** How often it counts: with each arrival, once for a person, or once for each value of `key`. */
  once: z.enum(['arrival', 'person', 'key']),
  /** A template. */
  key: z.string().max(300),
});
export type OutcomeSettings = z.infer<typeof Settings>;
export type OutcomeDone = Pick<OutcomeSettings, 'action' | 'name' | 'currency' | 'once' | 'key'> & {
  /** "49.00"; null for none. */
  amount: string | null;
  /** ISO 8601; null for when it is done. */
  at: string | null;
};

/** Notes an outcome the business counts by a name of its own, or takes one back. */
export const outcome: StepKind<OutcomeSettings> = {
  kind: 'outcome',
  label: 'Count it in results',
  icon: 'trophy',
  places: ['record'],
  settings: Settings,
  blank: () => ({ action: 'note', name: '', amount: '', currency: '', at: '', once: 'arrival', key: '' }),
  card: ({ action, name }) => ({
    title: name === '' ? 'Count it in results' : action === 'note' ? `Count: ${name}` : `Take back: ${name}`,
    line: '',
  }),
  aloud: ({ action, name }) =>
    action === 'note'
      ? `count ${name || 'an outcome'} in the results`
      : `take ${name || 'an outcome'} out of the results`,
  check: ({ name, once, key, currency }) => [
    ...(name.trim() === ''
      ? [{ weight: 'must' as const, code: 'empty', text: 'Count it: give it a name.', field: 'name' }]
      : []),
    ...(once === 'key' && key.trim() === ''
      ? [
          {
            weight: 'must' as const,
            code: 'empty',
            text: 'Count it: say what makes it one and the same.',
            field: 'key',
          },
        ]
      : []),
    ...(currency !== '' && !/^[A-Z]{3}$/.test(currency)
      ? [
          {
            weight: 'must' as const,
            code: 'currency',
            text: 'Count it: a currency is three letters, as in EUR.',
            field: 'currency',
          },
        ]
      : []),
  ],
  templates: ({ amount, at, key, once }) => [
    { field: 'amount', source: amount },
    { field: 'at', source: at },
    ...(once === 'key' ? [{ field: 'key', source: key }] : []),
  ],
  plan: ({ action, name, amount, currency, at, once, key }, { context, now }) => {
    const scope = machineScope(context, now);
    const worth = renderTemplate(amount, scope);
    const same = renderTemplate(once === 'key' ? key : '', scope);
    if (!worth.ok) return { does: 'ask', why: { code: 'template', text: worth.problem.text } };
    const when = renderTemplate(at, scope);
    if (!when.ok) return { does: 'ask', why: { code: 'template', text: when.problem.text } };
    if (!same.ok) return { does: 'ask', why: { code: 'template', text: same.problem.text } };
    if (once === 'key' && same.text.trim() === '')
      return { does: 'nothing', why: { code: 'empty', text: 'What makes it one and the same came out empty' } };
    const told = when.text.trim();
    const instant = told === '' ? null : instantOf(told, context.business.country, context.business.timeZone);
    if (told !== '' && instant === null)
      return {
        does: 'ask',
        why: { code: 'template', text: `“${told.slice(0, 60)}” says no day on which it happened` },
      };
    const read = readNumber(worth.text);
    const what: OutcomeDone = {
      ...{ action, name: name.trim(), currency, once, key: same.text.trim().slice(0, 300) },
      at: instant === null ? null : new Date(instant).toISOString(),
      amount: action === 'take_back' || read === null || Math.abs(read) >= 1e12 ? null : read.toFixed(2),
    };
    const words = action === 'note' ? `Counts: ${what.name}` : `Takes back: ${what.name}`;
    return { does: 'record', words: what.amount === null ? words : `${words}, ${what.amount}`, what };
  },
};

/** An instant (milliseconds) out of what a source tells: whole with its zone, or a day, of which noon is taken by the business's clock: no clock change moves it to another. */
function instantOf(told: string, country: string, zone: string): number | null {
  if (/^\d{4}-\d\d-\d\dT\d\d:\d\d.*(Z|[+-]\d\d:?\d\d)$/.test(told)) {
    const at = Date.parse(told);
    return Number.isNaN(at) ? null : at;
  }
  const day = readDate(told, country);
  return day === null ? null : atWallClock(Temporal.PlainDate.from(day), '12:00', zone);
}
