import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { ROUTES } from '../../src/api/table.ts';
import { newChatForm } from '../../src/core/form/chat-form.ts';
import { momentOf, sheetOf } from './sheets.ts';

/** What of a business an address or a body can name, by id. */
export interface Named {
  appointment: string;
  arrival: string;
  bulk: string;
  canned: string;
  change: string;
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
  /** As the table of routes has it: "/leads/:lead". */
  path: string;
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

const door = (method: string, path: string, more: Partial<Door> = {}): Door => ({ method, path, ...more });
const sends = (body: Door['body']) => ({ body }) as Partial<Door>;

/** Doors to one thing, by its id. */
export const TO_ONE: Door[] = [
  door('POST', '/bulk/:bulk/stop'),
  door('POST', '/calendar/:colleague', { file: true }),
  door('DELETE', '/calendar/appointments/:appointment'),
  door('DELETE', '/canned-answers/:canned'),
  door('GET', '/chat-forms/:chatForm'),
  door(
    'PUT',
    '/chat-forms/:chatForm',
    sends(() => newChatForm('Mine', 'Mine')),
  ),
  door('DELETE', '/chat-forms/:chatForm'),
  door('POST', '/chat-forms/:chatForm/live'),
  door('GET', '/chat-templates/:chatTemplate'),
  door(
    'PUT',
    '/chat-templates/:chatTemplate',
    sends(() => ({ kind: 'service', text: 'Hello' })),
  ),
  door('DELETE', '/chat-templates/:chatTemplate'),
  door('POST', '/chat-templates/:chatTemplate/review'),
  door(
    'PUT',
    '/connections/:connection',
    sends(() => ({ kind: 'text_carrier', name: 'X', address: 'http://x.example', sender: 'Mine', untried: true })),
  ),
  door('DELETE', '/connections/:connection'),
  door('POST', '/connections/:connection/try'),
  door('POST', '/connections/:connection/report-secret'),
  door('GET', '/conversations/:conversation'),
  door(
    'PUT',
    '/conversations/:conversation',
    sends(() => ({ done: true })),
  ),
  door(
    'POST',
    '/conversations/:conversation/answers',
    sends(() => ({ key: '01999999-0000-7000-8000-000000000001', channel: 'text', text: 'Hi' })),
  ),
  door(
    'POST',
    '/conversations/:conversation/notes',
    sends(() => ({ text: 'Hi' })),
  ),
  door(
    'PUT',
    '/deals/:deal',
    sends(() => ({ title: 'Mine' })),
  ),
  door('DELETE', '/drafts/:draft'),
  door(
    'POST',
    '/drafts/:draft/send',
    sends(() => ({})),
  ),
  door('GET', '/email-templates/:emailTemplate'),
  door(
    'PUT',
    '/email-templates/:emailTemplate',
    sends(() => ({ name: 'Mine', layout: LAYOUT })),
  ),
  door('DELETE', '/email-templates/:emailTemplate'),
  door('GET', '/leads/:lead'),
  door(
    'PUT',
    '/leads/:lead',
    sends(() => ({ first_name: 'X', last_name: '', email: '', phone: '' })),
  ),
  door(
    'POST',
    '/leads/:lead/consents',
    sends(() => ({ channel: 'text', purpose: null, state: 'given', how: 'Said so' })),
  ),
  door(
    'POST',
    '/leads/:lead/erase',
    sends(() => ({ name: 'X' })),
  ),
  door('GET', '/leads/:lead/export'),
  door('GET', '/leads/:lead/merge'),
  door(
    'POST',
    '/leads/:lead/merge',
    sends(({ lead2 }) => ({ with: lead2 })),
  ),
  door('POST', '/leads/:lead/release-number'),
  door('POST', '/leads/:lead/changes/:change'),
  door('DELETE', '/lists/:list'),
  door(
    'PUT',
    '/lists/:list',
    sends(() => ({ name: 'Mine' })),
  ),
  door(
    'POST',
    '/lists/:list/fields',
    sends(() => ({ name: 'Mine' })),
  ),
  door(
    'PUT',
    '/lists/:list/members/:lead',
    sends(() => ({ on: false })),
  ),
  door(
    'POST',
    '/lists/:list/sequences',
    sends(() => ({ name: 'Mine' })),
  ),
  door('POST', '/mailings/:mailing/stop'),
  door('POST', '/merges/:merge/undo'),
  door('POST', '/needs/:need/settle'),
  door(
    'POST',
    '/needs/:need/refusal',
    sends(() => ({ means: 'something_else' })),
  ),
  door(
    'POST',
    '/needs/:need/whose',
    sends(() => ({ answer: 'shared' })),
  ),
  door('GET', '/pipelines/:pipeline'),
  door(
    'PUT',
    '/segments/:segment',
    sends(() => ({ name: 'Mine', condition: CONDITION })),
  ),
  door('DELETE', '/segments/:segment'),
  door('GET', '/sheets/:sheet'),
  door(
    'PUT',
    '/sheets/:sheet',
    sends(() => ({ name: 'Mine' })),
  ),
  door('DELETE', '/sheets/:sheet'),
  door(
    'POST',
    '/sheets/:sheet/tabs',
    sends(() => ({ name: 'Mine' })),
  ),
  door('POST', '/sources/:source/address'),
  door(
    'POST',
    '/sources/:source/again',
    sends(({ arrival }) => ({ arrivalIds: [arrival] })),
  ),
  door('GET', '/sources/:source/arrivals/:arrival/attachment'),
  door('GET', '/sources/:source/arrivals/:arrival'),
  door('GET', '/sources/:source/arrivals'),
  door(
    'PUT',
    '/sources/:source/card',
    sends(() => ({ fields: { email: 'email' }, consent: { kind: 'not_asked' } })),
  ),
  door('GET', '/sources/:source/catalogue'),
  door('GET', '/sources/:source/choices'),
  door('GET', '/sources/:source/files'),
  door('POST', '/sources/:source/files', { file: true }),
  door(
    'POST',
    '/sources/:source/header',
    sends(() => ({ row: 1 })),
  ),
  door('POST', '/sources/:source/import/file', { file: true }),
  door('GET', '/sources/:source/import/file'),
  door(
    'POST',
    '/sources/:source/import/header',
    sends(() => ({ row: 1 })),
  ),
  door('GET', '/sources/:source/import'),
  door(
    'POST',
    '/sources/:source/import',
    sends(() => ({ workflowId: null, count: 1 })),
  ),
  door('GET', '/sources/:source/import/rows'),
  door('POST', '/sources/:source/import/stop'),
  door('POST', '/sources/:source/import/undo'),
  door('GET', '/sources/:source'),
  door('DELETE', '/sources/:source'),
  door('GET', '/sources/:source/tabs'),
  door(
    'PUT',
    '/sources/:source',
    sends(() => ({ name: 'Mine' })),
  ),
  door('POST', '/sources/:source/sample'),
  door('POST', '/sources/:source/secret'),
  door('POST', '/tabs/:tab/file', { file: true }),
  door('GET', '/tabs/:tab/file'),
  door(
    'PUT',
    '/tabs/:tab',
    sends(() => ({ name: 'Mine' })),
  ),
  door('DELETE', '/tabs/:tab'),
  door('GET', '/tabs/:tab/rows'),
  door(
    'POST',
    '/tabs/:tab/rows',
    sends(({ row }) => ({ remove: [row] })),
  ),
  door('GET', '/tabs/:tab/rows/:row'),
  door(
    'PUT',
    '/tasks/:task',
    sends(() => ({ done: true })),
  ),
  door('POST', '/workflows/:workflow/copy'),
  door('GET', '/workflows/:workflow'),
  door('DELETE', '/workflows/:workflow'),
  door(
    'PUT',
    '/workflows/:workflow',
    sends(() => ({ revision: 0, draft: SHEET })),
  ),
  door(
    'POST',
    '/workflows/:workflow',
    sends(() => ({ name: 'Mine', folder: '' })),
  ),
  door('GET', '/workflows/:workflow/live'),
  door(
    'POST',
    '/workflows/:workflow/live',
    sends(() => ({ moveOn: true })),
  ),
  door(
    'PUT',
    '/workflows/:workflow/live',
    sends(() => ({ paused: true })),
  ),
  door('POST', '/workflows/:workflow/rehearse-last', { looks: true }),
  door('POST', '/workflows/:workflow/rehearse', { ...sends(() => ({ arrivalId: null })), looks: true }),
  door(
    'POST',
    '/workflows/:workflow/restore',
    sends(() => ({ number: 1 })),
  ),
  door(
    'POST',
    '/workflows/:workflow/runs/:run/again',
    sends(() => ({ stepId: 'x', sendAgain: true, key: '01999999-0000-7000-8000-000000000003' })),
  ),
  door('POST', '/workflows/:workflow/runs/:run/handled'),
  door('GET', '/workflows/:workflow/runs/:run'),
  door('GET', '/workflows/:workflow/runs'),
  door(
    'PUT',
    '/workflows/:workflow/sample',
    sends(({ arrival }) => ({ arrivalId: arrival })),
  ),
  door(
    'POST',
    '/workflows/:workflow/send-to-me',
    sends(() => ({ stepId: 'x', arrivalId: null })),
  ),
];

/** Doors to what there is as a whole. Their bodies name things of the business. */
export const TO_ALL: Door[] = [
  door('GET', '/audience'),
  door('GET', '/audience/people'),
  door('GET', '/bulk'),
  door(
    'POST',
    '/bulk',
    sends(({ lead, tag }) => ({ choice: { ...EVERYBODY, ids: [lead] }, action: { does: 'tag', tag }, count: 1 })),
  ),
  door(
    'POST',
    '/calendar/appointments',
    sends(({ colleague, lead }) => ({
      colleagueId: colleague,
      leadId: lead,
      title: 'X',
      startsAt: '2027-03-01T09:00',
    })),
  ),
  door(
    'PUT',
    '/calendar/bookings',
    sends(({ source, colleague }) => ({ sourceId: source, colleagueId: colleague })),
  ),
  door('POST', '/calendar/feed', { own: true }),
  door('GET', '/calendar'),
  door(
    'POST',
    '/canned-answers',
    sends(() => ({ name: 'Mine', text: 'Hello' })),
  ),
  door('GET', '/chat-forms'),
  door(
    'POST',
    '/chat-forms',
    sends(() => ({ name: 'Mine' })),
  ),
  door('GET', '/chat-templates'),
  door(
    'POST',
    '/chat-templates',
    sends(() => ({ name: 'Mine' })),
  ),
  door('GET', '/connections'),
  door(
    'POST',
    '/connections',
    sends(() => ({
      kind: 'text_carrier',
      name: 'Mine',
      address: 'http://x.example',
      sender: 'Mine',
      secret: 'abc',
      untried: true,
    })),
  ),
  door('GET', '/conversations'),
  door(
    'POST',
    '/deals',
    sends(({ lead, pipeline }) => ({ leadId: lead, pipelineId: pipeline })),
  ),
  door(
    'POST',
    '/email-templates',
    sends(() => ({ name: 'Mine', layout: LAYOUT })),
  ),
  door('POST', '/email-templates/links', { ...sends(() => ({ layout: LAYOUT })), looks: true }),
  door('POST', '/email-templates/show', { ...sends(() => ({ layout: LAYOUT })), looks: true }),
  door('POST', '/files', { file: true }),
  door(
    'PUT',
    '/front-door',
    sends(({ chatForm }) => ({ on: true, form: chatForm })),
  ),
  door('GET', '/leads/consents'),
  door('POST', '/leads/count', { ...sends(({ list }) => ({ ...EVERYBODY, list: { id: list } })), looks: true }),
  door('GET', '/leads/file'),
  door('GET', '/leads'),
  door(
    'POST',
    '/lists',
    sends(() => ({ name: 'Mine' })),
  ),
  door('GET', '/live'),
  door(
    'POST',
    '/mailings',
    sends(({ list }) => ({ to: `list:${list}`, email: EMAIL })),
  ),
  door(
    'POST',
    '/mailings/to-me',
    sends(() => ({ email: EMAIL })),
  ),
  door(
    'POST',
    '/pipelines',
    sends(() => ({ name: 'Mine' })),
  ),
  door('GET', '/segments'),
  door(
    'POST',
    '/segments',
    sends(() => ({ name: 'Mine', condition: CONDITION })),
  ),
  door('GET', '/sheets'),
  door(
    'POST',
    '/sheets',
    sends(() => ({ name: 'Mine' })),
  ),
  door('GET', '/sources/choices/:kind'),
  door('GET', '/sources'),
  door(
    'POST',
    '/sources',
    sends(() => ({ kind: 'webhook', name: 'Mine', signed: false })),
  ),
  door(
    'POST',
    '/tags',
    sends(() => ({ name: 'Mine' })),
  ),
  door('GET', '/today'),
  door('GET', '/workflows'),
  door(
    'POST',
    '/workflows',
    sends(() => ({ name: 'Mine', folder: '' })),
  ),
];

/** The address of a door, its names filled in. */
export const addressOf = ({ path }: Door, named: Partial<Named>): string =>
  `/api${path.replace(/:(\w+)/g, (_, name) => named[name as keyof Named] ?? 'webhook')}`;

/** "GET /leads/:lead" for every door the application has. */
export const doorsThereAre = (): string[] => ROUTES.map(({ method, path }) => `${method} ${path}`).sort();

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
