import { z } from 'zod';
import { fieldValue } from '../../core/workflow/run-context.ts';
import type { Catalogue, PlanInput, StepKind } from '../../core/workflow/step-kind.ts';

const Settings = z.object({
  /** By turn, or by what a field says. */
  by: z.enum(['turn', 'field']).default('turn'),
  /** Colleagues in the order they take turns; by field, those who take turns when no value fits. */
  among: z.array(z.string().max(60)).max(50),
  /** Reference of the field, and who gets which of its values. */
  field: z.string().max(200).default(''),
  owners: z
    .array(z.object({ value: z.string().max(200), colleague: z.string().max(60) }))
    .max(50)
    .default([]),
  /** Somebody who has an owner keeps them. */
  keep: z.boolean(),
});
export type AssignSettings = z.infer<typeof Settings>;
export type AssignDone = { owner: string };

const plain = (text: string) => text.trim().toLocaleLowerCase('en');
const nameOf = (id: string, catalogue: Catalogue) =>
  catalogue.colleagues.find((colleague) => colleague.id === id)?.name ?? null;
const namesOf = (ids: readonly string[], catalogue: Catalogue) => ids.flatMap((id) => nameOf(id, catalogue) ?? []);

/** Who a field names; null when it names nobody who is here. */
function byField({ field, owners }: AssignSettings, { context, catalogue }: PlanInput): string | null {
  const said = plain(fieldValue(context, field) ?? '');
  const found = owners.find((owner) => plain(owner.value) !== '' && plain(owner.value) === said)?.colleague ?? null;
  return found !== null && nameOf(found, catalogue) !== null ? found : null;
}

/** Gives the lead an owner: whom a field names, or the next in turn who is not away. */
export const assign: StepKind<AssignSettings> = {
  kind: 'assign',
  label: 'Assign an owner',
  icon: 'user-check',
  places: ['first'],
  settings: Settings,
  blank: () => ({ by: 'turn', among: [], field: '', owners: [], keep: true }),
  card: ({ by, among, owners }, catalogue) => {
    const names =
      by === 'field'
        ? namesOf(
            owners.map((owner) => owner.colleague),
            catalogue,
          )
        : namesOf(among, catalogue);
    if (names.length === 0) return { title: 'Assign an owner', line: '' };
    if (by === 'field') return { title: 'Owner by field', line: [...new Set(names)].join(', ') };
    return { title: names.length === 1 ? `Owner: ${names[0]}` : `Owner: ${names.length} in turn`, line: '' };
  },
  aloud: ({ by, among, owners }, catalogue) => {
    if (by === 'field')
      return `give them to ${owners.map((owner) => `${nameOf(owner.colleague, catalogue) ?? 'somebody'} for ${owner.value}`).join(', ') || 'somebody'}`;
    const names = namesOf(among, catalogue);
    return `give them to ${names.length > 1 ? `${names.join(', ')} in turn` : (names[0] ?? 'somebody')}`;
  },
  check: ({ by, among, field, owners }, { catalogue }) => {
    const out: ReturnType<StepKind['check']> = [];
    if (by === 'turn' && among.length === 0)
      out.push({ weight: 'must', code: 'empty', text: 'Assign: choose who takes turns.', field: 'among' });
    if (by === 'field' && (field === '' || owners.length === 0))
      out.push({
        weight: 'must',
        code: 'empty',
        text: 'Assign: choose the field and who gets which value.',
        field: 'owners',
      });
    const named = [...among, ...(by === 'field' ? owners.map((owner) => owner.colleague) : [])];
    if (named.some((id) => nameOf(id, catalogue) === null))
      out.push({
        weight: 'look',
        code: 'gone',
        text: 'Assign: somebody on the list is no longer here.',
        field: 'among',
      });
    return out;
  },
  templates: () => [],
  gives: () => [],
  turn: (settings, input) => {
    // Somebody who keeps their owner, or whose field names one, takes nobody's turn away.
    const settled =
      (settings.keep && input.context.owner !== null) || (settings.by === 'field' && byField(settings, input) !== null);
    return settled || settings.among.length === 0 ? null : settings.among;
  },
  plan: (settings, input) => {
    const { context, catalogue, turn } = input;
    if (settings.keep && context.owner)
      return { does: 'nothing', why: { code: 'empty', text: `Stays with ${context.owner.name}` } };
    const named = settings.by === 'field' ? byField(settings, input) : null;
    const owner = named ?? (turn !== null && nameOf(turn, catalogue) !== null ? turn : null);
    if (owner)
      return { does: 'record', words: `Owner: ${nameOf(owner, catalogue)}`, what: { owner } satisfies AssignDone };
    const names = namesOf(settings.among, catalogue);
    if (names.length > 0)
      // A rehearsal: whose turn it will be is not known yet.
      return { does: 'record', words: `Owner: the next in turn of ${names.join(', ')}`, what: { owner: '' } };
    if (settings.by === 'field' && settings.among.length === 0)
      return { does: 'nothing', why: { code: 'empty', text: 'No owner: the field names none of them' } };
    return { does: 'ask', why: { code: 'gone', text: 'Nobody on the list is here any more' } };
  },
};
