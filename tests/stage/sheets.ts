import { type Definition, IF_FAILS, type Moment, type Step } from '../../src/core/workflow/definition.ts';
import { Rules } from '../../src/core/workflow/rules.ts';
import { type RunContext, startContext, type templateScope } from '../../src/core/workflow/run-context.ts';
import type { Catalogue } from '../../src/core/workflow/step-kind.ts';
import { stepKinds } from '../../src/steps/registry.ts';

/** A step as a sheet has it, with what tests seldom say. */
export const stepOf = (
  kind: string,
  id: string,
  settings: Record<string, unknown>,
  more: Partial<Step> = {},
): Step => ({
  id,
  kind,
  on: true,
  note: '',
  onlyIf: null,
  ifFails: IF_FAILS,
  each: '',
  settings,
  ...more,
});

/** A step with everything its kind has by itself, and what is said; sent without asking for consent where nothing is said of it. */
export const freshStep = (kind: string, id: string, settings: object, more: Partial<Step> = {}): Step =>
  stepOf(kind, id, { ...(stepKinds.get(kind)!.blank() as object), needsConsent: false, ...settings }, more);

/** The lanes of a moment in which only the lead gets something. */
export const toTheLead = (...lead: Step[]): Pick<Moment, 'lanes'> => ({ lanes: { lead, record: [], team: [] } });

export const rulesOf = (more: Partial<Rules> = {}): Rules => ({
  ...Rules.parse({ samePerson: 'update_only' }),
  ...more,
});

export const momentOf = (id: string, more: Partial<Moment> = {}): Moment => ({
  id,
  at: { kind: 'on_arrival' },
  onlyIf: null,
  first: [],
  cases: [],
  lanes: { lead: [], record: [], team: [] },
  ...more,
});

export const sheetOf = (moments: Moment[], rules: Partial<Rules> = {}, sources: string[] = []): Definition => ({
  sources,
  rules: rulesOf(rules),
  moments,
});

export const catalogueOf = (more: Partial<Catalogue> = {}): Catalogue => ({
  text: { connectionId: 't', from: 'Wrenfield', senders: ['Wrenfield'] },
  email: { connectionId: 'e', fromName: 'Oona', fromAddress: 'o@wrenfield.example' },
  chat: { connectionId: 'c', from: 'Wrenfield' },
  directory: null,
  locale: 'en-GB',
  colleagues: [],
  tabs: [],
  tags: [],
  stages: [],
  sources: [],
  lists: [],
  segments: [],
  chatTemplates: [],
  chatForms: [],
  emailTemplates: [],
  counting: { links: null, opens: false },
  ...more,
});

/** Nadia, who asked about piano lessons and agreed to everything. */
export const nadia = (more: Partial<RunContext> = {}): RunContext => ({
  ...startContext(
    {
      person: { first_name: 'Nadia', last_name: 'Okafor', email: 'nadia@example.com', phone: '+447700900142' },
      answers: { instrument: 'Piano' },
    },
    { first_name: '', last_name: '', email: '', phone: '' },
    {
      where: {},
      business: { name: 'Wrenfield', country: 'GB', timeZone: 'Europe/London', holidays: [] },
      source: { name: 'Form' },
      consent: { text: 'given', email: 'given', chat: 'unknown' },
    },
  ),
  ...more,
});

/** A scope for templates with nothing in it but what is given. */
export const scopeOf = (groups: Partial<ReturnType<typeof templateScope>> = {}): ReturnType<typeof templateScope> => ({
  lead: {},
  record: {},
  member: {},
  given: {},
  account: {},
  own: {},
  answers: {},
  where: {},
  first_touch: {},
  last_touch: {},
  booking_touch: {},
  business: {},
  source: {},
  owner: {},
  found: {},
  happened: {},
  item: {},
  ...groups,
});
