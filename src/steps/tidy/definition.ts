import { z } from 'zod';
import { EMAIL_PROBLEMS, readEmail } from '../../core/message/email-address.ts';
import { properName } from '../../core/people/name.ts';
import { PHONE_PROBLEMS, readPhone } from '../../core/people/phone.ts';
import type { FieldChange } from '../../core/workflow/plan.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';

const Settings = z.object({ names: z.boolean(), email: z.boolean(), phone: z.boolean() });
export type TidySettings = z.infer<typeof Settings>;

/** Tidies what people typed: names, email address, phone number to E.164 with the business's country. */
export const tidy: StepKind<TidySettings> = {
  kind: 'tidy',
  label: 'Tidy what they typed',
  icon: 'sparkles',
  places: ['first'],
  settings: Settings,
  blank: () => ({ names: true, email: true, phone: true }),
  card: (settings) => {
    const what = [settings.email && 'email', settings.phone && 'phone', settings.names && 'names'].filter(Boolean);
    return { title: what.length ? `Tidy ${what.join(', ')}` : 'Tidy nothing', line: '' };
  },
  aloud: (settings) => {
    const what = [settings.email && 'email', settings.phone && 'phone', settings.names && 'names'].filter(Boolean);
    return `tidy ${what.join(', ') || 'nothing'}`;
  },
  check: (settings) =>
    settings.names || settings.email || settings.phone
      ? []
      : [{ weight: 'look', code: 'tidies-nothing', text: 'Tidy: nothing is chosen, so this step does nothing.' }],
  templates: () => [],
  plan: (settings, { context }) => {
    const { person, business } = context;
    const changes: FieldChange[] = [];
    if (settings.names) {
      changes.push({
        field: 'first_name',
        before: person.first_name,
        after: properName(person.first_name),
        problem: null,
      });
      changes.push({
        field: 'last_name',
        before: person.last_name,
        after: properName(person.last_name, 'last'),
        problem: null,
      });
    }
    if (settings.email && person.email !== '') {
      const email = readEmail(person.email);
      // Lower case throughout is what people expect to see; RFC 5321 would allow the local part to differ by case.
      const after = email.ok ? email.address.toLowerCase() : person.email;
      changes.push({
        field: 'email',
        before: person.email,
        after,
        problem: email.ok ? null : EMAIL_PROBLEMS[email.problem],
      });
    }
    if (settings.phone && person.phone !== '') {
      const phone = readPhone(person.phone, business.country);
      const problem = phone.ok ? (phone.mobile === false ? 'landline' : null) : PHONE_PROBLEMS[phone.problem];
      changes.push({ field: 'phone', before: person.phone, after: phone.ok ? phone.e164 : person.phone, problem });
    }
    return { does: 'change', changes };
  },
};
