import { z } from 'zod';
import { readShare, type SharedThing, type ShareFile } from '../../core/share/share-file.ts';
import { idsIn } from '../../core/share/swap-ids.ts';
import { placedSteps } from '../../core/workflow/definition.ts';
import { stepKinds } from '../../steps/registry.ts';
import { Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';
import { catalogueFor } from '../workflows/sample.ts';
import { fitsHere } from './fits-here.ts';
import { thingsHere } from './things-here.ts';

/** What is to be done with one thing of a file: made anew, nothing, or one that is here in its place. */
export const MAKE = 'make';
export const NOBODY = '';

/** A file as it was handed in, or why it cannot be read. */
export function shareOf(value: unknown): ShareFile {
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
export const own = (file: ShareFile): ReadonlySet<string> =>
  new Set(
    file.things.flatMap((one) => [
      one.id,
      ...(one.kind === 'pipeline' ? one.stages.map((stage) => stage.id) : []),
      ...(one.kind === 'tab' ? one.columns.map((column) => column.id) : []),
    ]),
  );

/** Things of a file in an order in which each comes after what it names. */
export function inTurn(file: ShareFile): SharedThing[] {
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
export async function allHere(use: Use): Promise<SharedThing[]> {
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
export function foundHere(file: ShareFile, here: readonly SharedThing[]): Map<string, string> {
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

/** A file as it was read: JSON, or its text where it is none. */
export const ShareRead = z.object({ file: z.unknown() });
