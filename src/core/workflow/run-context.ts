import type { LeadDraft } from '../source/lead-draft.ts';
import { type WhereFrom, whereWords } from '../source/where-from.ts';
import type { TemplateScope } from '../template/template.ts';

export type Channel = 'text' | 'email';
export type ConsentState = 'unknown' | 'given' | 'withdrawn';

export interface RunPerson {
  first_name: string;
  last_name: string;
  email: string;
  phone: string;
}

/** Everything a step may look at while it plans. Values are text; an empty one is "". */
export interface RunContext {
  person: RunPerson;
  answers: Record<string, string>;
  where: WhereFrom;
  business: { name: string; country: string; timeZone: string };
  source: { name: string };
  consent: Record<Channel, ConsentState>;
}

/** The context a run starts with: this arrival's own values, and what was known before where it says nothing. */
export function startContext(
  draft: Pick<LeadDraft, 'person' | 'answers'>,
  known: RunPerson,
  rest: Omit<RunContext, 'person' | 'answers'>,
): RunContext {
  const person = {
    first_name: draft.person.first_name || known.first_name,
    last_name: draft.person.last_name || known.last_name,
    email: draft.person.email || known.email,
    phone: draft.person.phone || known.phone,
  };
  return { ...rest, person, answers: draft.answers };
}

/** The context as a message sees it. */
export function templateScope(context: RunContext): TemplateScope {
  const { person } = context;
  return {
    lead: { ...person, full_name: `${person.first_name} ${person.last_name}`.trim() },
    answers: context.answers,
    where: Object.fromEntries(whereWords(context.where).map(([key, , value]) => [key, value])),
    business: { name: context.business.name },
    source: context.source,
  };
}
