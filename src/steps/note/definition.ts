import { z } from 'zod';
import { renderTemplate } from '../../core/template/template.ts';
import { readingScope } from '../../core/workflow/run-context.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';

const Settings = z.object({ text: z.string().max(10_000) });
export type NoteSettings = z.infer<typeof Settings>;
export type NoteDone = { text: string };

/** A note on the lead's page. */
export const note: StepKind<NoteSettings> = {
  kind: 'note',
  label: 'Note on the lead',
  icon: 'notebook-pen',
  places: ['record'],
  settings: Settings,
  blank: () => ({ text: '' }),
  card: ({ text }) => ({ title: 'Note on the lead', line: text }),
  aloud: () => 'write a note on their page',
  check: ({ text }) =>
    text.trim() === '' ? [{ weight: 'must', code: 'empty', text: 'Note: it is empty.', field: 'text' }] : [],
  repeats: true,
  templates: ({ text }) => [{ field: 'text', source: text }],
  plan: ({ text }, { context, now }) => {
    const rendered = renderTemplate(text, readingScope(context, now));
    if (!rendered.ok) return { does: 'ask', why: { code: 'template', text: rendered.problem.text } };
    const written = rendered.text.trim();
    if (written === '') return { does: 'nothing', why: { code: 'empty', text: 'The note came out empty' } };
    return { does: 'record', words: `Note: ${written}`, what: { text: written } satisfies NoteDone };
  },
};
