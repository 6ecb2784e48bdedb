import { openStage, type Stage, signedIn } from './stage.ts';

interface Shared {
  stage: Stage;
  oona: Awaited<ReturnType<typeof signedIn>>;
}
// On globalThis: the test runner may load this file a second time for its hooks.
const held = globalThis as { pineBellShared?: Promise<Shared> };

/**
 * One running application for every file whose tests keep to people, lists and workflows of their own: bringing it up takes longer
 * than most of them. It is closed when all tests are over.
 */
export function sharedStage(): Promise<Shared> {
  held.pineBellShared ??= (async () => {
    const stage = await openStage();
    return { stage, oona: await signedIn(stage) };
  })();
  return held.pineBellShared;
}

export const closeSharedStage = async (): Promise<void> => {
  await (await held.pineBellShared)?.stage.close();
};
