import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { ROUTES } from '../../src/api/table.ts';
import { newChatForm } from '../../src/core/form/chat-form.ts';
import type { Right } from '../../src/core/people/rights.ts';
import { openDay } from '../../src/starters/open-day.ts';
import { momentOf, sheetOf } from './sheets.ts';

/** What of a business an address or a body can name, by id. */
export interface Named {
  appointment: string;
  arrival: string;
  bulk: string;
  /** A colleague's own. */
  calendar: string;
  canned: string;
  change: string;
  chatForm: string;
  chatTemplate: string;
  colleague: string;
  connection: string;
  conversation: string;
  counted: string;
  deal: string;
  device: string;
  draft: string;
  emailTemplate: string;
  feed: string;
  invitation: string;
  lead: string;
  lead2: string;
  list: string;
  mailing: string;
  merge: string;
  /** A tag called "Mine". */
  named: string;
  need: string;
  outcome: string;
  passkey: string;
  person: string;
  removed: string;
  pipeline: string;
  row: string;
  run: string;
  segment: string;
  session: string;
  sheet: string;
  site: string;
  source: string;
  stage: string;
  tab: string;
  tag: string;
  task: string;
  team: string;
  workflow: string;
}

export interface RouteCase {
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

/** As a browser gives it, of nobody. */
const DEVICE = {
  endpoint: 'https://push.example/abc',
  keys: { p256dh: Buffer.alloc(65, 4).toString('base64url'), auth: Buffer.alloc(16).toString('base64url') },
};
const EMAIL = { subject: 'Hello', message: 'Hello {{ lead.leave_link }}', needsConsent: false };
const EVERYBODY = { ids: null, search: '', segment: null, condition: null, list: null, tag: null, source: null };
const LAYOUT = { as: 'blocks', blocks: [{ id: 'a', kind: 'text', text: 'Hello', align: 'left' }] };
const CONDITION = { field: 'lead.first_name', test: 'is', value: 'Ada' };
const SHEET = sheetOf([momentOf('a')]);

const route = (method: string, path: string, more: Partial<RouteCase> = {}): RouteCase => ({ method, path, ...more });
const sends = (body: RouteCase['body']) => ({ body }) as Partial<RouteCase>;

/** Doors to one thing, by its id. */
export const TO_ONE: RouteCase[] = [
  route('POST', '/bulk/:bulk/stop'),
  route('POST', '/calendar/:colleague', { file: true }),
  route('DELETE', '/calendar/appointments/:appointment'),
  route('DELETE', '/calendar/own/:calendar'),
  route(
    'PUT',
    '/connections/:connection/look-ups',
    sends(() => ({ lookUps: [] })),
  ),
  route(
    'PUT',
    '/connections/:connection/tables',
    sends(() => ({ tables: [] })),
  ),
  route('DELETE', '/canned-answers/:canned'),
  route('GET', '/chat-forms/:chatForm'),
  route(
    'PUT',
    '/chat-forms/:chatForm',
    sends(() => newChatForm('Mine', 'Mine')),
  ),
  route('DELETE', '/chat-forms/:chatForm'),
  route('POST', '/chat-forms/:chatForm/live'),
  route('GET', '/chat-templates/:chatTemplate'),
  route(
    'PUT',
    '/chat-templates/:chatTemplate',
    sends(() => ({ kind: 'service', text: 'Hello' })),
  ),
  route('DELETE', '/chat-templates/:chatTemplate'),
  route('POST', '/chat-templates/:chatTemplate/review'),
  route(
    'PUT',
    '/connections/:connection',
    sends(() => ({ kind: 'text_carrier', name: 'X', address: 'http://x.example', sender: 'Mine', untried: true })),
  ),
  route('DELETE', '/connections/:connection'),
  route('POST', '/connections/:connection/try'),
  route(
    'POST',
    '/connections/:connection/call',
    sends(() => ({ call: 'account', given: {}, dry: false })),
  ),
  route('POST', '/connections/:connection/report-secret'),
  route(
    'PUT',
    '/connections/:connection/care',
    sends(() => ({ keyUntil: '2030-01-01', authority: null })),
  ),
  route('POST', '/connections/:connection/access'),
  route('DELETE', '/connections/:connection/access'),
  route('POST', '/connections/:connection/signing'),
  route('DELETE', '/connections/:connection/signing'),
  route('POST', '/connections/:connection/signing/check'),
  route('GET', '/conversations/:conversation'),
  route(
    'PUT',
    '/conversations/:conversation',
    sends(() => ({ done: true })),
  ),
  route(
    'POST',
    '/conversations/:conversation/answers',
    sends(() => ({ key: '01999999-0000-7000-8000-000000000001', channel: 'text', text: 'Hi' })),
  ),
  route(
    'POST',
    '/conversations/:conversation/notes',
    sends(() => ({ text: 'Hi' })),
  ),
  route(
    'PUT',
    '/deals/:deal',
    sends(() => ({ title: 'Mine' })),
  ),
  route(
    'PUT',
    '/devices/:device',
    sends(() => ({ wants: ['leads'] })),
  ),
  route('DELETE', '/devices/:device'),
  route('POST', '/devices/:device/try'),
  route('DELETE', '/drafts/:draft'),
  route(
    'POST',
    '/drafts/:draft/send',
    sends(() => ({})),
  ),
  route('GET', '/sources/:source/share'),
  route(
    'POST',
    '/sources/:source/questions',
    sends(() => ({ label: 'How did you hear of us?' })),
  ),
  route('GET', '/email-templates/:emailTemplate/share'),
  route('GET', '/chat-templates/:chatTemplate/share'),
  route('GET', '/chat-forms/:chatForm/share'),
  route('GET', '/email-templates/:emailTemplate'),
  route(
    'PUT',
    '/email-templates/:emailTemplate',
    sends(() => ({ name: 'Mine', layout: LAYOUT })),
  ),
  route('DELETE', '/email-templates/:emailTemplate'),
  route('DELETE', '/invitations/:invitation'),
  route('POST', '/invitations/:invitation/again'),
  route(
    'PUT',
    '/people/:person',
    sends(() => ({ role: 'viewer', whoseLeads: 'all', teams: [] })),
  ),
  route(
    'POST',
    '/removed/:removed',
    sends(() => ({ kind: 'workflow' })),
  ),
  route('GET', '/people/:person/leaving'),
  route('GET', '/people/:person/working-time'),
  route(
    'PUT',
    '/people/:person/working-time',
    sends(() => ({ working: null })),
  ),
  route(
    'POST',
    '/people/:person/leave',
    sends(() => ({ to: null })),
  ),
  route('DELETE', '/passkeys/:passkey'),
  route('DELETE', '/sessions/:session'),
  route(
    'PUT',
    '/teams/:team',
    sends(() => ({ name: 'Mine', people: [] })),
  ),
  route('DELETE', '/teams/:team'),
  route('GET', '/leads/:lead'),
  route(
    'PUT',
    '/leads/:lead',
    sends(() => ({ first_name: 'X', last_name: '', email: '', phone: '' })),
  ),
  route(
    'POST',
    '/leads/:lead/consents',
    sends(() => ({ channel: 'text', purpose: null, state: 'given', how: 'Said so' })),
  ),
  route(
    'POST',
    '/leads/:lead/erase',
    sends(() => ({ name: 'X' })),
  ),
  route('GET', '/leads/:lead/export'),
  route('GET', '/leads/:lead/merge'),
  route(
    'POST',
    '/leads/:lead/merge',
    sends(({ lead2 }) => ({ with: lead2 })),
  ),
  route('POST', '/leads/:lead/release-number'),
  route('POST', '/leads/:lead/changes/:change'),
  route('DELETE', '/lists/:list'),
  route(
    'PUT',
    '/lists/:list',
    sends(() => ({ name: 'Mine' })),
  ),
  route(
    'POST',
    '/lists/:list/fields',
    sends(() => ({ name: 'Mine' })),
  ),
  route(
    'PUT',
    '/lists/:list/members/:lead',
    sends(() => ({ on: false })),
  ),
  route(
    'POST',
    '/lists/:list/sequences',
    sends(() => ({ name: 'Mine' })),
  ),
  route('POST', '/mailings/:mailing/stop'),
  route('POST', '/merges/:merge/undo'),
  route('POST', '/needs/:need/settle'),
  route(
    'POST',
    '/needs/:need/refusal',
    sends(() => ({ means: 'something_else' })),
  ),
  route(
    'POST',
    '/needs/:need/whose',
    sends(() => ({ answer: 'shared' })),
  ),
  route(
    'POST',
    '/leads/:lead/outcomes',
    sends(() => ({ name: 'Rang up', day: '', amount: '' })),
  ),
  route('DELETE', '/leads/:lead/outcomes/:outcome'),
  route('POST', '/results/costs/feeds/:feed'),
  route('DELETE', '/results/costs/feeds/:feed'),
  route('DELETE', '/results/outcomes/:counted'),
  route('DELETE', '/results/sites/:site'),
  route('GET', '/workflows/:workflow/results'),
  route('GET', '/pipelines/:pipeline'),
  route(
    'PUT',
    '/pipelines/:pipeline',
    sends(() => ({ currency: 'JPY' })),
  ),
  route(
    'PUT',
    '/segments/:segment',
    sends(() => ({ name: 'Mine', condition: CONDITION })),
  ),
  route('DELETE', '/segments/:segment'),
  route(
    'PUT',
    '/named/:named',
    sends(() => ({ kind: 'tag', name: 'Named anew', folder: 'Words', was: { name: 'Mine', folder: '' } })),
  ),
  route('DELETE', '/tags/:tag'),
  route('DELETE', '/pipelines/:pipeline'),
  route('GET', '/sheets/:sheet'),
  route(
    'PUT',
    '/sheets/:sheet',
    sends(() => ({ name: 'Mine' })),
  ),
  route('DELETE', '/sheets/:sheet'),
  route(
    'POST',
    '/sheets/:sheet/tabs',
    sends(() => ({ name: 'Mine' })),
  ),
  route('POST', '/sources/:source/address'),
  route(
    'POST',
    '/sources/:source/again',
    sends(({ arrival }) => ({ arrivalIds: [arrival] })),
  ),
  route('GET', '/sources/:source/arrivals/:arrival/attachment'),
  route('GET', '/sources/:source/arrivals/:arrival'),
  route('GET', '/sources/:source/arrivals'),
  route(
    'PUT',
    '/sources/:source/card',
    sends(() => ({ fields: { email: 'email' }, consent: { kind: 'not_asked' } })),
  ),
  route('GET', '/sources/:source/learnt'),
  route('GET', '/sources/:source/choices'),
  route('GET', '/sources/:source/files'),
  route('POST', '/sources/:source/files', { file: true }),
  route(
    'POST',
    '/sources/:source/header',
    sends(() => ({ row: 1 })),
  ),
  route('POST', '/sources/:source/import/file', { file: true }),
  route('GET', '/sources/:source/import/file'),
  route(
    'POST',
    '/sources/:source/import/header',
    sends(() => ({ row: 1 })),
  ),
  route('GET', '/sources/:source/import'),
  route(
    'POST',
    '/sources/:source/import',
    sends(() => ({ workflowId: null, count: 1 })),
  ),
  route('GET', '/sources/:source/import/rows'),
  route('POST', '/sources/:source/import/stop'),
  route('POST', '/sources/:source/import/undo'),
  route('GET', '/sources/:source'),
  route('DELETE', '/sources/:source'),
  route('GET', '/sources/:source/tabs'),
  route(
    'PUT',
    '/sources/:source',
    sends(() => ({ name: 'Mine' })),
  ),
  route('POST', '/sources/:source/sample'),
  route('POST', '/sources/:source/secret'),
  route('POST', '/tabs/:tab/file', { file: true }),
  route('GET', '/tabs/:tab/file'),
  route(
    'PUT',
    '/tabs/:tab',
    sends(() => ({ name: 'Mine' })),
  ),
  route('DELETE', '/tabs/:tab'),
  route(
    'POST',
    '/tabs/:tab/columns',
    sends(() => ({ name: 'Came by' })),
  ),
  route('GET', '/tabs/:tab/rows'),
  route(
    'POST',
    '/tabs/:tab/rows',
    sends(({ row }) => ({ remove: [row] })),
  ),
  route('GET', '/tabs/:tab/rows/:row'),
  route(
    'PUT',
    '/tasks/:task',
    sends(() => ({ done: true })),
  ),
  route('POST', '/workflows/:workflow/copy'),
  route('GET', '/workflows/:workflow'),
  route('DELETE', '/workflows/:workflow'),
  route(
    'PUT',
    '/workflows/:workflow',
    sends(() => ({ revision: 0, draft: SHEET })),
  ),
  route(
    'POST',
    '/workflows/:workflow',
    sends(() => ({ name: 'Mine', folder: '' })),
  ),
  route('GET', '/workflows/:workflow/live'),
  route(
    'POST',
    '/workflows/:workflow/live',
    sends(() => ({ moveOn: true })),
  ),
  route(
    'PUT',
    '/workflows/:workflow/live',
    sends(() => ({ paused: true })),
  ),
  route('POST', '/workflows/:workflow/rehearse-last', { looks: true }),
  route('POST', '/workflows/:workflow/rehearse', { ...sends(() => ({ arrivalId: null })), looks: true }),
  route(
    'POST',
    '/workflows/:workflow/restore',
    sends(() => ({ number: 1 })),
  ),
  route(
    'POST',
    '/workflows/:workflow/runs/:run/again',
    sends(() => ({ stepId: 'x', sendAgain: true, key: '01999999-0000-7000-8000-000000000003' })),
  ),
  route('POST', '/workflows/:workflow/runs/:run/handled'),
  route('GET', '/workflows/:workflow/runs/:run'),
  route('GET', '/workflows/:workflow/runs'),
  route('GET', '/workflows/:workflow/share'),
  route(
    'PUT',
    '/workflows/:workflow/sample',
    sends(({ arrival }) => ({ arrivalId: arrival })),
  ),
  route(
    'POST',
    '/workflows/:workflow/send-to-me',
    sends(() => ({ stepId: 'x', arrivalId: null })),
  ),
];

/** Doors to what there is as a whole. Their bodies name things of the business. */
export const TO_ALL: RouteCase[] = [
  route('GET', '/business/file'),
  route('POST', '/business/file', { looks: true }),
  // What these do when they are let is tried where there are several (businesses.test.ts): here it would end all the rest.
  route('DELETE', '/business', { ...sends(() => ({ name: 'Not what it is called' })), looks: true }),
  route('GET', '/tags'),
  route('GET', '/my-telling'),
  route('PUT', '/my-telling', {
    ...sends(() => ({ email: ['leads'], text: [], quiet: { from: '22:00', to: '07:00' }, summaryAt: '08:00' })),
    own: true,
  }),
  route('GET', '/businesses'),
  route('POST', '/businesses', {
    ...sends(() => ({ name: 'Another', country: 'GB', timeZone: 'Nowhere' })),
    looks: true,
  }),
  route('POST', '/businesses/back', { ...sends(() => ({ key: 'nowhere' })), looks: true }),
  route('GET', '/archive'),
  route('GET', '/find'),
  route('GET', '/first-steps'),
  route(
    'PUT',
    '/first-steps',
    sends(() => ({ state: 'left' })),
  ),
  route(
    'PUT',
    '/first-steps/phone',
    sends(() => ({ phone: '07700 900123' })),
  ),
  route('POST', '/practice'),
  route('DELETE', '/practice'),
  route('POST', '/archive', { file: true }),
  route('POST', '/sentences/read', { ...sends(() => ({ text: 'text them', answers: {} })), looks: true }),
  route(
    'POST',
    '/sentences',
    sends(() => ({ text: 'text them', answers: {}, name: 'Said' })),
  ),
  route('GET', '/shares'),
  route('POST', '/shares/look', { ...sends(() => ({ file: openDay.file })), looks: true }),
  route(
    'POST',
    '/shares',
    sends(({ source }) => ({
      file: openDay.file,
      choices: { [openDay.file.things.find(({ kind }) => kind === 'source')!.id]: source },
    })),
  ),
  route(
    'PUT',
    '/archive',
    sends(() => ({ keepsSentMonths: null })),
  ),
  route('GET', '/audience'),
  route('GET', '/audience/people'),
  route('GET', '/bulk'),
  route(
    'POST',
    '/bulk',
    sends(({ lead, tag }) => ({ choice: { ...EVERYBODY, ids: [lead] }, action: { does: 'tag', tag }, count: 1 })),
  ),
  route(
    'POST',
    '/calendar/appointments',
    sends(({ colleague, lead }) => ({
      colleagueId: colleague,
      leadId: lead,
      title: 'X',
      startsAt: '2027-03-01T09:00',
    })),
  ),
  route(
    'PUT',
    '/calendar/bookings',
    sends(({ source, colleague }) => ({ sourceId: source, colleagueId: colleague })),
  ),
  route(
    'POST',
    '/calendar/own',
    sends(({ connection, colleague }) => ({
      ...{ connectionId: connection, colleagueId: colleague, href: 'https://x.example/' },
      ...{ writes: false, titles: false },
    })),
  ),
  route('GET', '/calendar/own'),
  route('GET', '/calendar/own/choices'),
  route('POST', '/calendar/feed', { own: true }),
  route('GET', '/calendar'),
  route(
    'POST',
    '/canned-answers',
    sends(() => ({ name: 'Mine', text: 'Hello' })),
  ),
  route('GET', '/chat-forms'),
  route(
    'POST',
    '/chat-forms',
    sends(() => ({ name: 'Mine' })),
  ),
  route('GET', '/chat-templates'),
  route(
    'POST',
    '/chat-templates',
    sends(() => ({ name: 'Mine' })),
  ),
  route('GET', '/devices'),
  route(
    'POST',
    '/devices',
    sends(() => ({ ...DEVICE, name: 'Mine' })),
  ),
  route('POST', '/devices/practice'),
  route('GET', '/connections'),
  route(
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
  route('GET', '/conversations'),
  route(
    'POST',
    '/deals',
    sends(({ lead, pipeline }) => ({ leadId: lead, pipelineId: pipeline })),
  ),
  route(
    'POST',
    '/email-templates',
    sends(() => ({ name: 'Mine', layout: LAYOUT })),
  ),
  route('POST', '/email-templates/links', { ...sends(() => ({ layout: LAYOUT })), looks: true }),
  route('POST', '/email-templates/show', { ...sends(() => ({ layout: LAYOUT })), looks: true }),
  route('POST', '/files', { file: true }),
  route(
    'PUT',
    '/front-door',
    sends(({ chatForm }) => ({ on: true, form: chatForm })),
  ),
  route('GET', '/leads/consents'),
  route('POST', '/leads/count', { ...sends(({ list }) => ({ ...EVERYBODY, list: { id: list } })), looks: true }),
  route('GET', '/leads/file'),
  ...[
    '',
    '/costs',
    '/file',
    '/models',
    '/month/mail',
    '/names',
    '/outcomes',
    '/people',
    '/replies',
    '/sites',
    '/way',
  ].map((path) => route('GET', `/results${path}`)),
  route('POST', '/results/costs', { file: true }),
  route('POST', '/results/costs/look', { file: true }),
  route(
    'POST',
    '/results/costs/forget',
    sends(() => ({ via: 'ads.csv' })),
  ),
  route(
    'POST',
    '/results/costs/feeds',
    sends(({ connection }) => ({ connectionId: connection })),
  ),
  route(
    'POST',
    '/results/rates',
    sends(() => ({ rates: [{ currency: 'EUR', day: '2026-01-01', rate: 0.86 }] })),
  ),
  route(
    'POST',
    '/results/rates/remove',
    sends(() => ({ currency: 'EUR', day: '2026-01-01' })),
  ),
  route(
    'POST',
    '/results/names',
    sends(() => ({ mark: 'campaign', name: 'autum', shownAs: 'autumn' })),
  ),
  route(
    'POST',
    '/results/names/as-it-came',
    sends(() => ({ mark: 'campaign', name: 'autum' })),
  ),
  route(
    'PUT',
    '/results/month/mail',
    sends(() => ({ day: 3, recipients: 'owner@wrenfield.example' })),
  ),
  route(
    'POST',
    '/results/sites',
    sends(() => ({ name: 'www.wrenfield.example', asks: true })),
  ),
  route('GET', '/leads'),
  route(
    'POST',
    '/lists',
    sends(() => ({ name: 'Mine' })),
  ),
  route('GET', '/live'),
  route(
    'POST',
    '/mailings',
    sends(({ list }) => ({ to: `list:${list}`, email: EMAIL })),
  ),
  route(
    'POST',
    '/mailings/to-me',
    sends(() => ({ email: EMAIL })),
  ),
  route(
    'POST',
    '/pipelines',
    sends(() => ({ name: 'Mine' })),
  ),
  route('GET', '/segments'),
  route(
    'POST',
    '/segments',
    sends(() => ({ name: 'Mine', condition: CONDITION })),
  ),
  route('GET', '/sheets'),
  route(
    'POST',
    '/sheets',
    sends(() => ({ name: 'Mine' })),
  ),
  route('GET', '/sources/choices/:kind'),
  route('GET', '/sources'),
  route(
    'POST',
    '/sources',
    sends(() => ({ kind: 'webhook', name: 'Mine', signed: false })),
  ),
  route(
    'POST',
    '/tags',
    sends(() => ({ name: 'Mine' })),
  ),
  route('GET', '/my-work'),
  route('GET', '/invitations'),
  route(
    'POST',
    '/invitations',
    sends(({ team }) => ({ email: 'new@wrenfield.example', role: 'desk', teams: [team] })),
  ),
  route('GET', '/people'),
  route('GET', '/teams'),
  route(
    'POST',
    '/teams',
    sends(({ person }) => ({ name: 'Mine', people: [person] })),
  ),
  route('GET', '/removed'),
  route('GET', '/record'),
  route('GET', '/record/file'),
  route(
    'PUT',
    '/record',
    sends(() => ({ months: null })),
  ),
  route('GET', '/my-sign-in'),
  route('GET', '/my-working-time'),
  route('PUT', '/my-working-time', { ...sends(() => ({ working: null })), own: true }),
  route('POST', '/passkeys/begin', { own: true }),
  route('POST', '/passkeys', { ...sends(() => ({ token: 'x', name: 'Mine', answer: { id: 'x' } })), own: true }),
  route('POST', '/proof', { ...sends(() => ({ password: 'not-this-one' })), own: true }),
  route('POST', '/second', { own: true }),
  route('GET', '/second'),
  route('PUT', '/second', { ...sends(() => ({ token: 'x', code: '123456' })), own: true }),
  route('DELETE', '/second', { own: true }),
  route('POST', '/second/codes', { own: true }),
  route('GET', '/sign-in-rules'),
  route(
    'PUT',
    '/sign-in-rules',
    sends(() => ({ demands: false })),
  ),
  route(
    'PUT',
    '/sign-on',
    sends(() => ({
      issuer: 'http://127.0.0.1:9/',
      clientId: 'x',
      domains: ['x.example'],
      newcomers: null,
      only: false,
    })),
  ),
  route('DELETE', '/sign-on'),
  route('GET', '/sessions'),
  route('DELETE', '/sessions', { own: true }),
  route('PUT', '/password', {
    ...sends(() => ({ current: 'not-this-one', password: 'violet tuba harvest' })),
    own: true,
  }),
  route('GET', '/today'),
  route('GET', '/workflows'),
  route(
    'POST',
    '/workflows',
    sends(() => ({ name: 'Mine', folder: '' })),
  ),
];

/** The address of a door, its names filled in. */
export const addressOf = ({ path }: RouteCase, named: Partial<Named>): string =>
  `/api${path.replace(/:(\w+)/g, (_, name) => named[name as keyof Named] ?? 'webhook')}`;

/** What whoever knocks must have the right to. */
export const rightOf = (route: RouteCase): Right =>
  ROUTES.find(({ method, path }) => method === route.method && path === route.path)!.right;

/** "GET /leads/:lead" for every door the application has. */
export const routesThereAre = (): string[] => ROUTES.map(({ method, path }) => `${method} ${path}`).sort();

/** Pages about one thing, by the file each is made from, and by what it is named. */
export const PAGES: Record<string, keyof Named> = {
  'connections/[id].astro': 'connection',
  'connections/[id]/allowed.astro': 'connection',
  'leads/[id].astro': 'lead',
  'leads/[id]/consent.astro': 'lead',
  'lists/[id]/index.astro': 'list',
  'lists/[id]/sequences.astro': 'list',
  'lists/[id]/settings.astro': 'list',
  'messages/chat-forms/[id].astro': 'chatForm',
  'messages/chat-templates/[id].astro': 'chatTemplate',
  'messages/templates/[id].astro': 'emailTemplate',
  'messages/mailings/[id].astro': 'mailing',
  'pipeline/[id].astro': 'pipeline',
  'sheets/[id].astro': 'sheet',
  'sources/[id].astro': 'source',
  'workflows/[id]/index.astro': 'workflow',
  'workflows/[id]/log.astro': 'workflow',
  'workflows/[id]/results.astro': 'workflow',
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
