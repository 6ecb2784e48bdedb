import { type Refusal, refusalOf } from '../app/refusal.ts';

/** The value, or the refusal when what a page is about is not here. */
export async function orNotHere<T>(work: Promise<T>): Promise<T | Refusal> {
  try {
    return await work;
  } catch (error) {
    const refusal = refusalOf(error);
    if (refusal?.status === 404) return refusal;
    throw error;
  }
}
