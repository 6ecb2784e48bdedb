import { readReference } from '../core/template/field-reference.ts';
import type { FieldSet } from '../core/workflow/plan.ts';
import type { RunContext } from '../core/workflow/run-context.ts';
import type { Catalogue } from '../core/workflow/step-kind.ts';

/** The context after fields were given a value by a step. */
export function applyFields(context: RunContext, fields: readonly FieldSet[], catalogue: Catalogue): RunContext {
  let after = context;
  for (const { reference, value } of fields) {
    if (reference.startsWith('tag.')) {
      const rest = after.tags.filter((id) => id !== reference.slice(4));
      after = { ...after, tags: value === '' ? rest : [...rest, reference.slice(4)] };
      continue;
    }
    if (reference.startsWith('list.')) {
      const rest = after.memberOf.filter((id) => id !== reference.slice(5));
      after = { ...after, memberOf: value === '' ? rest : [...rest, reference.slice(5)] };
      continue;
    }
    const read = readReference(reference);
    if (read?.group === 'answers') after = { ...after, answers: { ...after.answers, [read.key]: value } };
    else if (read?.group === 'own') after = { ...after, own: { ...after.own, [read.key]: value } };
    else if (read?.group === 'found') after = { ...after, found: { ...after.found, [read.key]: value } };
    else if (read?.group === 'lead' && Object.hasOwn(after.person, read.key))
      after = { ...after, person: { ...after.person, [read.key]: value } };
    else if (reference === 'owner.id')
      after = { ...after, owner: catalogue.colleagues.find((colleague) => colleague.id === value) ?? after.owner };
  }
  return after;
}
