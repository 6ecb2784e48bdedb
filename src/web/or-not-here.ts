import { Refusal } from '../app/actor.ts';

/** The value, or the refusal when what a page is about is not here. */
export async function orNotHere<T>(work: Promise<T>): Promise<T | Refusal> {
  try {
    return await work;
  } catch (error) {
    if (error instanceof Refusal && error.status === 404) return error;
    throw error;
  }
}
