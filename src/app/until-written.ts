import { Refusal } from './refusal.ts';

/**
 * Writes a version until it is written: between looking at the newest and writing, somebody else may have begun the next or sent
 * this one off. `write` looks anew each time and gives how many rows it wrote.
 */
export async function untilWritten(write: () => Promise<{ rowCount: number | null }>): Promise<void> {
  for (let tries = 0; tries < 5; tries++) if ((await write()).rowCount) return;
  throw new Refusal(
    409,
    'changed',
    'Others are saving this at the same moment. Nothing was changed; save it once more.',
  );
}

/** What the network was handed is no longer what stands here. */
export const changedMeanwhile = (): Refusal =>
  new Refusal(
    409,
    'changed',
    'It was changed while it was on its way to the network. Look at it, and send it once more.',
  );
