import type { ShareFile } from '../../core/share/share-file.ts';
import { writeShare } from '../../core/share/write-share.ts';
import { stepKinds } from '../../steps/registry.ts';
import { demand } from '../actor.ts';
import type { Use } from '../use.ts';
import { findWorkflow } from '../workflows/workflows.ts';
import { thingsHere } from './things-here.ts';

/** Workflows as they stand drafted, with all they name, as a file (docs/share.md). */
export async function shareWorkflows(use: Use, ids: readonly string[]): Promise<{ name: string; file: ShareFile }> {
  demand(use.actor, 'coordinator');
  const found = [];
  for (const id of ids) found.push(await findWorkflow(use, id));
  const file = await writeShare(
    found.map(({ name, folder, draft }) => ({ name, folder, sheet: draft })),
    stepKinds,
    (asked) => thingsHere(use, asked),
  );
  await use.write(async (tx) => tx.note('workflow.share', ids[0]!, { workflows: ids }));
  const name = found.length === 1 ? found[0]!.name : `${found.length} workflows`;
  return { name: `${name.replace(/[^\p{L}\p{N} ._-]+/gu, ' ').trim() || 'workflow'}.json`, file };
}
