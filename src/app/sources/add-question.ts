import { z } from 'zod';
import { keyFrom, keysOf, withScreen } from '../../core/form/edit-screens.ts';
import type { FormPage } from '../../core/form/form-page.ts';
import { formPage } from '../../sources/form-page/definition.ts';
import { demand } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Write } from '../use.ts';
import { changeSource } from './change-source.ts';
import { findSource } from './sources.ts';

export const NewQuestion = z.object({ label: z.string().trim().min(1, 'Say what is asked').max(200) });

/** One more question at the end of a form page, which may be left empty; its key is what messages know its answer by. */
export async function addQuestion(
  tx: Write,
  sourceId: string,
  { label }: z.infer<typeof NewQuestion>,
): Promise<{ key: string; label: string }> {
  demand(tx.actor, 'build');
  // Two colleagues who ask for one more at once wait for each other.
  await tx.db.query('select from source where id = $1 and business_id = $2 for update', [
    sourceId,
    tx.actor.businessId,
  ]);
  const source = await findSource(tx, sourceId);
  await tx.em.refresh(source);
  if (source.kind !== formPage.kind)
    throw new Refusal(409, 'no-form', 'Only a form page of your own can be asked for one more answer from here.');
  const page = structuredClone((source.settings as { page: FormPage }).page);
  if (page.screens.some(({ fields }) => fields.some((field) => field.label.toLowerCase() === label.toLowerCase())))
    throw new Refusal(409, 'name-taken', `The form asks for “${label}” already.`);
  const key = keyFrom(label, keysOf(page.screens));
  const last = page.screens.length - 1;
  page.screens = withScreen(page.screens, last, {
    fields: [...page.screens[last]!.fields, { key, label, kind: 'short', required: false, help: '', choices: [] }],
  });
  await changeSource(tx, sourceId, { settings: { page } });
  return { key, label };
}
