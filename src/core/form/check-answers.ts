import { readEmail } from '../message/email-address.ts';
import { readPhone } from '../people/phone.ts';
import type { FormField } from './form-page.ts';

export type FormAnswers = Record<string, string>;

/** What of a form its answers are checked by: a page and a form in chat have it alike. */
export interface AskedOf {
  screens: readonly { fields: readonly FormField[] }[];
  consent: { asked: boolean; required: boolean };
}

/** Checks what somebody typed. Gives the answers in reading order, or what is wrong by field key. `country` reads phone numbers. */
export function checkAnswers(
  page: AskedOf,
  typed: Readonly<Record<string, string>>,
  country: string,
): { ok: true; answers: FormAnswers } | { ok: false; problems: Record<string, string> } {
  const answers: FormAnswers = {};
  const problems: Record<string, string> = {};
  for (const field of page.screens.flatMap((screen) => screen.fields)) {
    const value = field.kind === 'tick' ? ticked(typed[field.key]) : (typed[field.key] ?? '').trim();
    answers[field.key] = value;
    const problem =
      value === '' ? (field.required ? 'Please fill this in.' : null) : valueProblem(field, value, country);
    if (problem) problems[field.key] = problem;
  }
  if (page.consent.asked && page.consent.required && typed.consent !== 'true')
    problems.consent = 'Please tick this to go on.';
  return Object.keys(problems).length > 0 ? { ok: false, problems } : { ok: true, answers };
}

/** A tick is "Yes" or nothing, however the other side writes it. */
const ticked = (value = '') => (/^(true|yes|on|1)$/i.test(value.trim()) ? 'Yes' : '');

const MOST = { short: 300, long: 5000 } as const;

function valueProblem(field: FormField, value: string, country: string): string | null {
  switch (field.kind) {
    case 'short':
    case 'long':
      return value.length > MOST[field.kind] ? `Please keep it under ${MOST[field.kind]} characters.` : null;
    case 'email':
      return readEmail(value).ok ? null : 'This does not look like an email address, like name@example.com.';
    case 'phone':
      return readPhone(value, country).ok ? null : 'This does not look like a phone number.';
    case 'tick':
      return null;
    case 'choice':
      return field.choices.includes(value) ? null : 'Please choose one of the answers.';
    case 'date':
      return isDate(value) ? null : 'Please write a date like 2026-11-25.';
  }
}

/** A calendar date as HTML's date input gives it (RFC 3339 full-date) that exists: no 30 February. */
function isDate(value: string): boolean {
  const match = /^(\d{4})-(\d{2})-(\d{2})$/.exec(value);
  if (!match) return false;
  const [year, month, day] = match.slice(1).map(Number) as [number, number, number];
  const date = new Date(Date.UTC(year, month - 1, day));
  return date.getUTCFullYear() === year && date.getUTCMonth() === month - 1 && date.getUTCDate() === day;
}
