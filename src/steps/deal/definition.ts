import { z } from 'zod';
import { readNumber } from '../../core/fields/read-number.ts';
import { renderTemplate } from '../../core/template/template.ts';
import { machineScope } from '../../core/workflow/run-context.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';

const Settings = z.object({
  /** The stage it is put in, by id; its pipeline comes with it. */
  stage: z.string().max(60),
  title: z.string().max(300),
  /** A template; empty to leave the value as it is. */
  value: z.string().max(300),
});
export type DealSettings = z.infer<typeof Settings>;
export type DealDone = { stage: string; title: string; value: string | null };

/** Opens a deal for the lead, or moves the open one: there is one open deal per person and pipeline. */
export const deal: StepKind<DealSettings> = {
  kind: 'deal',
  label: 'Deal in the pipeline',
  icon: 'handshake',
  places: ['record'],
  settings: Settings,
  blank: () => ({ stage: '', title: '{{ lead.full_name }}', value: '' }),
  card: ({ stage, title }, catalogue) => {
    const found = catalogue.stages.find((one) => one.id === stage);
    return { title: found ? `Deal to ${found.name}` : 'Deal in the pipeline', line: found ? title : '' };
  },
  aloud: ({ stage }, catalogue) =>
    `put their deal in ${catalogue.stages.find((one) => one.id === stage)?.name ?? 'the pipeline'}`,
  check: ({ stage }, { catalogue }) =>
    stage === ''
      ? [{ weight: 'must', code: 'empty', text: 'Deal: choose the stage.', field: 'stage' }]
      : catalogue.stages.some((one) => one.id === stage)
        ? []
        : [{ weight: 'must', code: 'gone', text: 'Deal: the stage chosen is no longer there.', field: 'stage' }],
  templates: ({ title, value }) => [
    { field: 'title', source: title },
    { field: 'value', source: value },
  ],
  plan: ({ stage, title, value }, { context, catalogue, now }) => {
    const found = catalogue.stages.find((one) => one.id === stage);
    if (!found) return { does: 'ask', why: { code: 'gone', text: 'The stage of this step is no longer there' } };
    const scope = machineScope(context, now);
    const named = renderTemplate(title, scope);
    const worth = renderTemplate(value, scope);
    if (!named.ok) return { does: 'ask', why: { code: 'template', text: named.problem.text } };
    if (!worth.ok) return { does: 'ask', why: { code: 'template', text: worth.problem.text } };
    const amount = readNumber(worth.text);
    const what: DealDone = {
      stage,
      title: named.text.trim().slice(0, 300) || 'A deal',
      value: amount === null ? null : amount.toFixed(2),
    };
    return { does: 'record', words: `${what.title} to ${found.name}${what.value ? `, ${what.value}` : ''}`, what };
  },
};
