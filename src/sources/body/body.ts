import type { SourceProblem } from '../../core/source/source-kind.ts';

/** A body as a value, or why it is none. */
export type Body = { ok: true; value: unknown } | SourceProblem;
