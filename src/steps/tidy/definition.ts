import { z } from 'zod';
import { EMAIL_PROBLEMS, readEmail } from '../../core/message/email-address.ts';
import { likelyDomain } from '../../core/message/likely-domain.ts';
import { properName, splitName } from '../../core/people/name.ts';
import { PHONE_PROBLEMS, readPhone, storedPhone } from '../../core/people/phone.ts';
import { readReference, referenceLabel } from '../../core/template/field-reference.ts';
import { TIDYING_NAMES, type TidyingName, tidyingOf } from '../../core/tidying/tidyings.ts';
import type { FieldChange } from '../../core/workflow/plan.ts';
import { fieldValue } from '../../core/workflow/run-context.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';

/** Splitting a whole name fills two fields, so it is no tidying of one. */
export const SPLIT_NAME = 'split_name';

const More = z.object({
  /** Reference of an answer or of a field of the person. */
  field: z.string().max(200),
  do: z.enum([...TIDYING_NAMES, SPLIT_NAME]),
  from: z.string().max(500).default(''),
  to: z.string().max(500).default(''),
  n: z.number().int().min(-100).max(1000).default(1),
});
const Settings = z.object({
  names: z.boolean(),
  email: z.boolean(),
  phone: z.boolean(),
  /** Further tidyings, one after another. */
  more: z.array(More).max(30).default([]),
});
export type TidySettings = z.infer<typeof Settings>;
export type TidyMore = z.infer<typeof More>;

const PERSON = ['first_name', 'last_name', 'email', 'phone'];
/** How a change names its field: a person's by its own name, an answer by its reference. */
const changeName = (reference: string): string | null => {
  const read = readReference(reference);
  if (read?.group === 'answers') return reference;
  return read?.group === 'lead' && PERSON.includes(read.key) ? read.key : null;
};
const labelOf = (reference: string) => {
  const read = readReference(reference);
  return read ? referenceLabel(read) : 'a field';
};

/** Tidies what people typed: names, email address, phone number, and any answer as the coordinator says. */
export const tidy: StepKind<TidySettings> = {
  kind: 'tidy',
  label: 'Tidy what they typed',
  icon: 'sparkles',
  places: ['first'],
  settings: Settings,
  blank: () => ({ names: true, email: true, phone: true, more: [] }),
  card: (settings) => {
    const what = whatOf(settings);
    return { title: what.length ? `Tidy ${what.join(', ')}` : 'Tidy nothing', line: '' };
  },
  aloud: (settings) => `tidy ${whatOf(settings).join(', ') || 'nothing'}`,
  check: (settings) => {
    const found: ReturnType<StepKind['check']> = [];
    if (whatOf(settings).length === 0)
      found.push({
        weight: 'look',
        code: 'tidies-nothing',
        text: 'Tidy: nothing is chosen, so this step does nothing.',
      });
    if (settings.more.some((one) => one.do !== SPLIT_NAME && changeName(one.field) === null))
      found.push({ weight: 'must', code: 'empty', text: 'Tidy: choose the field of each tidying.', field: 'more' });
    return found;
  },
  templates: () => [],
  plan: (settings, { context }) => {
    const { person, business } = context;
    const changes = new Map<string, FieldChange>();
    const valueNow = (reference: string) => {
      const name = changeName(reference);
      return (name === null ? undefined : changes.get(name)?.after) ?? fieldValue(context, reference) ?? '';
    };
    const change = (name: string, reference: string, after: string, problem: string | null) => {
      const before = changes.get(name)?.before ?? fieldValue(context, reference) ?? '';
      // What was there is not tidied away: nothing empty takes the place of something.
      const lost = after.trim() === '' && before.trim() !== '';
      changes.set(
        name,
        lost
          ? { field: name, before, after: before, problem: 'came out empty, left as it was' }
          : { field: name, before, after, problem },
      );
    };
    if (settings.names) {
      change('first_name', 'lead.first_name', properName(person.first_name), null);
      change('last_name', 'lead.last_name', properName(person.last_name, 'last'), null);
    }
    if (settings.email && person.email !== '') {
      const email = readEmail(person.email);
      // Lower case throughout is what people expect to see; RFC 5321 would allow the local part to differ by case.
      const after = email.ok ? email.address.toLowerCase() : person.email;
      const meant = email.ok ? likelyDomain(after.slice(after.lastIndexOf('@') + 1)) : null;
      change(
        'email',
        'lead.email',
        after,
        email.ok ? (meant === null ? null : `did they mean ${meant}?`) : EMAIL_PROBLEMS[email.problem],
      );
    }
    if (settings.phone && person.phone !== '') {
      const phone = readPhone(person.phone, business.country);
      const problem = phone.ok ? (phone.mobile === false ? 'landline' : null) : PHONE_PROBLEMS[phone.problem];
      change('phone', 'lead.phone', phone.ok ? storedPhone(phone) : person.phone, problem);
    }
    for (const one of settings.more) {
      if (one.do === SPLIT_NAME) {
        const whole = valueNow(one.field);
        if (whole.trim() === '') continue;
        const { first, last } = splitName(whole);
        change('first_name', 'lead.first_name', first, null);
        change('last_name', 'lead.last_name', last, null);
        continue;
      }
      const name = changeName(one.field);
      if (name === null) continue;
      // In a last name on its own a leading particle stays small.
      if (one.do === 'name' && name === 'last_name') {
        change(name, one.field, properName(valueNow(one.field), 'last'), null);
        continue;
      }
      const { value, problem } = tidyingOf(one.do).apply(valueNow(one.field), { ...one, country: business.country });
      change(name, one.field, value.slice(0, 20_000), problem);
    }
    return { does: 'change', changes: [...changes.values()] };
  },
};

function whatOf(settings: TidySettings): string[] {
  const more = new Set(
    settings.more.map((one) => (one.do === SPLIT_NAME ? 'first and last name' : labelOf(one.field).toLowerCase())),
  );
  return [
    ...(settings.email ? ['email'] : []),
    ...(settings.phone ? ['phone'] : []),
    ...(settings.names ? ['names'] : []),
    ...more,
  ];
}

/** The words of a tidying for the menu. */
export const tidyingLabel = (name: TidyingName | typeof SPLIT_NAME): string =>
  name === SPLIT_NAME ? 'split into first and last name' : tidyingOf(name).label;
