import type { Found, FoundKind } from '../../app/find/find.ts';
import { mayOpen } from '../../core/people/page-rights.ts';
import { mayDo, type Role } from '../../core/people/rights.ts';

/** Something that can be chosen: a page to go to, or something that is done at once. */
export type Deed = {
  id: string;
  words: string;
  /** Said beside it: what it is, or what tells it from another. */
  about: string;
} & ({ does: 'go'; href: string } | { does: 'pause'; workflow: string; paused: boolean } | { does: 'keys' });

export interface Group {
  name: string;
  deeds: Deed[];
}

/** What is always there: the views and what is begun in them. Words behind the bar find it too. */
const ALWAYS: readonly [words: string, href: string, more?: string][] = [
  ['Today', '/'],
  ['Needs you', '/#needs-you', 'problems errors to do'],
  ['Workflows', '/workflows', 'automations flows'],
  ['Sources', '/sources', 'forms webhooks'],
  ['Leads', '/leads', 'people contacts'],
  ['Conversations', '/conversations', 'inbox replies chat'],
  ['Pipeline', '/pipeline', 'deals board'],
  ['Calendar', '/calendar', 'appointments bookings'],
  ['Lists', '/lists', 'newsletter subscribers'],
  ['To read and send', '/messages', 'messages drafts'],
  ['One-off emails', '/messages/emails', 'mailings'],
  ['Email templates', '/messages/templates', 'layouts'],
  ['Chat forms', '/messages/chat-forms', 'front door'],
  ['Chat templates', '/messages/chat-templates'],
  ['Sheets', '/sheets', 'tables rows'],
  ['Connections', '/connections', 'accounts services carrier mail server'],
  ['Settings', '/settings', 'business time zone country people'],
  ['What came in, as it was sent', '/settings/arrivals', 'archive months'],
];
const BEGINS: readonly [words: string, href: string, more?: string][] = [
  ['New workflow from a starter', '/workflows/new', 'build begin'],
  ['New source', '/sources/new', 'form webhook'],
  ['New form', '/sources/new?kind=form-page', 'page'],
  ['New one-off email', '/messages/new', 'mailing newsletter many'],
  ['Bring people in from a file', '/sources/new?kind=import', 'import csv xlsx upload'],
  ['Read a file that was shared', '/from-file', 'import template workflow source share'],
  ['First steps', '/begin', 'guide start help'],
];

const KIND_WORDS: Record<FoundKind, string> = {
  lead: 'Leads',
  workflow: 'Workflows',
  source: 'Sources',
  list: 'Lists',
  sheet: 'Sheets',
  segment: 'Segments',
  template: 'Email templates',
  'chat-form': 'Chat forms',
  'chat-template': 'Chat templates',
  pipeline: 'Pipelines',
  connection: 'Connections',
};

/** What can be done with a workflow by its name, said in front of it. */
const VERBS = { pause: 'Pause', resume: 'Go on with', log: 'Log of', rules: 'Rules of' } as const;
type Verb = keyof typeof VERBS;
const SPOKEN: readonly [begins: string, verb: Verb][] = [
  ['pause', 'pause'],
  ['stop', 'pause'],
  ['resume', 'resume'],
  ['go on with', 'resume'],
  ['start', 'resume'],
  ['log of', 'log'],
  ['log', 'log'],
  ['rules of', 'rules'],
  ['rules', 'rules'],
];

/** What is looked for, and what is to be done with it where that was said: "pause trial" is a workflow that has "trial" in its name. */
export function readQuery(typed: string): { name: string; verb: Verb | null } {
  const text = typed.trim().replace(/\s+/gu, ' ');
  const lower = text.toLowerCase();
  for (const [begins, verb] of SPOKEN)
    if (lower.startsWith(`${begins} `)) return { name: text.slice(begins.length + 1), verb };
  return { name: text, verb: null };
}

const fits = (text: string, typed: string): boolean => {
  const lower = text.toLowerCase();
  return typed
    .toLowerCase()
    .split(' ')
    .filter(Boolean)
    .every((word) => lower.split(/[\s,]+/).some((one) => one.startsWith(word)));
};

const always = (typed: string, all: readonly [string, string, string?][]): Deed[] =>
  all
    .filter(([words, , more = '']) => fits(`${words} ${more}`, typed))
    .map(([words, href]) => ({ id: href, words, about: '', does: 'go', href }));

/** What a workflow can be asked for by name; nothing that makes no sense now, and nothing that changes it for whoever only looks. */
function withWorkflow({ id, name, state, about }: Found, verb: Verb, mayChange: boolean): Deed[] {
  const words = `${VERBS[verb]} “${name}”`;
  if (verb === 'log' || verb === 'rules')
    return [{ id: `${verb}:${id}`, words, about, does: 'go', href: `/workflows/${id}/${verb}` }];
  if (!mayChange || state !== (verb === 'pause' ? 'live' : 'paused')) return [];
  return [{ id: `${verb}:${id}`, words, about, does: 'pause', workflow: id, paused: verb === 'pause' }];
}

/**
 * Everything that answers what was typed, in groups, best first: deeds that were asked for by name, what there is with such a name, views, and what can
 * be begun. `help` are pages of the help by name.
 */
export function deedsFor(
  typed: string,
  found: readonly Found[],
  { role, help }: { role: Role; help: readonly { href: string; name: string }[] },
): Group[] {
  const { name, verb } = readQuery(typed);
  const mayChange = mayDo(role, 'build');
  const workflows = found.filter((one) => one.kind === 'workflow');
  const asked = verb ? workflows.flatMap((one) => withWorkflow(one, verb, mayChange)) : [];
  const groups: Group[] = [{ name: 'Do', deeds: asked }];
  for (const kind of [...new Set(found.map((one) => one.kind))])
    groups.push({
      name: KIND_WORDS[kind],
      deeds: found
        .filter((one) => one.kind === kind)
        .flatMap((one): Deed[] => {
          const page: Deed = {
            id: `${one.kind}:${one.id}`,
            words: one.name,
            about: aboutOf(one),
            does: 'go',
            href: one.href,
          };
          return one.conversation
            ? [
                page,
                {
                  id: `talk:${one.id}`,
                  words: `Conversation with ${one.name}`,
                  about: '',
                  does: 'go',
                  href: one.conversation,
                },
              ]
            : [page];
        }),
    });
  const typedName = verb ? typed : name;
  groups.push({
    name: 'Views',
    deeds: always(typedName, ALWAYS).filter((deed) => deed.does !== 'go' || mayOpen(role, deed.href)),
  });
  groups.push({ name: 'Begin', deeds: mayChange ? always(typedName, BEGINS) : [] });
  groups.push({
    name: 'Help',
    deeds: [
      ...help
        .filter((page) => typedName !== '' && fits(page.name, typedName))
        .map(({ href, name: words }): Deed => ({ id: href, words, about: '', does: 'go', href })),
      ...(fits('Keyboard shortcuts keys', typedName)
        ? [{ id: 'keys', words: 'Keyboard shortcuts', about: '', does: 'keys' } as const]
        : []),
    ],
  });
  return groups.filter(({ deeds }) => deeds.length > 0);
}

const STATE_WORDS = { draft: 'draft', live: 'live', paused: 'paused' } as const;
const aboutOf = ({ about, state, kind }: Found): string =>
  [kind === 'source' ? about.replaceAll('-', ' ') : about, state ? STATE_WORDS[state] : ''].filter(Boolean).join(', ');
