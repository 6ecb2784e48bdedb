import { newFormPage } from '../core/form/form-page.ts';
import { columnPlaceOf, placeOf, SHARE_VERSION, type SharedThing, type ShareFile } from '../core/share/share-file.ts';
import type { LeadCard } from '../core/source/lead-card.ts';
import type { At } from '../core/workflow/at.ts';
import { Definition } from '../core/workflow/definition.ts';
import { TEXT_HOURS } from '../core/workflow/rules.ts';

/** Of each kind by itself. */
type WithoutId<T> = T extends { id: string } ? Omit<T, 'id'> : never;
type Settings = Record<string, unknown>;
type Condition = { field: string; test: string; value?: string } | { all: Condition[] } | { any: Condition[] };
interface StepMade {
  id: string;
  kind: string;
  on: true;
  note: string;
  onlyIf?: Condition;
  settings: Settings;
}
interface Lanes {
  lead?: StepMade[];
  record?: StepMade[];
  team?: StepMade[];
}
interface MomentMade extends Lanes {
  at?: At;
  onlyIf?: Condition;
  first?: StepMade[];
  cases?: (Lanes & { name: string; when: Condition })[];
}

/** What comes in and what goes out, by which a starter is chosen. */
export const IN_WORDS = {
  form: 'A form of ours',
  'ad form': 'An ad form',
  funnel: 'A funnel page',
  call: 'A call',
  mail: 'A mail',
  booking: 'A booking',
  chat: 'A chat message',
  shop: 'A shop order',
  sheet: 'Rows of a sheet',
  feed: 'An episode or article',
} as const;
export const OUT_WORDS = {
  text: 'Text them',
  email: 'Email them',
  chat: 'Write in chat',
  list: 'Put on a list',
  sheet: 'Row in a sheet',
  deal: 'Open a deal',
  calendar: 'Hold time',
  team: 'Tell a colleague',
} as const;
export type ComesBy = keyof typeof IN_WORDS;
export type GoesOut = keyof typeof OUT_WORDS;

/** A finished workflow to take and adapt: a file of workflows (core/share/share-file.ts) and what it is chosen by. */
export interface Starter {
  id: string;
  name: string;
  /** What it is for, in one sentence. */
  about: string;
  comesBy: ComesBy;
  goesOut: readonly GoesOut[];
  file: ShareFile;
}

const lanes = ({ lead = [], record = [], team = [] }: Lanes) => ({ lead, record, team });
const CONTACT = { first_name: 'first_name', last_name: 'last_name', email: 'email', phone: 'phone' };
const ASKED: LeadCard = { fields: CONTACT, consent: { kind: 'field', key: 'consent', wordingKey: 'consent_wording' } };
export const SPOKEN: LeadCard['consent'] = {
  kind: 'asked_elsewhere',
  note: 'said when they left their number; change this to where you ask',
  wording: 'You may text and email me about what I asked for.',
};

/** Waiting for their reply, or going on after a while. */
export const reply = (amount: number, unit: 'minutes' | 'hours' | 'days'): At => ({
  ...{ kind: 'event', event: 'reply', words: '', sources: [], tag: '', list: '', stage: '', step: '' },
  within: { amount, unit },
});
export const later = (amount: number, unit: 'minutes' | 'hours' | 'days'): At => ({
  kind: 'later',
  span: { amount, unit },
});
export const NEXT_MORNING: At = {
  kind: 'time_of_day',
  time: '09:30',
  day: 'next_day',
  workingDays: false,
  whose: 'lead',
};
export const yes: Condition = { field: 'happened.it', test: 'is', value: 'yes' };
export const no: Condition = { field: 'happened.it', test: 'is', value: 'no' };
export const agreed = (channel: 'text' | 'email'): Condition => ({ field: '', test: 'agreed', value: channel });

/** Puts a starter's file together: what its steps name is made as they name it. */
export class Pack {
  private readonly things: SharedThing[] = [];
  private columns = 0;
  private steps = 0;

  private add(one: WithoutId<SharedThing>): string {
    const id = placeOf(this.things.length + 1);
    this.things.push({ id, ...one });
    return id;
  }
  private step(kind: string, settings: Settings, onlyIf?: Condition): StepMade {
    return { id: `${kind}-${++this.steps}`, kind, on: true, note: '', ...(onlyIf ? { onlyIf } : {}), settings };
  }

  /** A source that has to be connected where it is used. */
  connected(sourceKind: string, name: string, card: LeadCard = ASKED): string {
    return this.add({ kind: 'source', name, sourceKind, card, made: null });
  }
  /** A page of our own to fill in. */
  form(name: string, title: string): string {
    const asked = newFormPage(title, '');
    const text = 'You may text and email me about what I asked for. I can stop this at any time.';
    const page = { ...asked, consent: { ...asked.consent, text } };
    return this.add({
      kind: 'source',
      name,
      sourceKind: 'form-page',
      card: ASKED,
      made: { kind: 'form-page', settings: { page } },
    });
  }
  webhook(name: string): string {
    const card: LeadCard = { fields: CONTACT, consent: SPOKEN };
    return this.add({
      kind: 'source',
      name,
      sourceKind: 'webhook',
      card,
      made: { kind: 'webhook', settings: { signed: true } },
    });
  }
  mailbox(name: string): string {
    const card: LeadCard = { fields: { full_name: 'from_name', email: 'from' }, consent: { kind: 'not_asked' } };
    return this.add({ kind: 'source', name, sourceKind: 'mailbox', card, made: { kind: 'mailbox', settings: {} } });
  }
  /** A sheet with these columns; gives its id and those of its columns by name. */
  sheet<const C extends string>(name: string, columns: readonly C[]): { tab: string; of: Record<C, string> } {
    const made = columns.map((column) => ({ id: columnPlaceOf(++this.columns), name: column }));
    const id = this.add({ kind: 'tab', name, sheet: name, columns: made });
    return { tab: id, of: Object.fromEntries(made.map((column) => [column.name, column.id])) as Record<C, string> };
  }
  /** New rows of a sheet whose first columns are First name, Last name, Email, Phone. */
  rowsOf(
    name: string,
    sheet: { tab: string; of: Record<'First name' | 'Last name' | 'Email' | 'Phone', string> },
  ): string {
    const { of } = sheet;
    const card: LeadCard = {
      fields: { first_name: of['First name'], last_name: of['Last name'], email: of.Email, phone: of.Phone },
      consent: SPOKEN,
    };
    const made = { kind: 'sheet' as const, settings: { tabId: sheet.tab, when: 'new' as const } };
    return this.add({ kind: 'source', name, sourceKind: 'sheet', card, made });
  }
  nurtureList(name: string, fields: { key: string; label: string }[] = []): string {
    return this.add({ kind: 'list', name, optIn: 'single', confirmSubject: '', confirmMessage: '', fields });
  }
  label(name: string): string {
    return this.add({ kind: 'tag', name });
  }
  stages<const S extends string>(name: string, stages: readonly S[]): Record<S, string> {
    const ends = (stage: S) => (stage === 'Won' ? ('won' as const) : stage === 'Lost' ? ('lost' as const) : null);
    const made = stages.map((stage, i) => ({ id: placeOf(900 + i), name: stage, ends: ends(stage) }));
    this.add({ kind: 'pipeline', name, stages: made });
    return Object.fromEntries(made.map((stage) => [stage.name, stage.id])) as Record<S, string>;
  }
  somebody(name: string): string {
    return this.add({ kind: 'colleague', name });
  }

  readonly tidy = () => this.step('tidy', { names: true, email: true, phone: true });
  readonly text = (message: string, more: Settings = {}, onlyIf?: Condition) =>
    this.step('text', { message, needsConsent: true, ...more }, onlyIf);
  readonly email = (subject: string, message: string, more: Settings = {}, onlyIf?: Condition) =>
    this.step('email', { subject, message, needsConsent: true, ...more }, onlyIf);
  readonly tell = (colleague: string, subject: string, message: string) =>
    this.step('tell', { colleague, subject, message });
  readonly putOn = (list: string, fields: Record<string, string> = {}, onlyIf?: Condition) =>
    this.step('list', { action: 'add', list, proven: true, fields }, onlyIf);
  readonly tag = (tag: string) => this.step('tag', { action: 'add', tag });
  /** A row; one that has the same word in the column `key` is brought up to date. */
  readonly row = (tab: string, cells: Record<string, string>, key: string) =>
    this.step('sheet-row', { tab, cells, key, whenThere: 'update', each: '' });
  readonly deal = (stage: string, title: string, value = '') => this.step('deal', { stage, title, value });
  readonly task = (title: string, amount: number, unit: 'minutes' | 'hours' | 'days', colleague = '') =>
    this.step('task', { title, colleague, within: { amount, unit } });
  readonly any = (kind: string, settings: Settings, onlyIf?: Condition) => this.step(kind, settings, onlyIf);

  file(
    name: string,
    sources: string[],
    moments: MomentMade[],
    rules: { samePerson?: string; endsWhen?: string[]; tell?: string } = {},
  ): ShareFile {
    const { samePerson = 'by_source', endsWhen = [], tell } = rules;
    const sheet = Definition.parse({
      sources,
      moments: moments.map(({ at, onlyIf, first = [], cases = [], ...rest }, i) => ({
        ...{ id: `m${i + 1}`, at: at ?? { kind: 'on_arrival' }, onlyIf: onlyIf ?? null, first },
        cases: cases.map(({ name, when, ...each }, n) => ({
          id: `m${i + 1}c${n + 1}`,
          name,
          when,
          lanes: lanes(each),
        })),
        lanes: lanes(rest),
      })),
      rules: {
        ...{ samePerson, endsWhen, hours: { text: TEXT_HOURS, email: null, chat: null } },
        ...(tell ? { tell: { colleague: tell, every: 'hour' } } : {}),
      },
    });
    return { pineBell: 'share', version: SHARE_VERSION, things: this.things, workflows: [{ name, folder: '', sheet }] };
  }
}
