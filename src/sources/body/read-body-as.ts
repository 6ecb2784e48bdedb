import type { z } from 'zod';
import { readAs } from '../../core/read-as.ts';
import type { RawArrival, SourceProblem } from '../../core/source/source-kind.ts';
import { readBody } from './read-body.ts';
import { shapeProblem } from './shape-problem.ts';

/** Reads a body as what has been agreed; `what` names it where it is not: "what a shop sends". */
export async function readBodyAs<Schema extends z.ZodType>(
  raw: RawArrival,
  schema: Schema,
  what: string,
): Promise<{ ok: true; data: z.infer<Schema> } | SourceProblem> {
  const body = await readBody(raw);
  if (!body.ok) return body;
  const read = readAs(schema, body.value);
  return read.success ? { ok: true, data: read.data } : shapeProblem(what, read.error);
}
