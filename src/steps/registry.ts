import type { StepKind } from '../core/workflow/step-kind.ts';
import { email } from './email/definition.ts';
import { tell } from './tell/definition.ts';
import { text } from './text/definition.ts';
import { tidy } from './tidy/definition.ts';

/** Every kind of step, by its name in a definition. A new kind is one folder and one line here. */
export const stepKinds: ReadonlyMap<string, StepKind> = new Map(
  [tidy, text, email, tell].map((kind) => [kind.kind, kind as unknown as StepKind]),
);
