import { z } from 'zod';
import { renderTemplate } from '../../core/template/template.ts';
import { addSpan, SPAN_UNITS, spanWords } from '../../core/time/span.ts';
import { readingScope } from '../../core/workflow/run-context.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';
import { colleagueName, colleagueProblem, theColleague } from '../the-colleague.ts';

const Settings = z.object({
  title: z.string().max(300),
  /** Id of a colleague, "owner" for the lead's owner, empty for whoever is free. */
  colleague: z.string().max(60),
  within: z.object({ amount: z.number().int().min(1).max(1000), unit: z.enum(SPAN_UNITS) }),
});
export type TaskSettings = z.infer<typeof Settings>;
export type TaskDone = { title: string; colleagueId: string | null; dueAt: number };

/** Something a colleague is to do by a time: usually a call. */
export const task: StepKind<TaskSettings> = {
  kind: 'task',
  label: 'Call task',
  icon: 'phone-forwarded',
  places: ['team'],
  settings: Settings,
  blank: () => ({ title: 'Call {{ lead.full_name }}', colleague: '', within: { amount: 1, unit: 'hours' } }),
  card: ({ title, within }) => ({ title: 'Call task', line: `${title}, within ${spanWords(within)}` }),
  aloud: ({ colleague, within }, catalogue) =>
    `set a call task for ${colleague === '' ? 'the desk' : colleagueName(colleague, catalogue)}, due within ${spanWords(within)}`,
  check: ({ title, colleague }, { catalogue }) => {
    const out: ReturnType<StepKind['check']> = [];
    if (title.trim() === '')
      out.push({ weight: 'must', code: 'empty', text: 'Call task: say what is to be done.', field: 'title' });
    const gone = colleague === '' ? null : colleagueProblem(colleague, catalogue);
    if (gone) out.push({ weight: 'must', code: 'gone', text: `Call task: ${gone}`, field: 'colleague' });
    return out;
  },
  repeats: true,
  templates: ({ title }) => [{ field: 'title', source: title }],
  plan: ({ title, colleague, within }, { context, catalogue, now }) => {
    const rendered = renderTemplate(title, readingScope(context, now));
    if (!rendered.ok) return { does: 'ask', why: { code: 'template', text: rendered.problem.text } };
    const who = colleague === '' ? null : theColleague(colleague, context, catalogue);
    const what: TaskDone = {
      title: rendered.text.trim().slice(0, 300) || 'Call the lead',
      colleagueId: who?.id ?? null,
      dueAt: addSpan(now, within, context.business.timeZone),
    };
    return {
      does: 'record',
      words: `${what.title}, for ${who?.name ?? 'whoever is free'}, within ${spanWords(within)}`,
      what,
    };
  },
};
