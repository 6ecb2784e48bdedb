import type { z } from 'zod';
import { Refusal, refusalOf } from '../app/refusal.ts';

/** What came of a form: saved, or what was wrong and what was typed. */
export type FormDone = { saved: true } | { saved: false; told: string; status: number; kept: Record<string, string> };

/** What somebody typed, read by its schema; the first thing that is wrong is said. */
export function readTyped<Schema extends z.ZodType>(schema: Schema, typed: unknown): z.infer<Schema> {
  const result = schema.safeParse(typed);
  if (!result.success) throw new Refusal(422, 'input', `${result.error.issues[0]!.message}.`);
  return result.data;
}

/** A page's form that was sent: the work of its kind (the field "form") is done with what was typed. Null when the page is only looked at. */
export async function sentForm(
  request: Request,
  works: Readonly<Record<string, (typed: Record<string, string>) => Promise<void>>>,
): Promise<FormDone | null> {
  if (request.method !== 'POST') return null;
  const typed = Object.fromEntries([...(await request.formData())].map(([name, value]) => [name, String(value)]));
  try {
    const work = Object.hasOwn(works, typed.form ?? '') ? works[typed.form!] : undefined;
    if (!work) throw new Refusal(422, 'input', 'This form is not known here. Open the page again.');
    await work(typed);
    return { saved: true };
  } catch (error) {
    const refusal = refusalOf(error);
    if (!refusal) throw error;
    return { saved: false, told: refusal.message, status: refusal.status, kept: typed };
  }
}

/** What a page says after its form: that it is saved (the address says so), or what was wrong; what was typed stays in its form. */
export function afterForm(
  done: FormDone | null,
  url: URL,
): { told: { good: boolean; text: string } | null; kept: Record<string, string>; status: number } {
  if (done && !done.saved) return { told: { good: false, text: done.told }, kept: done.kept, status: done.status };
  return { told: url.searchParams.has('saved') ? { good: true, text: 'Saved.' } : null, kept: {}, status: 200 };
}
