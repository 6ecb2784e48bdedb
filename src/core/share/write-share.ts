import type { Definition } from '../workflow/definition.ts';
import { placedSteps } from '../workflow/definition.ts';
import type { StepKind } from '../workflow/step-kind.ts';
import { columnPlaceOf, placeOf, SHARE_VERSION, type SharedThing, type ShareFile } from './share-file.ts';
import { idsIn, isColumnId, swapIds } from './swap-ids.ts';

/** A workflow as it is shared from, ids as they are here. */
export interface SharedWorkflow {
  name: string;
  folder: string;
  sheet: Definition;
}

/**
 * The file of some workflows. `things` gives what stands behind ids, as it is here: things that can be made again with their contents, whose own ids
 * are followed too. What nothing stands behind was gone already. `alone` are ids of things that are shared though no workflow names them. Two calls with
 * the same give the same file.
 */
export async function writeShare(
  workflows: readonly SharedWorkflow[],
  kinds: ReadonlyMap<string, StepKind>,
  things: (ids: readonly string[]) => Promise<SharedThing[]>,
  alone: readonly string[] = [],
): Promise<ShareFile> {
  const shown = workflows.map((workflow) => ({ ...workflow, sheet: withoutSecrets(workflow.sheet, kinds) }));
  const found = new Map<string, SharedThing>();
  const asked = new Set<string>();
  for (let ids = [...new Set([...alone, ...idsIn(shown)])]; ids.length > 0; ) {
    for (const id of ids) asked.add(id);
    const more = await things(ids);
    for (const one of more) {
      found.set(one.id, one);
      for (const id of ownIds(one)) asked.add(id);
    }
    ids = idsIn(more).filter((id) => !asked.has(id));
  }
  const known = new Set([...found.values()].flatMap(ownIds));
  const places = new Map<string, string>();
  let [n, columns] = [0, 0];
  for (const id of [...alone, ...idsIn(shown), ...idsIn([...found.values()])])
    if (!places.has(id) && (known.has(id) || !isColumnId(id)))
      places.set(id, isColumnId(id) ? columnPlaceOf(++columns) : placeOf(++n));
  const gone = [...places]
    .filter(([id]) => !known.has(id))
    .map(([, place]) => ({ id: place, kind: 'gone' as const, name: 'Something that was gone' }));
  const to = (id: string) => places.get(id) ?? null;
  return {
    pineBell: 'share',
    version: SHARE_VERSION,
    things: [...[...found.values()].map((one) => swapIds(one, to)), ...gone],
    workflows: shown.map((workflow) => swapIds(workflow, to)),
  };
}

/** Its own id, and those of what it is made of. */
const ownIds = (one: SharedThing): string[] => [
  one.id,
  ...(one.kind === 'pipeline' ? one.stages.map((stage) => stage.id) : []),
  ...(one.kind === 'tab' ? one.columns.map((column) => column.id) : []),
];

/** Steps as they may be given away: what only this business may know is left out by their kinds. */
function withoutSecrets(sheet: Definition, kinds: ReadonlyMap<string, StepKind>): Definition {
  const copy = structuredClone(sheet);
  for (const { step } of placedSteps(copy)) {
    const kind = kinds.get(step.kind);
    const read = kind?.settings.safeParse(step.settings);
    if (kind?.shared && read?.success) step.settings = kind.shared(read.data) as Record<string, unknown>;
  }
  return copy;
}
