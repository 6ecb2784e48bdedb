import type { z } from 'zod';
import type { SourceProblem } from '../../core/source/source-kind.ts';

/** Says which part of a body is not as agreed: "This is not a form entry: entry.id is missing". */
export function shapeProblem(what: string, error: z.ZodError): SourceProblem {
  const issue = error.issues[0];
  return {
    ok: false,
    code: 'shape',
    problem: `This is not ${what}: ${issue?.path.join('.') || 'the body'} ${issue?.message ?? ''}`.trim(),
  };
}
