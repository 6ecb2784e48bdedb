import { z } from 'zod';
import type { SharedThing } from '../../core/share/share-file.ts';
import { swapIds } from '../../core/share/swap-ids.ts';
import { demand } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import { saveCard } from '../sources/sources.ts';
import type { Use } from '../use.ts';
import { createWorkflow, workflowNames } from '../workflows/workflows.ts';
import { makeSource, makeThing } from './make-thing.ts';
import { allHere, foundHere, inTurn, MAKE, NOBODY, own, ShareRead, shareOf } from './share-here.ts';

export const ShareTaken = ShareRead.extend({
  /** By the id of a source or colleague in the file: an id here, "make", or "" for later. */
  choices: z.record(z.string().max(60), z.string().max(60)).default({}),
});

/** What was made of a file, by its id here. */
export interface Made {
  kind: SharedThing['kind'];
  name: string;
  id: string;
}

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
): Promise<{ workflows: { id: string; name: string }[]; made: Made[] }> {
  demand(use.actor, 'build');
  const file = shareOf(value);
  const here = await allHere(use);
  const hereById = new Map(here.map((one) => [one.id, one]));
  const ids = foundHere(file, here);
  const made: Made[] = [];
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
    const mine = fresh?.get(one.id);
    if (mine) made.push({ kind: one.kind, name: one.name, id: mine });
  };
  await use.write(async (tx) => {
    // Tried once more, it begins anew.
    made.length = 0;
    for (const one of left) note(one, await makeThing(tx, known(one)));
    tx.note('share.take', tx.actor.businessId, { workflows: file.workflows.map(({ name }) => name), made });
  });
  for (const one of left) if (one.kind === 'source') note(one, await makeSource(use, known(one)));
  // A source that is connected where it is used, shared by itself: its lead card is what was meant.
  if (file.workflows.length === 0)
    for (const one of file.things) {
      const mine = choices[one.id];
      if (one.kind !== 'source' || mine === undefined || mine === MAKE || mine === NOBODY) continue;
      await use.write((tx) => saveCard(tx, mine, one.card));
      made.push({ kind: 'source', name: hereById.get(mine)!.name, id: mine });
    }
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
