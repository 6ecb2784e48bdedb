import { z } from 'zod';
import { renderTemplate } from '../../core/template/template.ts';
import { machineScope } from '../../core/workflow/run-context.ts';
import type { Catalogue, StepKind } from '../../core/workflow/step-kind.ts';
import { wordOf } from '../kept-key.ts';
import { serviceOf } from '../service-record/definition.ts';

const Settings = z.object({
  /** By which what it answers is known to later steps. */
  name: z.string().max(40),
  /** What its fields are called by: made once and kept when the name changes. */
  key: z.string().max(60),
  connection: z.string().max(60),
  /** Which look-up of the service: a key of its description. */
  lookUp: z.string().max(60),
  values: z.record(z.string().max(60), z.string().max(1000)),
  whenNone: z.enum(['blanks', 'end_moment', 'end_run']),
});
export type ServiceLookUpSettings = z.infer<typeof Settings>;
export interface AskedElsewhere {
  connectionId: string;
  lookUp: string;
  given: Record<string, string>;
  prefix: string;
}

const prefixOf = ({ key, name }: Pick<ServiceLookUpSettings, 'key' | 'name'>) => key || wordOf(name) || 'service';
const lookUpOf = (catalogue: Catalogue, { connection, lookUp }: ServiceLookUpSettings) =>
  serviceOf(catalogue, connection)?.lookUps.find(({ key }) => key === lookUp);

/** Asks a service of the business's own something about the lead; what it says becomes fields for the steps after it. */
export const serviceLookUp: StepKind<ServiceLookUpSettings> = {
  kind: 'service-look-up',
  label: 'Ask a service',
  icon: 'database',
  places: ['first'],
  settings: Settings,
  blank: () => ({ name: '', key: '', connection: '', lookUp: '', values: {}, whenNone: 'blanks' }),
  card: (settings, catalogue) => {
    const found = lookUpOf(catalogue, settings);
    return {
      title: found ? `${found.label}: ask ${serviceOf(catalogue, settings.connection)!.name}` : 'Ask a service',
      line: '',
    };
  },
  aloud: (settings, catalogue) => {
    const found = lookUpOf(catalogue, settings);
    return found
      ? `ask ${serviceOf(catalogue, settings.connection)!.name} for their ${found.label.toLowerCase()}`
      : 'ask a service';
  },
  check: (settings, { catalogue }) => {
    const must = (code: string, text: string, field: string) => ({ weight: 'must' as const, code, text, field });
    if (settings.connection === '') return [must('empty', 'Ask a service: choose the service.', 'connection')];
    if (!serviceOf(catalogue, settings.connection))
      return [must('gone', 'Ask a service: the service is no longer connected.', 'connection')];
    const found = lookUpOf(catalogue, settings);
    if (!found) return [must('gone', 'Ask a service: choose what it is asked.', 'lookUp')];
    const out = found.takes
      .filter(({ key }) => !settings.values[key]?.trim())
      .map(({ key, label }) => must('empty', `Ask a service: say what it is asked by (${label}).`, `values.${key}`));
    if (settings.name.trim() === '') out.push(must('empty', 'Ask a service: give what it answers a name.', 'name'));
    return out;
  },
  templates: ({ values }) => Object.entries(values).map(([key, source]) => ({ field: `values.${key}`, source })),
  gives: (settings, catalogue) =>
    (lookUpOf(catalogue, settings)?.gives ?? []).map(({ key, label }) => ({
      key: `${prefixOf(settings)}.${key}`,
      label: `${settings.name || 'Service'}: ${label}`,
    })),
  plan: (settings, { context, catalogue, now }) => {
    const found = lookUpOf(catalogue, settings);
    if (!found) return { does: 'ask', why: { code: 'gone', text: 'The service of this step is no longer connected' } };
    const scope = machineScope(context, now);
    const given: Record<string, string> = {};
    for (const { key } of found.takes) {
      const rendered = renderTemplate(settings.values[key] ?? '', scope);
      if (!rendered.ok) return { does: 'ask', why: { code: 'template', text: rendered.problem.text } };
      given[key] = rendered.text.trim();
    }
    if (Object.values(given).every((value) => value === '') && settings.whenNone === 'blanks')
      return { does: 'nothing', why: { code: 'empty', text: 'There is nothing to ask by' } };
    const { connection, lookUp, whenNone } = settings;
    return {
      does: 'call',
      words: `Asks ${serviceOf(catalogue, connection)!.name} for ${found.label.toLowerCase()} by ${Object.values(given).join(', ')}`,
      ...(whenNone === 'blanks' ? {} : { ends: whenNone === 'end_run' ? ('run' as const) : ('moment' as const) }),
      what: { connectionId: connection, lookUp, given, prefix: prefixOf(settings) } satisfies AskedElsewhere,
    };
  },
};
