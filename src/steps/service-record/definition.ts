import { z } from 'zod';
import { renderTemplate } from '../../core/template/template.ts';
import { machineScope } from '../../core/workflow/run-context.ts';
import type { Catalogue, StepKind } from '../../core/workflow/step-kind.ts';

const Settings = z.object({
  connection: z.string().max(60),
  /** Which kind of record of the service: a key of its description. */
  record: z.string().max(60),
  /** What each of its fields is filled with, by key: templates. */
  values: z.record(z.string().max(60), z.string().max(5000)),
});
export type ServiceRecordSettings = z.infer<typeof Settings>;
/** What goes on record, and where. */
export interface RecordElsewhere {
  connectionId: string;
  record: string;
  given: Record<string, string>;
}

export const serviceOf = (catalogue: Catalogue, id: string) => catalogue.services?.find((one) => one.id === id);
const recordOf = (catalogue: Catalogue, { connection, record }: ServiceRecordSettings) =>
  serviceOf(catalogue, connection)?.records.find(({ key }) => key === record);

/** Puts a lead on record at a service of the business's own: made the first time, brought up to date the second. */
export const serviceRecord: StepKind<ServiceRecordSettings> = {
  kind: 'service-record',
  label: 'Put on record elsewhere',
  icon: 'database',
  places: ['record'],
  settings: Settings,
  blank: () => ({ connection: '', record: '', values: {} }),
  card: (settings, catalogue) => {
    const service = serviceOf(catalogue, settings.connection);
    const record = recordOf(catalogue, settings);
    return { title: record ? `${record.label} in ${service!.name}` : 'Put on record elsewhere', line: '' };
  },
  aloud: (settings, catalogue) => {
    const record = recordOf(catalogue, settings);
    return record
      ? `put them on record as ${record.label.toLowerCase()} in ${serviceOf(catalogue, settings.connection)!.name}`
      : 'put them on record elsewhere';
  },
  check: (settings, { catalogue }) => {
    const must = (code: string, text: string, field: string) => ({ weight: 'must' as const, code, text, field });
    if (settings.connection === '') return [must('empty', 'On record elsewhere: choose the service.', 'connection')];
    if (!serviceOf(catalogue, settings.connection))
      return [must('gone', 'On record elsewhere: the service is no longer connected.', 'connection')];
    const record = recordOf(catalogue, settings);
    if (!record) return [must('gone', 'On record elsewhere: choose what is put on record.', 'record')];
    const out = record.takes
      .filter(({ key, needed }) => needed && !settings.values[key]?.trim())
      .map(({ key, label }) => must('empty', `On record elsewhere: say what goes into “${label}”.`, `values.${key}`));
    if (out.length === 0 && Object.values(settings.values).every((value) => value.trim() === ''))
      out.push(must('empty', 'On record elsewhere: say what goes into its fields.', 'values'));
    return out;
  },
  templates: ({ values }) => Object.entries(values).map(([key, source]) => ({ field: `values.${key}`, source })),
  plan: (settings, { context, catalogue, now }) => {
    const record = recordOf(catalogue, settings);
    if (!record) return { does: 'ask', why: { code: 'gone', text: 'The service of this step is no longer connected' } };
    const scope = machineScope(context, now);
    const given: Record<string, string> = {};
    for (const { key, label, needed } of record.takes) {
      const rendered = renderTemplate(settings.values[key] ?? '', scope);
      if (!rendered.ok) return { does: 'ask', why: { code: 'template', text: rendered.problem.text } };
      given[key] = rendered.text.trim();
      if (needed && given[key] === '')
        return { does: 'nothing', why: { code: 'empty', text: `There is nothing to go into “${label}”` } };
    }
    const filled = record.takes.filter(({ key }) => given[key] !== '');
    return {
      does: 'call',
      words: `${record.label} in ${serviceOf(catalogue, settings.connection)!.name}: ${filled.map(({ key, label }) => `${label} ${given[key]}`).join(', ')}`,
      what: { connectionId: settings.connection, record: settings.record, given } satisfies RecordElsewhere,
    };
  },
};
