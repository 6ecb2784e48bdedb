import { EVERYBODY, type LeadChoice } from './lead-choice.ts';

/** Who gets an email to many. */
export type Audience = { list: string } | { tag: string } | { segment: string };

/** The leads of an audience: of a list, those who are on it and have not left. */
export const choiceOf = (audience: Audience): LeadChoice =>
  'list' in audience ? { ...EVERYBODY, list: { id: audience.list, state: 'active' } } : { ...EVERYBODY, ...audience };
