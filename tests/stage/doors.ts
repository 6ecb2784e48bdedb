import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { newChatForm } from '../../src/core/form/chat-form.ts';
import { momentOf, sheetOf } from './sheets.ts';

/** What of a business an address or a body can name, by id. */
export interface Named {
  appointment: string;
  arrival: string;
  bulk: string;
  canned: string;
  chatForm: string;
  chatTemplate: string;
  colleague: string;
  connection: string;
  conversation: string;
  deal: string;
  draft: string;
  emailTemplate: string;
  lead: string;
  lead2: string;
  list: string;
  mailing: string;
  merge: string;
  need: string;
  pipeline: string;
  row: string;
  run: string;
  segment: string;
  sheet: string;
  source: string;
  stage: string;
  tab: string;
  tag: string;
  task: string;
  workflow: string;
}

export interface Door {
  method: string;
  /** As its file is called: "leads/[id]". */
  path: string;
  /** The parts of the path in brackets, in order. */
  names?: (keyof Named)[];
  /** For those that read JSON: one that is right in itself. */
  body?: (named: Named) => unknown;
  /** Takes a file. */
  file?: boolean;
  /** Looks only, though it is a POST. */
  looks?: boolean;
  /** Changes only what belongs to whoever knocks. */
  own?: boolean;
}

const EMAIL = { subject: 'Hello', message: 'Hello {{ lead.leave_link }}', needsConsent: false };
const EVERYBODY = { ids: null, search: '', segment: null, condition: null, list: null, tag: null, source: null };
const LAYOUT = { as: 'blocks', blocks: [{ id: 'a', kind: 'text', text: 'Hello', align: 'left' }] };
const CONDITION = { field: 'lead.first_name', test: 'is', value: 'Ada' };
const SHEET = sheetOf([momentOf('a')]);

const door = (method: string, path: string, names: (keyof Named)[] = [], more: Partial<Door> = {}): Door => ({
  ...{ method, path, names },
  ...more,
});
const sends = (body: Door['body']) => ({ body }) as Partial<Door>;

/** Doors to one thing, by its id. */
export const TO_ONE: Door[] = [
  door('POST', 'bulk/[id]/stop', ['bulk']),
  door('POST', 'calendar/[colleague]', ['colleague'], { file: true }),
  door('DELETE', 'calendar/appointments/[id]', ['appointment']),
  door('DELETE', 'canned-answers/[id]', ['canned']),
  door('GET', 'chat-forms/[id]', ['chatForm']),
  door(
    'PUT',
    'chat-forms/[id]',
    ['chatForm'],
    sends(() => newChatForm('Mine', 'Mine')),
  ),
  door('DELETE', 'chat-forms/[id]', ['chatForm']),
  door('POST', 'chat-forms/[id]/live', ['chatForm']),
  door('GET', 'chat-templates/[id]', ['chatTemplate']),
  door(
    'PUT',
    'chat-templates/[id]',
    ['chatTemplate'],
    sends(() => ({ kind: 'service', text: 'Hello' })),
  ),
  door('DELETE', 'chat-templates/[id]', ['chatTemplate']),
  door('POST', 'chat-templates/[id]/review', ['chatTemplate']),
  door(
    'PUT',
    'connections/[id]',
    ['connection'],
    sends(() => ({ kind: 'text_carrier', name: 'X', address: 'http://x.example', sender: 'Mine', untried: true })),
  ),
  door('DELETE', 'connections/[id]', ['connection']),
  door('POST', 'connections/[id]/try', ['connection']),
  door('POST', 'connections/[id]/report-secret', ['connection']),
  door('GET', 'conversations/[id]', ['conversation']),
  door(
    'PUT',
    'conversations/[id]',
    ['conversation'],
    sends(() => ({ done: true })),
  ),
  door(
    'POST',
    'conversations/[id]/answers',
    ['conversation'],
    sends(() => ({ key: '01999999-0000-7000-8000-000000000001', channel: 'text', text: 'Hi' })),
  ),
  door(
    'POST',
    'conversations/[id]/notes',
    ['conversation'],
    sends(() => ({ text: 'Hi' })),
  ),
  door(
    'PUT',
    'deals/[id]',
    ['deal'],
    sends(() => ({ title: 'Mine' })),
  ),
  door('DELETE', 'drafts/[id]', ['draft']),
  door(
    'POST',
    'drafts/[id]/send',
    ['draft'],
    sends(() => ({})),
  ),
  door('GET', 'email-templates/[id]', ['emailTemplate']),
  door(
    'PUT',
    'email-templates/[id]',
    ['emailTemplate'],
    sends(() => ({ name: 'Mine', layout: LAYOUT })),
  ),
  door('DELETE', 'email-templates/[id]', ['emailTemplate']),
  door('GET', 'leads/[id]', ['lead']),
  door(
    'PUT',
    'leads/[id]',
    ['lead'],
    sends(() => ({ first_name: 'X', last_name: '', email: '', phone: '' })),
  ),
  door(
    'POST',
    'leads/[id]/consents',
    ['lead'],
    sends(() => ({ channel: 'text', purpose: null, state: 'given', how: 'Said so' })),
  ),
  door(
    'POST',
    'leads/[id]/erase',
    ['lead'],
    sends(() => ({ name: 'X' })),
  ),
  door('GET', 'leads/[id]/export', ['lead']),
  door('GET', 'leads/[id]/merge', ['lead']),
  door(
    'POST',
    'leads/[id]/merge',
    ['lead'],
    sends(({ lead2 }) => ({ with: lead2 })),
  ),
  door('POST', 'leads/[id]/release-number', ['lead']),
  door('POST', 'leads/[id]/changes/[change]', ['lead', 'merge']),
  door('DELETE', 'lists/[id]', ['list']),
  door(
    'PUT',
    'lists/[id]',
    ['list'],
    sends(() => ({ name: 'Mine' })),
  ),
  door(
    'POST',
    'lists/[id]/fields',
    ['list'],
    sends(() => ({ name: 'Mine' })),
  ),
  door(
    'PUT',
    'lists/[id]/members/[lead]',
    ['list', 'lead'],
    sends(() => ({ on: false })),
  ),
  door(
    'POST',
    'lists/[id]/sequences',
    ['list'],
    sends(() => ({ name: 'Mine' })),
  ),
  door('POST', 'mailings/[id]/stop', ['mailing']),
  door('POST', 'merges/[id]/undo', ['merge']),
  door('POST', 'needs/[id]/settle', ['need']),
  door(
    'POST',
    'needs/[id]/refusal',
    ['need'],
    sends(() => ({ means: 'something_else' })),
  ),
  door(
    'POST',
    'needs/[id]/whose',
    ['need'],
    sends(() => ({ answer: 'shared' })),
  ),
  door('GET', 'pipelines/[id]', ['pipeline']),
  door(
    'PUT',
    'segments/[id]',
    ['segment'],
    sends(() => ({ name: 'Mine', condition: CONDITION })),
  ),
  door('DELETE', 'segments/[id]', ['segment']),
  door('GET', 'sheets/[id]', ['sheet']),
  door(
    'PUT',
    'sheets/[id]',
    ['sheet'],
    sends(() => ({ name: 'Mine' })),
  ),
  door('DELETE', 'sheets/[id]', ['sheet']),
  door(
    'POST',
    'sheets/[id]/tabs',
    ['sheet'],
    sends(() => ({ name: 'Mine' })),
  ),
  door('POST', 'sources/[id]/address', ['source']),
  door(
    'POST',
    'sources/[id]/again',
    ['source'],
    sends(({ arrival }) => ({ arrivalIds: [arrival] })),
  ),
  door('GET', 'sources/[id]/arrivals/[arrival]/attachment', ['source', 'arrival']),
  door('GET', 'sources/[id]/arrivals/[arrival]', ['source', 'arrival']),
  door('GET', 'sources/[id]/arrivals', ['source']),
  door(
    'PUT',
    'sources/[id]/card',
    ['source'],
    sends(() => ({ fields: { email: 'email' }, consent: { kind: 'not_asked' } })),
  ),
  door('GET', 'sources/[id]/catalogue', ['source']),
  door('GET', 'sources/[id]/choices', ['source']),
  door('GET', 'sources/[id]/files', ['source']),
  door('POST', 'sources/[id]/files', ['source'], { file: true }),
  door(
    'POST',
    'sources/[id]/header',
    ['source'],
    sends(() => ({ row: 1 })),
  ),
  door('POST', 'sources/[id]/import/file', ['source'], { file: true }),
  door('GET', 'sources/[id]/import/file', ['source']),
  door(
    'POST',
    'sources/[id]/import/header',
    ['source'],
    sends(() => ({ row: 1 })),
  ),
  door('GET', 'sources/[id]/import', ['source']),
  door(
    'POST',
    'sources/[id]/import',
    ['source'],
    sends(() => ({ workflowId: null, count: 1 })),
  ),
  door('GET', 'sources/[id]/import/rows', ['source']),
  door('POST', 'sources/[id]/import/stop', ['source']),
  door('POST', 'sources/[id]/import/undo', ['source']),
  door('GET', 'sources/[id]', ['source']),
  door('DELETE', 'sources/[id]', ['source']),
  door('GET', 'sources/[id]/tabs', ['source']),
  door(
    'PUT',
    'sources/[id]',
    ['source'],
    sends(() => ({ name: 'Mine' })),
  ),
  door('POST', 'sources/[id]/sample', ['source']),
  door('POST', 'sources/[id]/secret', ['source']),
  door('POST', 'tabs/[id]/file', ['tab'], { file: true }),
  door('GET', 'tabs/[id]/file', ['tab']),
  door(
    'PUT',
    'tabs/[id]',
    ['tab'],
    sends(() => ({ name: 'Mine' })),
  ),
  door('DELETE', 'tabs/[id]', ['tab']),
  door('GET', 'tabs/[id]/rows', ['tab']),
  door(
    'POST',
    'tabs/[id]/rows',
    ['tab'],
    sends(({ row }) => ({ remove: [row] })),
  ),
  door('GET', 'tabs/[id]/rows/[row]', ['tab', 'row']),
  door(
    'PUT',
    'tasks/[id]',
    ['task'],
    sends(() => ({ done: true })),
  ),
  door('POST', 'workflows/[id]/copy', ['workflow']),
  door('GET', 'workflows/[id]', ['workflow']),
  door('DELETE', 'workflows/[id]', ['workflow']),
  door(
    'PUT',
    'workflows/[id]',
    ['workflow'],
    sends(() => ({ revision: 0, draft: SHEET })),
  ),
  door(
    'POST',
    'workflows/[id]',
    ['workflow'],
    sends(() => ({ name: 'Mine', folder: '' })),
  ),
  door('GET', 'workflows/[id]/live', ['workflow']),
  door(
    'POST',
    'workflows/[id]/live',
    ['workflow'],
    sends(() => ({ moveOn: true })),
  ),
  door(
    'PUT',
    'workflows/[id]/live',
    ['workflow'],
    sends(() => ({ paused: true })),
  ),
  door('POST', 'workflows/[id]/rehearse-last', ['workflow'], { looks: true }),
  door('POST', 'workflows/[id]/rehearse', ['workflow'], { ...sends(() => ({ arrivalId: null })), looks: true }),
  door(
    'POST',
    'workflows/[id]/restore',
    ['workflow'],
    sends(() => ({ number: 1 })),
  ),
  door(
    'POST',
    'workflows/[id]/runs/[run]/again',
    ['workflow', 'run'],
    sends(() => ({ stepId: 'x', sendAgain: true, key: '01999999-0000-7000-8000-000000000003' })),
  ),
  door('POST', 'workflows/[id]/runs/[run]/handled', ['workflow', 'run']),
  door('GET', 'workflows/[id]/runs/[run]', ['workflow', 'run']),
  door('GET', 'workflows/[id]/runs', ['workflow']),
  door(
    'PUT',
    'workflows/[id]/sample',
    ['workflow'],
    sends(({ arrival }) => ({ arrivalId: arrival })),
  ),
  door(
    'POST',
    'workflows/[id]/send-to-me',
    ['workflow'],
    sends(() => ({ stepId: 'x', arrivalId: null })),
  ),
];

/** Doors to what there is as a whole. Their bodies name things of the business. */
export const TO_ALL: Door[] = [
  door('GET', 'audience'),
  door('GET', 'audience/people'),
  door('GET', 'bulk'),
  door(
    'POST',
    'bulk',
    [],
    sends(({ lead, tag }) => ({ choice: { ...EVERYBODY, ids: [lead] }, action: { does: 'tag', tag }, count: 1 })),
  ),
  door(
    'POST',
    'calendar/appointments',
    [],
    sends(({ colleague, lead }) => ({
      colleagueId: colleague,
      leadId: lead,
      title: 'X',
      startsAt: '2027-03-01T09:00',
    })),
  ),
  door(
    'PUT',
    'calendar/bookings',
    [],
    sends(({ source, colleague }) => ({ sourceId: source, colleagueId: colleague })),
  ),
  door('POST', 'calendar/feed', [], { own: true }),
  door('GET', 'calendar'),
  door(
    'POST',
    'canned-answers',
    [],
    sends(() => ({ name: 'Mine', text: 'Hello' })),
  ),
  door('GET', 'chat-forms'),
  door(
    'POST',
    'chat-forms',
    [],
    sends(() => ({ name: 'Mine' })),
  ),
  door('GET', 'chat-templates'),
  door(
    'POST',
    'chat-templates',
    [],
    sends(() => ({ name: 'Mine' })),
  ),
  door('GET', 'connections'),
  door(
    'POST',
    'connections',
    [],
    sends(() => ({
      kind: 'text_carrier',
      name: 'Mine',
      address: 'http://x.example',
      sender: 'Mine',
      secret: 'abc',
      untried: true,
    })),
  ),
  door('GET', 'conversations'),
  door(
    'POST',
    'deals',
    [],
    sends(({ lead, pipeline }) => ({ leadId: lead, pipelineId: pipeline })),
  ),
  door(
    'POST',
    'email-templates',
    [],
    sends(() => ({ name: 'Mine', layout: LAYOUT })),
  ),
  door('POST', 'email-templates/links', [], { ...sends(() => ({ layout: LAYOUT })), looks: true }),
  door('POST', 'email-templates/show', [], { ...sends(() => ({ layout: LAYOUT })), looks: true }),
  door('POST', 'files', [], { file: true }),
  door(
    'PUT',
    'front-door',
    [],
    sends(({ chatForm }) => ({ on: true, form: chatForm })),
  ),
  door('GET', 'leads/consents'),
  door('POST', 'leads/count', [], { ...sends(({ list }) => ({ ...EVERYBODY, list: { id: list } })), looks: true }),
  door('GET', 'leads/file'),
  door('GET', 'leads'),
  door(
    'POST',
    'lists',
    [],
    sends(() => ({ name: 'Mine' })),
  ),
  door('GET', 'live'),
  door(
    'POST',
    'mailings',
    [],
    sends(({ list }) => ({ to: `list:${list}`, email: EMAIL })),
  ),
  door(
    'POST',
    'mailings/to-me',
    [],
    sends(() => ({ email: EMAIL })),
  ),
  door(
    'POST',
    'pipelines',
    [],
    sends(() => ({ name: 'Mine' })),
  ),
  door('GET', 'segments'),
  door(
    'POST',
    'segments',
    [],
    sends(() => ({ name: 'Mine', condition: CONDITION })),
  ),
  door('GET', 'sheets'),
  door(
    'POST',
    'sheets',
    [],
    sends(() => ({ name: 'Mine' })),
  ),
  door('GET', 'sources/choices/[kind]'),
  door('GET', 'sources'),
  door(
    'POST',
    'sources',
    [],
    sends(() => ({ kind: 'webhook', name: 'Mine', signed: false })),
  ),
  door(
    'POST',
    'tags',
    [],
    sends(() => ({ name: 'Mine' })),
  ),
  door('GET', 'today'),
  door('GET', 'workflows'),
  door(
    'POST',
    'workflows',
    [],
    sends(() => ({ name: 'Mine', folder: '' })),
  ),
];

/** The address of a door, its brackets filled in. */
export function addressOf({ path, names = [] }: Door, named: Partial<Named>): string {
  let i = 0;
  return `/api/${path.replace(/\[\w+\]/g, () => named[names[i++]!] ?? 'webhook')}`;
}

/** "GET leads/[id]" for every door the application has, as its files say. */
export function doorsThereAre(): string[] {
  const root = join(import.meta.dirname, '../../src/pages/api');
  return readdirSync(root, { recursive: true, encoding: 'utf8' })
    .filter((file) => file.endsWith('.ts'))
    .flatMap((file) =>
      [...readFileSync(join(root, file), 'utf8').matchAll(/^export const (GET|POST|PUT|DELETE|PATCH)\b/gm)].map(
        ([, method]) => `${method} ${file.replace(/(\/index)?\.ts$/, '')}`,
      ),
    )
    .sort();
}

/** Pages about one thing, by the file each is made from, and by what it is named. */
export const PAGES: Record<string, keyof Named> = {
  'leads/[id].astro': 'lead',
  'leads/[id]/consent.astro': 'lead',
  'lists/[id].astro': 'list',
  'messages/chat-forms/[id].astro': 'chatForm',
  'messages/chat-templates/[id].astro': 'chatTemplate',
  'messages/templates/[id].astro': 'emailTemplate',
  'messages/mailings/[id].astro': 'mailing',
  'pipeline/[id].astro': 'pipeline',
  'sheets/[id].astro': 'sheet',
  'sources/[id].astro': 'source',
  'workflows/[id]/index.astro': 'workflow',
  'workflows/[id]/log.astro': 'workflow',
  'workflows/[id]/rules.astro': 'workflow',
  'workflows/[id]/versions.astro': 'workflow',
};

/** The pages the application has for one thing each. */
export const pagesThereAre = (): string[] =>
  readdirSync(join(import.meta.dirname, '../../src/pages'), { recursive: true, encoding: 'utf8' })
    .filter((file) => file.endsWith('.astro') && file.includes('[id]'))
    .sort();

export const pageAddress = (file: string, id: string): string =>
  `/${file.replace('[id]', id).replace(/(\/index)?\.astro$/, '')}`;
