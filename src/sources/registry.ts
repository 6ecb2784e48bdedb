import type { SourceKind } from '../core/source/source-kind.ts';
import { adForm } from './ad-form/definition.ts';
import { webhook } from './webhook/definition.ts';

/** Every kind of lead source, by its name. A new kind is one folder and one line here. */
export const sourceKinds: ReadonlyMap<string, SourceKind> = new Map(
  [adForm, webhook].map((kind) => [kind.kind, kind as unknown as SourceKind]),
);
