import { z } from 'zod';
import { catalogueOfShare } from '../../core/share/share-catalogue.ts';
import { readShare, type SharedThing, type ShareFile } from '../../core/share/share-file.ts';
import { idsIn, swapIds } from '../../core/share/swap-ids.ts';
import { atNames } from '../../core/workflow/at-names.ts';
import { atWords } from '../../core/workflow/at-words.ts';
import { type Definition, type Place, placedSteps } from '../../core/workflow/definition.ts';
import { readAloud } from '../../core/workflow/read-aloud.ts';
import type { Catalogue } from '../../core/workflow/step-kind.ts';
import { stepKinds } from '../../steps/registry.ts';
import { demand } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';
import { catalogueFor } from '../workflows/sample.ts';
import { createWorkflow, workflowNames } from '../workflows/workflows.ts';
import { fitsHere } from './fits-here.ts';
import { makeSource, makeThing } from './make-thing.ts';
import { thingsHere } from './things-here.ts';

/** What is to be done with one thing of a file: made anew, nothing, or one that is here in its place. */
const MAKE = 'make';
const NOBODY = '';

/** What somebody has to say before a file is taken: which source, and who. */
export interface Asked {
  id: string;
  kind: 'source' | 'colleague';
  name: string;
  /** For a colleague, what they do in it. */
  about: string;
  options: { id: string; name: string }[];
  /** Whether it can be made on the spot. */
  canMake: boolean;
  /** What is chosen to begin with: an id, "make", or "" for later. */
  chosen: string;
}

/** A moment as the sheet shows it: when it is, and what is done in which lane. */
export interface ShownMoment {
  when: string;
  steps: { place: Place; inCase: string; icon: string; title: string; line: string }[];
}

export interface ShareLook {
  workflows: { name: string; folder: string; taken: boolean; sentences: string[]; moments: ShownMoment[] }[];
  /** What the workflows name: is it here, or is it made? */
  brings: { kind: SharedThing['kind']; name: string; here: boolean }[];
  asks: Asked[];
  /** Accounts its steps send or look up by. */
  accounts: { by: 'text' | 'email' | 'chat' | 'directory'; connected: boolean }[];
}

/** A file as it was handed in, or why it cannot be read. */
function shareOf(value: unknown): ShareFile {
  const read = readShare(value);
  if (!read.ok) throw new Refusal(422, 'share', read.problem);
  for (const { name, sheet } of read.file.workflows)
    for (const { step } of placedSteps(sheet)) {
      const kind = stepKinds.get(step.kind);
      if (!kind)
        throw new Refusal(
          422,
          'share',
          `“${name}” has a step this Pine Bell does not know: ${step.kind.slice(0, 40)}. Update it, then read the file again.`,
        );
      if (!kind.settings.safeParse(step.settings).success)
        throw new Refusal(422, 'share', `A step of “${name}” is not right: ${kind.label}.`);
    }
  return read.file;
}

/** The ids of a file that stand for nothing of it: of another file, or of another business. They are nobody's here. */
const own = (file: ShareFile): ReadonlySet<string> =>
  new Set(
    file.things.flatMap((one) => [
      one.id,
      ...(one.kind === 'pipeline' ? one.stages.map((stage) => stage.id) : []),
      ...(one.kind === 'tab' ? one.columns.map((column) => column.id) : []),
    ]),
  );

/** Things of a file in an order in which each comes after what it names. */
function inTurn(file: ShareFile): SharedThing[] {
  const left = [...file.things];
  const done: SharedThing[] = [];
  while (left.length > 0) {
    const ready = left.findIndex(
      (one) => !idsIn({ ...one, id: '' }).some((id) => left.some((other) => other.id === id && other !== one)),
    );
    // Two that name each other: the first is made with a gap.
    done.push(...left.splice(Math.max(ready, 0), 1));
  }
  return done;
}

/** Everything that is here and may stand for something of a file. */
async function allHere(use: Use): Promise<SharedThing[]> {
  const catalogue = await catalogueFor(use);
  const ids = [
    ...([
      'tags',
      'lists',
      'tabs',
      'stages',
      'segments',
      'emailTemplates',
      'chatForms',
      'chatTemplates',
      'sources',
      'colleagues',
    ] as const),
  ].flatMap((group) => catalogue[group].map((one) => one.id));
  return thingsHere(use, ids);
}

/** Ids here by those of the file, of what is here already. */
function foundHere(file: ShareFile, here: readonly SharedThing[]): Map<string, string> {
  const ids = new Map<string, string>();
  for (const one of inTurn(file))
    for (const other of here) {
      const fits = fitsHere(one, other, ids);
      if (!fits) continue;
      for (const [id, mine] of fits) ids.set(id, mine);
      break;
    }
  return ids;
}

/** What a file holds, what of it is here, and what somebody has to say. Nothing is written. */
export async function lookAtShare(use: Use, { file: value }: z.infer<typeof ShareRead>): Promise<ShareLook> {
  const file = shareOf(value);
  const [here, catalogue, names] = [await allHere(use), await catalogueFor(use), await workflowNames(use)];
  const ids = foundHere(file, here);
  const asks = file.things.flatMap((one): Asked[] => {
    if (one.kind === 'source') {
      const options = here.flatMap((other) =>
        other.kind === 'source' && (other.sourceKind === one.sourceKind || one.made === null)
          ? [{ id: other.id, name: other.name }]
          : [],
      );
      const only = options.length === 1 ? options[0]!.id : NOBODY;
      const chosen = ids.get(one.id) ?? (one.made ? MAKE : only);
      return [
        {
          id: one.id,
          kind: 'source',
          name: one.name,
          about: one.sourceKind,
          options,
          canMake: one.made !== null,
          chosen,
        },
      ];
    }
    if (one.kind !== 'colleague') return [];
    return [
      {
        id: one.id,
        kind: 'colleague',
        name: one.name,
        about: doesIn(file, one.id),
        options: catalogue.colleagues.map(({ id, name }) => ({ id, name })),
        canMake: false,
        chosen: NOBODY,
      },
    ];
  });
  const readable = catalogueOfShare(file, catalogue);
  return {
    workflows: file.workflows.map(({ name, folder, sheet }) => ({
      ...{ name, folder, taken: names.has(name) },
      sentences: readAloud(sheet, stepKinds, readable).flatMap((part) => part.sentences),
      moments: shown(sheet, readable),
    })),
    brings: file.things.flatMap(({ id, kind, name }) =>
      kind === 'source' || kind === 'colleague' || kind === 'gone' ? [] : [{ kind, name, here: ids.has(id) }],
    ),
    asks,
    accounts: accountsOf(file.workflows.map(({ sheet }) => sheet)).map((by) => ({
      by,
      connected: catalogue[by] !== null,
    })),
  };
}

function shown(sheet: Definition, catalogue: Catalogue): ShownMoment[] {
  const names = atNames(sheet, stepKinds, catalogue);
  const placed = placedSteps(sheet);
  return sheet.moments.map((moment) => ({
    when: atWords(moment.at, names),
    steps: placed
      .filter((one) => one.moment === moment)
      .map(({ step, place, caseId }) => {
        const kind = stepKinds.get(step.kind)!;
        const inCase = moment.cases.find((each) => each.id === caseId)?.name ?? '';
        return { place, inCase, icon: kind.icon, ...kind.card(kind.settings.parse(step.settings), catalogue) };
      }),
  }));
}

const ACCOUNTS: Record<string, ShareLook['accounts'][number]['by']> = {
  text: 'text',
  email: 'email',
  mailing: 'email',
  chat: 'chat',
  'chat-template': 'chat',
  company: 'directory',
};

function accountsOf(sheets: readonly Definition[]): ShareLook['accounts'][number]['by'][] {
  const steps = sheets.flatMap((sheet) => placedSteps(sheet).map(({ step }) => step));
  const said = steps.flatMap(({ kind, settings }): ShareLook['accounts'][number]['by'][] => {
    const by = ACCOUNTS[kind] ?? (kind === 'ask' || kind === 'tell' ? settings.by : null);
    return by === 'text' || by === 'email' || by === 'chat' || by === 'directory' ? [by] : [];
  });
  return [...new Set(said)];
}

/** What somebody does in the workflows of a file, in the words of the menu of steps. */
function doesIn(file: ShareFile, id: string): string {
  const kinds = file.workflows.flatMap(({ sheet }) =>
    placedSteps(sheet).flatMap(({ step }) =>
      idsIn(step.settings).includes(id) ? [stepKinds.get(step.kind)!.label] : [],
    ),
  );
  const told = file.workflows.some(({ sheet }) => sheet.rules.tell?.colleague === id) ? ['Told of failures'] : [];
  return [...new Set([...kinds, ...told])].join(', ');
}

/** A file as it was read: JSON, or its text where it is none. */
export const ShareRead = z.object({ file: z.unknown() });
export const ShareTaken = ShareRead.extend({
  /** By the id of a source or colleague in the file: an id here, "make", or "" for later. */
  choices: z.record(z.string().max(60), z.string().max(60)).default({}),
});

/** A name that is free, with a number behind it where it has to be. */
const freeName = (name: string, taken: ReadonlySet<string>, most: number): string => {
  for (let n = 1; ; n++) {
    const end = n === 1 ? '' : ` (${n})`;
    const one = `${name.slice(0, most - end.length)}${end}`;
    if (!taken.has(one)) return one;
  }
};

/**
 * Takes a file in: makes what is not here, and its workflows as drafts. Nothing goes live by it. What it names is made first, its sources behind that, as
 * some of them listen to a sheet; cut off in between, what was made is found by its name the next time.
 */
export async function takeShare(
  use: Use,
  { file: value, choices }: z.infer<typeof ShareTaken>,
): Promise<{ workflows: { id: string; name: string }[]; made: { kind: SharedThing['kind']; name: string }[] }> {
  demand(use.actor, 'coordinator');
  const file = shareOf(value);
  const here = await allHere(use);
  const hereById = new Map(here.map((one) => [one.id, one]));
  const ids = foundHere(file, here);
  const made: { kind: SharedThing['kind']; name: string }[] = [];
  const inside = own(file);
  const left: SharedThing[] = [];
  for (const one of inTurn(file)) {
    const chosen = one.kind === 'source' || one.kind === 'colleague' ? choices[one.id] : undefined;
    if (chosen !== undefined && chosen !== MAKE) {
      // Whatever is named has to be of its kind and of this business.
      if (chosen !== NOBODY && hereById.get(chosen)?.kind !== one.kind)
        throw new Refusal(
          422,
          'gone',
          `What was chosen for “${one.name}” is not here any more. Look at the file again.`,
        );
      if (chosen === NOBODY) ids.delete(one.id);
      else ids.set(one.id, chosen);
      continue;
    }
    if (one.kind === 'colleague' || one.kind === 'gone' || (ids.has(one.id) && chosen !== MAKE)) continue;
    const taken = new Set([...here, ...left].filter((other) => other.kind === one.kind).map((other) => other.name));
    left.push({ ...one, name: freeName(one.name, taken, 60) });
  }
  const known = <T extends SharedThing>(one: T): T => swapIds(one, (id) => ids.get(id) ?? (inside.has(id) ? id : null));
  const note = (one: SharedThing, fresh: Map<string, string> | null) => {
    for (const [id, mine] of fresh ?? []) ids.set(id, mine);
    if (fresh) made.push({ kind: one.kind, name: one.name });
  };
  await use.write(async (tx) => {
    // Tried once more, it begins anew.
    made.length = 0;
    for (const one of left) note(one, await makeThing(tx, known(one)));
    tx.note('share.take', tx.actor.businessId, { workflows: file.workflows.map(({ name }) => name), made });
  });
  for (const one of left) if (one.kind === 'source') note(one, await makeSource(use, known(one)));
  return use.write(async (tx) => {
    const names = await workflowNames(tx);
    const workflows: { id: string; name: string }[] = [];
    for (const { name, folder, sheet } of file.workflows) {
      const free = freeName(name, names, 120);
      names.add(free);
      const draft = swapIds(sheet, (one) => ids.get(one) ?? null);
      workflows.push({ id: (await createWorkflow(tx, { name: free, folder, draft })).id, name: free });
    }
    return { workflows, made };
  });
}
