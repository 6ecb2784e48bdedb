import { z } from 'zod';
import { MOST_WORKFLOWS, type ShareFile } from '../../core/share/share-file.ts';
import { writeShare } from '../../core/share/write-share.ts';
import { stepKinds } from '../../steps/registry.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';
import { findWorkflow } from '../workflows/workflows.ts';
import { thingsHere } from './things-here.ts';

/** Workflows as they stand drafted, with all they name, as a file (docs/share.md). */
export async function shareWorkflows(use: Use, ids: readonly string[]): Promise<{ name: string; file: ShareFile }> {
  demand(use.actor, 'build');
  const { names, file } = await asShareFile(use, ids);
  await use.write(async (tx) => tx.note('workflow.share', ids[0]!, { workflows: ids }));
  return { name: fileName(names.length === 1 ? names[0]! : `${names.length} workflows`), file };
}

/** The same for whoever notes by itself what it takes out. */
export async function asShareFile(use: Use, ids: readonly string[]): Promise<{ names: string[]; file: ShareFile }> {
  const found = [];
  for (const id of ids) found.push(await findWorkflow(use, id));
  const file = await writeShare(
    found.map(({ name, folder, draft }) => ({ name, folder, sheet: draft })),
    stepKinds,
    (asked) => thingsHere(use, asked),
  );
  return { names: found.map(({ name }) => name), file };
}

const fileName = (name: string): string => `${name.replace(/[^\p{L}\p{N} ._-]+/gu, ' ').trim() || 'shared'}.json`;

/** Something by itself, with what it names: a source with its lead card, a template, a chat form. */
export async function shareThing(use: Use, id: string): Promise<{ name: string; file: ShareFile }> {
  demand(use.actor, 'build');
  const [thing] = z.uuid().safeParse(id).success ? await thingsHere(use, [id]) : [];
  if (!thing || thing.kind === 'colleague') throw notHere('thing');
  const file = await writeShare([], stepKinds, (asked) => thingsHere(use, asked), [id]);
  await use.write(async (tx) => tx.note('thing.share', id, { kind: thing.kind, name: thing.name }));
  return { name: fileName(thing.name), file };
}

/** Every workflow there is, as one file: to carry a whole set elsewhere, or to keep. */
export async function shareAll(use: Use): Promise<{ name: string; file: ShareFile }> {
  demand(use.actor, 'build');
  const { rows } = await use.db.query<{ id: string }>(
    `select id from workflow where business_id = $1 and removed_at is null order by folder, name limit ${MOST_WORKFLOWS + 1}`,
    [use.actor.businessId],
  );
  if (rows.length === 0) throw new Refusal(409, 'nothing-here', 'There is no workflow to share yet.');
  if (rows.length > MOST_WORKFLOWS)
    throw new Refusal(
      409,
      'too-many',
      `A file holds ${MOST_WORKFLOWS} workflows at most. Share the ones you need by themselves.`,
    );
  return shareWorkflows(
    use,
    rows.map(({ id }) => id),
  );
}
