import { useMemo } from 'react';
import type { SheetView } from '../../app/workflows/run-sheet.ts';
import { type PickableField, UNSAID } from '../../components/field-picker.ts';
import { isTouchGroup, TOUCH_KEYS } from '../../core/source/touches.ts';
import { type FieldReference, referenceLabel, writeReference } from '../../core/template/field-reference.ts';
import { atNames } from '../../core/workflow/at-names.ts';
import { type Definition, placedSteps, type Step } from '../../core/workflow/definition.ts';
import type { Plan } from '../../core/workflow/plan.ts';
import { LEAVE_PLACE, surroundingsOf, templateScope, withValues } from '../../core/workflow/run-context.ts';
import { catalogueNames } from '../../core/workflow/step-kind.ts';
import { planStep } from '../../steps/plan-step.ts';
import { stepKinds } from '../../steps/registry.ts';
import { rehearsedSteps, rehearse as rehearseSheet } from '../../steps/rehearse.ts';

/** The groups a sample has values of. */
const OF_THE_SAMPLE: FieldReference['group'][] = [
  ...([
    'lead',
    'answers',
    'own',
    'member',
    'where',
    'first_touch',
    'last_touch',
    'booking_touch',
    'business',
    'source',
    'owner',
  ] as const),
];
const HAPPENED = ['it', 'text', 'answer', 'url'];

/** A touch can be named whether the sample has one or not. */
const blanksOf = (group: FieldReference['group']): Record<string, string> =>
  isTouchGroup(group) ? Object.fromEntries(Object.keys(TOUCH_KEYS).map((key) => [key, ''])) : {};

/** What a sheet and its sample tell: names for everything it refers to, the fields there are, and what each step would do. */
export function useKnowledge(sheet: SheetView, draft: Definition, values: Record<string, string>, now: number) {
  const { sample, catalogue } = sheet;
  /** The sample, with what was changed to try something. */
  const context = useMemo(() => (sample ? withValues(sample.context, values) : null), [sample, values]);
  const given = useMemo(
    () =>
      placedSteps(draft).flatMap(({ step }) => {
        const kind = stepKinds.get(step.kind);
        const settings = kind?.settings.safeParse(step.settings);
        return settings?.success ? (kind!.gives?.(settings.data, catalogue) ?? []) : [];
      }),
    [draft, catalogue],
  );
  const labels = useMemo(() => {
    const named = new Map(Object.entries(sample?.labels ?? {}));
    for (const { key, label } of given) if (!named.has(key)) named.set(key, label);
    return named;
  }, [sample, given]);
  const names = useMemo(() => catalogueNames(catalogue, labels), [catalogue, labels]);
  const named = useMemo(() => atNames(draft, stepKinds, catalogue, labels), [draft, catalogue, labels]);
  const fields = useMemo<PickableField[]>(() => {
    if (!context) return [];
    const scope = templateScope(context);
    const setTo = (field: FieldReference) => values[writeReference(field)] ?? '';
    const known = OF_THE_SAMPLE.flatMap((group) =>
      Object.entries({ ...blanksOf(group), ...scope[group] }).map(([key, value]) => ({
        group,
        key,
        value: value === LEAVE_PLACE ? 'put in when it is sent' : (value ?? ''),
        label: referenceLabel({ group, key }, labels),
      })),
    );
    const later = given
      .map(({ group = 'found' as const, key, label }) => ({ group, key, value: setTo({ group, key }), label }))
      .filter((one) => !known.some((other) => other.group === one.group && other.key === one.key));
    const waits = draft.moments.some((moment) => moment.at.kind === 'event');
    const happened = (waits ? HAPPENED : []).map((key) => ({
      group: 'happened' as const,
      key,
      value: setTo({ group: 'happened', key }),
      label: referenceLabel({ group: 'happened', key }),
    }));
    return [...known, ...later, ...happened];
  }, [context, labels, given, draft.moments, values]);
  const lists = useMemo(
    () =>
      Object.entries(sample?.context.lists ?? {}).map(([key, rows]) => ({
        key,
        label: labels.get(key) ?? key,
        columns: Object.keys(rows[0] ?? {}),
      })),
    [sample, labels],
  );
  const surroundings = useMemo(() => (context ? surroundingsOf(context, now) : UNSAID), [context, now]);
  const plans = useMemo(() => {
    if (!context) return new Map<string, Plan>();
    // What is shown while typing has no times; a rehearsal has.
    const shown = rehearseSheet(draft, context, catalogue, {
      now,
      happens: true,
      justCameIn: true,
      zoneOf: () => null,
      values,
    });
    return new Map(rehearsedSteps(shown).map((rehearsed) => [rehearsed.stepId, rehearsed.plan]));
  }, [draft, context, catalogue, now, values]);
  const sampleName = tidied(plans, context?.person.first_name ?? '') || 'the lead';
  /** What a version B would be for the sample; what steps before it change is left out. */
  const planOf = (step: Step): Plan | null => (context ? planStep(step, context, catalogue, now) : null);
  return { labels, names, named, fields, lists, plans, planOf, sampleName, surroundings };
}

/** The sample's first name as it is after First. */
function tidied(plans: ReadonlyMap<string, Plan>, typed: string): string {
  let name = typed;
  for (const plan of plans.values())
    if (plan.does === 'change') name = plan.changes.find((change) => change.field === 'first_name')?.after ?? name;
  return name;
}
