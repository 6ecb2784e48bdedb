import type { z } from 'zod';
import { readAs } from '../read-as.ts';
import { templatePieces, templateProblem, usedReferences } from '../template/template.ts';
import { type Call, Description, type SentField } from './description.ts';
import { MEANINGS, meaningsOf } from './meanings.ts';
import { pathProblem } from './paths.ts';
import { type DescribedKind, worksOf } from './works.ts';

/** Longest description, in UTF-16 code units of its JSON. */
export const LONGEST_DESCRIPTION = 200_000;

export type ReadDescription = { ok: true; description: Description } | { ok: false; problems: string[] };

/** A description from a file or a form, with everything that is wrong with it, each in a sentence. */
export function readDescription(value: unknown, kind?: DescribedKind): ReadDescription {
  const read = readAs(Description, value);
  if (!read.success)
    return {
      ok: false,
      problems: read.error.issues
        .slice(0, 10)
        .map((issue) => (issue.path.length === 0 ? `${wrong(issue)}.` : `${placeWords(issue.path)}: ${wrong(issue)}.`)),
    };
  const problems = problemsOf(read.data, kind);
  return problems.length === 0 ? { ok: true, description: read.data } : { ok: false, problems };
}

const KINDS: Record<string, string> = {
  ...{ string: 'a text', number: 'a number', boolean: 'true or false', array: 'a list', object: 'a thing with fields' },
  record: 'a thing with fields',
};
/** What is wrong with one value; what has no words of ours says itself what kind of value it should be. */
function wrong(issue: z.core.$ZodIssue): string {
  const message = issue.message.replace(/\.$/, '');
  if (issue.code !== 'invalid_type' || !message.startsWith('Invalid input')) return message;
  return message.endsWith('received undefined')
    ? 'it is missing'
    : `it should be ${KINDS[issue.expected] ?? issue.expected}`;
}

const placeWords = (path: readonly PropertyKey[]) =>
  path.map((part) => (typeof part === 'number' ? String(part + 1) : String(part))).join(', ');

/** What is wrong with a description that has the right shape. */
export function problemsOf(description: Description, kind?: DescribedKind): string[] {
  const problems: string[] = [];
  const asked = new Set(description.asks.map(({ key }) => key));
  if (asked.size < description.asks.length) problems.push('Two things that are filled in have the same name.');
  const written = (where: string, source: string, given: ReadonlySet<string> | null) => {
    const problem = templateProblem(source);
    if (problem) return problems.push(`${where}: ${problem.text}`);
    if (templatePieces(source).some((piece) => piece.kind === 'field' && piece.reference === null))
      return problems.push(`${where}: “${source.slice(0, 60)}” names nothing: fields are given.… and account.…`);
    for (const { group, key } of usedReferences(source)) {
      if (group === 'account' && !asked.has(key))
        problems.push(`${where} names account.${key}, which nobody is asked for.`);
      else if (group === 'given' && given && !given.has(key))
        problems.push(`${where} names given.${key}, which is never given to it.`);
      else if (group !== 'account' && group !== 'given')
        problems.push(`${where} names ${group}.${key}: a description knows given.… and account.… only.`);
    }
    return undefined;
  };
  const path = (where: string, one: string) => {
    const problem = one === '' ? null : pathProblem(one);
    if (problem) problems.push(`${where}: ${problem}`);
  };
  const fields = (where: string, all: readonly SentField[], given: ReadonlySet<string>) => {
    for (const field of all) written(`${where}, ${field.name}`, field.value, given);
  };
  written('The address', description.address, new Set());
  const SIGNED = new Set(['method', 'path', 'body', 'time', 'nonce']);
  for (const [name, value] of Object.entries(description.signIn))
    if (
      typeof value === 'string' &&
      !['way', 'name', 'header', 'prefix', 'timeHeader', 'nonceHeader', 'scope', 'more'].includes(name)
    )
      written('The sign-in', value, name === 'over' ? SIGNED : new Set());
  const given = givenTo(description, kind);
  for (const [name, call] of Object.entries(description.calls)) {
    const where = `Call ${name}`;
    // A call nobody makes by name may be given anything.
    const its = given.get(name) ?? new Set<string>();
    for (const one of pagingGiven(call)) its.add(one);
    written(`${where}, its path`, call.path, its);
    fields(`${where}, its address`, call.query, its);
    fields(`${where}, its headers`, call.headers, its);
    fields(`${where}, its body`, call.body.fields, its);
    for (const [value, read] of Object.entries({ ...call.reads, ...call.besides }))
      for (const one of [read.path, ...Object.values(read.of ?? {})]) path(`${where}, ${value}`, one);
    for (const rule of call.outcomes) path(`${where}, its outcomes`, rule.path);
    for (const one of [...call.reason, call.items]) path(where, one);
    if (call.paging.way === 'cursor' || call.paging.way === 'since') path(`${where}, its pages`, call.paging.path);
    if (call.again === 'by-key' && !call.keyHeader && !usesKey(call))
      problems.push(`${where} sends no key: say which header it goes in, or put given.reference into what is sent.`);
    if (call.again === 'ask' && !description.calls.look)
      problems.push(`${where} is to be asked about before it is sent again, and there is no call “look” to ask with.`);
  }
  for (const { label, create, find, update } of description.records)
    for (const name of [create, find, update])
      if (name !== null && !description.calls[name]) problems.push(`${label}: there is no call “${name}”.`);
  for (const { label, create, update, find } of description.records) {
    if ((update || find) && !description.calls[create]?.reads.id)
      problems.push(`${label}: its call “${create}” reads no id, so what is made could never be brought up to date.`);
    if (find && !description.calls[find]?.reads.id) problems.push(`${label}: its call “${find}” reads no id.`);
  }
  for (const { label, call, gives } of description.lookUps) {
    if (!description.calls[call]) problems.push(`${label}: there is no call “${call}”.`);
    for (const { key } of gives)
      if (description.calls[call] && !description.calls[call].reads[key])
        problems.push(`${label}: its call reads no “${key}”.`);
  }
  for (const { label, call: name } of description.fetches) {
    const call = description.calls[name];
    if (!call) problems.push(`${label}: there is no call “${name}”.`);
    else if (call.items === '' || !call.reads.id)
      problems.push(`${label}: its call must say where the list stands, and read the id of each item.`);
  }
  if (kind)
    for (const [name, work] of Object.entries(worksOf(kind)))
      if (work.needed && !description.calls[name]) problems.push(`It has no call “${name}” (${work.label}).`);
  if (description.hears) {
    const { hears } = description;
    for (const one of [hears.events, hears.kind, hears.id]) path('What it tells us', one);
    for (const { means, reads } of hears.kinds)
      for (const read of Object.values(reads))
        for (const one of [read.path, ...Object.values(read.of ?? {})]) path(`What it tells us, ${means}`, one);
    if (kind)
      for (const { means } of hears.kinds)
        if (!meaningsOf(kind).includes(means))
          problems.push(`What it tells us: “${MEANINGS[means].label}” means nothing at a service of this kind.`);
    if (hears.signed.way === 'hmac') {
      written('How events are signed', hears.signed.key, new Set(['secret']));
      written('How events are signed', hears.signed.over, new Set(['body', 'time']));
    }
    if (hears.kinds.length > 1 && hears.kind === '')
      problems.push('It tells of several kinds of events, and nothing says where the kind stands.');
  }
  return [...new Set(problems)];
}

const usesKey = (call: Call): boolean =>
  [call.path, ...[...call.query, ...call.headers, ...call.body.fields].map(({ value }) => value)].some((source) =>
    usedReferences(source).some(({ group, key }) => group === 'given' && key === 'reference'),
  );

const pagingGiven = ({ paging }: Call): string[] =>
  paging.way === 'cursor' ? ['cursor'] : paging.way === 'page' ? ['page'] : paging.way === 'since' ? ['since'] : [];

/** By the name of the call, what it is given by those who make it. */
function givenTo({ records, lookUps }: Description, kind?: DescribedKind): Map<string, Set<string>> {
  const out = new Map<string, Set<string>>();
  const add = (call: string | null, names: readonly string[]) => {
    if (call === null) return;
    const there = out.get(call) ?? new Set();
    for (const name of names) there.add(name);
    out.set(call, there);
  };
  if (kind) for (const [name, { given }] of Object.entries(worksOf(kind))) add(name, Object.keys(given));
  for (const { takes, find, create, update } of records) {
    const names = [...takes.map(({ key }) => key), 'reference'];
    add(find, names);
    add(create, names);
    add(update, [...names, 'id']);
  }
  for (const { takes, call } of lookUps)
    add(
      call,
      takes.map(({ key }) => key),
    );
  return out;
}
