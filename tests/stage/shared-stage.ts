import { openStage, type Stage, signedIn } from './stage.ts';

interface Shared {
  stage: Stage;
  oona: Awaited<ReturnType<typeof signedIn>>;
}
// On globalThis: the test runner may load this file a second time for its hooks.
const held = globalThis as { pineBellShared?: Map<boolean, Promise<Shared>> };

/**
 * One running application for every file whose tests keep to people, lists and workflows of their own: bringing it up takes longer
 * than most of them. One more with two weeks of made-up history, for those who look at much. Closed when all tests are over.
 */
export function sharedStage({ history = false } = {}): Promise<Shared> {
  held.pineBellShared ??= new Map();
  let shared = held.pineBellShared.get(history);
  if (!shared) {
    shared = (async () => {
      const stage = await openStage({ history });
      return { stage, oona: await signedIn(stage) };
    })();
    held.pineBellShared.set(history, shared);
  }
  return shared;
}

export const closeSharedStage = async (): Promise<void> => {
  for (const shared of held.pineBellShared?.values() ?? []) await (await shared).stage.close();
};
