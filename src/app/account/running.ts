import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';
import { demand } from '../actor.ts';
import type { Use } from '../use.ts';

const Incident = z.object({ at: z.string(), what: z.string(), more: z.string() });
const PARTS: Record<string, string> = {
  web: 'What answers people and services',
  worker: 'What does the work',
  postgres: 'The database',
  practice: 'The practice desk',
};

export interface Incident {
  at: string;
  /** "The database". */
  what: string;
  /** "ended and is started again". */
  more: string;
}

/** What went wrong with the installation and was mended, the newest first; written by whoever started it. For owners. */
export async function incidents(use: Use): Promise<Incident[]> {
  demand(use.actor, 'manage');
  const text = await readFile(join(use.runtime.settings.dataFolder, 'incidents.jsonl'), 'utf8').catch(() => '');
  return text
    .split('\n')
    .filter(Boolean)
    .flatMap((line) => {
      try {
        const read = Incident.safeParse(JSON.parse(line));
        return read.success ? [{ ...read.data, what: PARTS[read.data.what] ?? read.data.what }] : [];
      } catch {
        // Half a line, of a disk that was full.
        return [];
      }
    })
    .reverse();
}
