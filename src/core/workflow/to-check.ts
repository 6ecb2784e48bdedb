import { readAs } from '../read-as.ts';
import { isTouchGroup, TOUCH_GROUPS, TOUCH_KEYS } from '../source/touches.ts';
import { WHERE_KEYS } from '../source/where-from.ts';
import { type FieldReference, GROUP_LABELS, referenceLabel } from '../template/field-reference.ts';
import { meantField } from '../template/meant-field.ts';
import { headOf, namesNothing, referencesOf, templatePieces, templateProblem } from '../template/template.ts';
import { type Definition, placedSteps } from './definition.ts';
import type { Finding } from './finding.ts';
import { momentFindings, type SheetCheckInput } from './moment-findings.ts';
import { templateScope } from './run-context.ts';
import { memberLabels, type StepKind } from './step-kind.ts';
import { versionsOf } from './trial.ts';

/** The running list of what would go wrong, in reading order. */
export function toCheck(
  definition: Definition,
  kinds: ReadonlyMap<string, StepKind>,
  input: SheetCheckInput,
): Finding[] {
  const findings: Finding[] = [];
  const add = (finding: Finding) => findings.push(finding);
  const listened = input.sources.filter((source) => definition.sources.includes(source.id));
  if (listened.length === 0)
    add({
      weight: 'must',
      code: 'no-source',
      text: 'No source yet: nothing will ring in.',
      place: { stepId: null, field: 'sources' },
    });
  for (const source of listened)
    if (source.state === 'paused')
      add({
        weight: 'look',
        code: 'source-paused',
        text: `The source "${source.name}" is paused.`,
        place: { stepId: null, field: 'sources' },
      });
  if (listened.length > 0 && !input.sample)
    add({
      weight: 'look',
      code: 'no-sample',
      text: 'No sample lead yet: fill in the form once to catch one.',
      place: { stepId: null, field: 'sample' },
    });

  const placed = placedSteps(definition);
  if (!placed.some(({ step, place }) => step.on && place !== 'first'))
    add({
      weight: 'must',
      code: 'nothing-happens',
      text: 'Nothing happens yet: add a step to a lane.',
      place: { stepId: null, field: 'sheet' },
    });

  // What steps find and ask, what will have happened, and the items of a list are not known of a sample.
  const given = new Set(
    placed.flatMap(({ step }) => {
      const kind = kinds.get(step.kind);
      const settings = kind && readAs(kind.settings, step.settings);
      return settings?.success
        ? (kind!.gives?.(settings.data, input.catalogue) ?? []).map((given) => `${given.group ?? 'found'}.${given.key}`)
        : [];
    }),
  );
  const scope = input.sample ? (templateScope(input.sample) as Record<string, Record<string, string>>) : null;
  const fields: FieldsThereAre = { scope, given, member: new Set(memberLabels(input.catalogue.lists).keys()) };
  const comesLater = ({ group, key }: FieldReference) =>
    LATER.has(group) || group === 'owner' || given.has(`${group}.${key}`);

  for (const finding of momentFindings(definition, input, comesLater)) add(finding);

  for (const { step, moment } of placed) {
    if (!step.on) continue;
    const kind = kinds.get(step.kind);
    if (!kind) {
      add({
        weight: 'must',
        code: 'unknown-kind',
        text: `This copy of Pine Bell does not know steps of the kind "${step.kind}".`,
        place: { stepId: step.id, field: null },
      });
      continue;
    }
    const settings = readAs(kind.settings, step.settings);
    if (!settings.success) {
      const issue = settings.error.issues[0];
      const field = String(issue?.path[0] ?? '');
      add({
        weight: 'must',
        code: 'settings',
        text: `${kind.label}: ${issue?.message ?? 'something is missing'}.`,
        place: { stepId: step.id, field: field || null },
      });
      continue;
    }
    for (const [i, { settings: own }] of versionsOf(step).entries()) {
      const version = i === 0 ? settings : readAs(kind.settings, own);
      const inB = (text: string) => (i === 0 ? text : `Version B. ${text}`);
      if (!version.success) {
        const text = inB(`${kind.label}: ${version.error.issues[0]?.message ?? 'something is missing'}.`);
        add({ weight: 'must', code: 'settings', text, place: { stepId: step.id, field: null } });
        continue;
      }
      const found = kind.check(version.data, { ...input, onArrival: moment === definition.moments[0] });
      // What both versions have is said once.
      for (const { field, text, ...finding } of found)
        if (i === 0 || !findings.some((one) => one.text === text && one.place.stepId === step.id))
          add({ ...finding, text: inB(text), place: { stepId: step.id, field: field ?? null } });
      for (const { field, source } of kind.templates(version.data)) {
        const problem = templateProblem(source);
        const place = { stepId: step.id, field };
        if (problem) add({ weight: 'must', code: 'template', text: inB(problem.text), place });
        for (const finding of fieldFindings(source, fields, kind.label)) add({ ...finding, place });
      }
    }
    if (
      step.trial &&
      versionsOf(step).every(({ settings: own }) => JSON.stringify(own) === JSON.stringify(step.settings))
    )
      add({
        ...{ weight: 'must', code: 'same-versions', place: { stepId: step.id, field: null } },
        text: `${kind.label}: both versions are the same. Change version B, or end the trial.`,
      });
  }
  if (placed.length > 0 && listened.length > 0 && !input.triedSinceChange)
    add({
      weight: 'look',
      code: 'not-tried',
      text: 'Not tried since the last change: rehearse it, or send one to yourself.',
      place: { stepId: null, field: 'sheet' },
    });
  return findings;
}

interface FieldsThereAre {
  /** The sample's values, by group and key; null without a sample. */
  scope: Record<string, Record<string, string>> | null;
  /** "found.x", "answers.y": what steps of the sheet give. */
  given: ReadonlySet<string>;
  /** Fields of lists, by "list id.key". */
  member: ReadonlySet<string>;
}

/** Groups whose fields are the same for every sheet; the others depend on source, steps and lists. */
const FIXED: Partial<Record<FieldReference['group'], readonly string[]>> = {
  lead: ['first_name', 'last_name', 'full_name', 'email', 'phone', 'leave_link'],
  business: ['name'],
  source: ['name'],
  owner: ['name', 'email'],
  where: Object.keys(WHERE_KEYS),
  ...Object.fromEntries(TOUCH_GROUPS.map((group) => [group, Object.keys(TOUCH_KEYS)])),
  record: [],
};

/** Fields a template names that do not exist, or that the sample lacks. */
function fieldFindings(source: string, there: FieldsThereAre, label: string): Omit<Finding, 'place'>[] {
  const { scope, given, member } = there;
  const known: FieldReference[] = [
    ...Object.entries(FIXED).flatMap(([group, keys]) =>
      keys.map((key) => ({ group: group as FieldReference['group'], key })),
    ),
    ...(['answers', 'own'] as const).flatMap((group) =>
      Object.keys(scope?.[group] ?? {}).map((key) => ({ group, key })),
    ),
    ...[...given].map((one) => ({
      group: one.slice(0, one.indexOf('.')) as FieldReference['group'],
      key: one.slice(one.indexOf('.') + 1),
    })),
  ];
  const found = new Map<string, Omit<Finding, 'place'>>();
  const missing = (weight: Finding['weight'], typed: string, text: string) => {
    const meant = meantField(typed, known);
    // The name of a field of a touch says already which touch.
    const group = meant && !isTouchGroup(meant.group) ? `${GROUP_LABELS[meant.group]}: ` : '';
    const did = meant ? ` Did you mean ${group}${referenceLabel(meant)}?` : '';
    found.set(typed, {
      weight,
      code: weight === 'must' ? 'no-such-field' : 'field-lacking',
      text: `${label}: ${text}${did}`,
    });
  };
  const lacking = (reference: FieldReference, typed: string) => {
    const { group, key } = reference;
    if (given.has(`${group}.${key}`) || LATER.has(group)) return;
    const fixed = FIXED[group];
    if (fixed ? !fixed.includes(key) : group === 'member' ? !member.has(key) : group === 'found')
      missing(
        'must',
        typed,
        group === 'found'
          ? `no step of this sheet finds “${referenceLabel(reference)}”, so it would be empty.`
          : `there is no field “${typed.slice(0, 60)}”, so nothing would stand in its place.`,
      );
    else if (!fixed && group !== 'member' && scope && scope[group]?.[key] === undefined)
      missing('look', typed, `the sample lead has no field "${referenceLabel(reference)}", so it would be left empty.`);
  };
  for (const piece of templatePieces(source)) {
    if (piece.kind !== 'field') continue;
    const typed = headOf(piece.source);
    if (namesNothing(piece)) {
      missing('must', typed, `there is no field “${typed.slice(0, 60)}”, so nothing would stand in its place.`);
      continue;
    }
    for (const { name, args } of piece.filters)
      for (const arg of args)
        if ('unknown' in arg)
          missing(
            'must',
            arg.unknown,
            `“${arg.unknown.slice(0, 60)}” behind “${name}” is neither a field nor a text in quotation marks.`,
          );
    for (const reference of referencesOf(piece)) lacking(reference, typed);
  }
  return [...found.values()];
}

/** Known only once it has happened. */
const LATER = new Set<string>(['happened', 'item']);
