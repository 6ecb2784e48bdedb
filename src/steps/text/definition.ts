import { z } from 'zod';
import { asCounted } from '../../core/message/counted-links.ts';
import { measureText } from '../../core/message/text-segments.ts';
import { renderTemplate } from '../../core/template/template.ts';
import { PURPOSES } from '../../core/workflow/purpose.ts';
import { templateScope } from '../../core/workflow/run-context.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';
import { planEmail } from '../plan-email.ts';
import { planText } from '../plan-text.ts';

const Settings = z.object({
  message: z.string().max(4000),
  needsConsent: z.boolean(),
  purpose: z.enum(PURPOSES).default('service'),
  /** One of the carrier's senders; empty for its first. */
  from: z.string().max(100).default(''),
  /** Links are shortened, and counted when they are followed. */
  countLinks: z.boolean().default(true),
  /** Put up for a person to read and send. */
  draft: z.boolean().default(false),
});
export type TextSettings = z.infer<typeof Settings>;

/** A text to the lead's phone. */
export const text: StepKind<TextSettings> = {
  kind: 'text',
  label: 'Text the lead',
  icon: 'message-square-text',
  places: ['lead'],
  settings: Settings,
  blank: () => Settings.parse({ message: '', needsConsent: true }),
  shared: (settings) => ({ ...settings, from: '' }),
  card: ({ message, draft }) => ({ title: draft ? 'Text, to be read first' : 'Text', line: message }),
  aloud: ({ draft }) => (draft ? 'draft a text for one of us to send' : 'text them'),
  check: (settings, { catalogue, sample, consentAsked }) => {
    const found: ReturnType<StepKind['check']> = [];
    if (settings.message.trim() === '')
      found.push({ weight: 'must', code: 'empty', text: 'Text: the message is empty.', field: 'message' });
    if (!catalogue.text)
      found.push({ weight: 'must', code: 'no-sender', text: 'Text: no text carrier is connected yet.' });
    if ((settings.needsConsent || settings.purpose === 'marketing') && !consentAsked)
      found.push({
        weight: 'look',
        code: 'consent-never-asked',
        text: 'Text: only sent with consent, but no source asks for it, so nobody would get it.',
        field: 'needsConsent',
      });
    if (!settings.needsConsent && settings.purpose === 'service')
      found.push({
        weight: 'look',
        code: 'no-consent',
        text: 'Text: sent without asking for consent.',
        field: 'needsConsent',
      });
    if (settings.from !== '' && catalogue.text && !catalogue.text.senders.includes(settings.from))
      found.push({
        weight: 'must',
        code: 'gone',
        text: `Text: the carrier has no sender ${settings.from} any more.`,
        field: 'from',
      });
    if (sample) {
      const rendered = renderTemplate(settings.message, templateScope(sample));
      if (rendered.ok) {
        const length = measureText(asCounted(rendered.text, settings.countLinks ? catalogue.counting.links : null));
        const { forcedBy } = length;
        if (forcedBy && forcedBy.count <= 3)
          found.push({
            weight: 'look',
            code: 'odd-character',
            text: `Text: the character “${forcedBy.character}” makes a text hold 70 characters instead of 160.`,
            field: 'message',
          });
        if (length.parts > 1)
          found.push({
            weight: 'look',
            code: 'several-parts',
            text: `Text: goes out in ${length.parts} parts, each charged as one text.`,
            field: 'message',
          });
      }
    }
    return found;
  },
  templates: (settings) => [{ field: 'message', source: settings.message }],
  plan: planText,
  instead: ({ message, needsConsent, purpose }, input) =>
    planEmail({ subject: 'A message from {{ business.name }}', message, needsConsent, purpose }, input),
};
