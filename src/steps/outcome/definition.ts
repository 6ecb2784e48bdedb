import { z } from 'zod';
import { readNumber } from '../../core/fields/read-number.ts';
import { renderTemplate } from '../../core/template/template.ts';
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
  /** How often it counts: with each arrival, once for a person, or once for each value of `key`. */
  once: z.enum(['arrival', 'person', 'key']),
  /** A template. */
  key: z.string().max(300),
});
export type OutcomeSettings = z.infer<typeof Settings>;
export type OutcomeDone = Pick<OutcomeSettings, 'action' | 'name' | 'currency' | 'once' | 'key'> & {
  /** "49.00"; null for none. */
  amount: string | null;
};

/** Notes an outcome the business counts by a name of its own, or takes one back. */
export const outcome: StepKind<OutcomeSettings> = {
  kind: 'outcome',
  label: 'Count it in results',
  icon: 'trophy',
  places: ['record'],
  settings: Settings,
  blank: () => ({ action: 'note', name: '', amount: '', currency: '', once: 'arrival', key: '' }),
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
  templates: ({ amount, key, once }) => [
    { field: 'amount', source: amount },
    ...(once === 'key' ? [{ field: 'key', source: key }] : []),
  ],
  plan: ({ action, name, amount, currency, once, key }, { context, now }) => {
    const scope = machineScope(context, now);
    const worth = renderTemplate(amount, scope);
    const same = renderTemplate(once === 'key' ? key : '', scope);
    if (!worth.ok) return { does: 'ask', why: { code: 'template', text: worth.problem.text } };
    if (!same.ok) return { does: 'ask', why: { code: 'template', text: same.problem.text } };
    if (once === 'key' && same.text.trim() === '')
      return { does: 'nothing', why: { code: 'empty', text: 'What makes it one and the same came out empty' } };
    const read = readNumber(worth.text);
    const what: OutcomeDone = {
      ...{ action, name: name.trim(), currency, once, key: same.text.trim().slice(0, 300) },
      amount: action === 'take_back' || read === null || Math.abs(read) >= 1e12 ? null : read.toFixed(2),
    };
    const words = action === 'note' ? `Counts: ${what.name}` : `Takes back: ${what.name}`;
    return { does: 'record', words: what.amount === null ? words : `${words}, ${what.amount}`, what };
  },
};
