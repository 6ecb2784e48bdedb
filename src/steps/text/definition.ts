import { z } from 'zod';
import { measureText } from '../../core/message/text-segments.ts';
import { renderTemplate } from '../../core/template/template.ts';
import { templateScope } from '../../core/workflow/run-context.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';
import { planEmail } from '../plan-email.ts';
import { planText } from '../plan-text.ts';

const Settings = z.object({
  message: z.string().max(4000),
  needsConsent: z.boolean(),
});
export type TextSettings = z.infer<typeof Settings>;

/** A text to the lead's phone. */
export const text: StepKind<TextSettings> = {
  kind: 'text',
  label: 'Text the lead',
  icon: 'message-square-text',
  places: ['lead'],
  settings: Settings,
  blank: () => ({ message: '', needsConsent: true }),
  card: (settings) => ({ title: 'Text', line: settings.message }),
  aloud: () => 'text them',
  check: (settings, { desk, sample, consentAsked }) => {
    const found: ReturnType<StepKind['check']> = [];
    if (settings.message.trim() === '')
      found.push({ weight: 'must', code: 'empty', text: 'Text: the message is empty.', field: 'message' });
    if (!desk.text) found.push({ weight: 'must', code: 'no-sender', text: 'Text: no text carrier is connected yet.' });
    if (settings.needsConsent && !consentAsked)
      found.push({
        weight: 'look',
        code: 'consent-never-asked',
        text: 'Text: only sent with consent, but no source asks for it, so nobody would get it.',
        field: 'needsConsent',
      });
    if (!settings.needsConsent)
      found.push({
        weight: 'look',
        code: 'no-consent',
        text: 'Text: sent without asking for consent.',
        field: 'needsConsent',
      });
    if (sample) {
      const rendered = renderTemplate(settings.message, templateScope(sample));
      if (rendered.ok) {
        const length = measureText(rendered.text);
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
  instead: ({ message, needsConsent }, input) =>
    planEmail({ subject: 'A message from {{ business.name }}', message, needsConsent }, input),
};
