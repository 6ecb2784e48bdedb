import { Pull } from '../../db/entities/source.ts';
import type { Use } from '../use.ts';

/** A source that is fetched from is asked with the next look, and not only when its time has come. */
export async function fetchSoon(use: Use, sourceId: string): Promise<void> {
  const pull = await use.em.findOne(Pull, { source: sourceId });
  if (pull) pull.nextAt = new Date();
}
