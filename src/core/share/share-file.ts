import { z } from 'zod';
import { Condition } from '../condition/condition.ts';
import { EmailLayout } from '../email/layout.ts';
import { ChatForm } from '../form/chat-form.ts';
import { FormPage } from '../form/form-page.ts';
import { ChatTemplateContent } from '../message/chat-template.ts';
import { readAs } from '../read-as.ts';
import { SheetColumn } from '../sheets/column.ts';
import { LeadCard } from '../source/lead-card.ts';
import { Definition } from '../workflow/definition.ts';

export const SHARE_VERSION = 1;
/** An id within the file: the n-th thing of it, or the n-th column of a sheet. They name nothing anywhere else. */
export const placeOf = (n: number): string => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
export const columnPlaceOf = (n: number): string => `c${String(n).padStart(12, '0')}`;

const Place = z.string().regex(/^00000000-0000-4000-8000-\d{12}$/);
const Name = z.string().trim().min(1).max(300);
const thing = <const K extends string, S extends z.ZodRawShape>(kind: K, content: S) =>
  z.object({ id: Place, kind: z.literal(kind), name: Name, ...content });

/** Kinds of sources that are made of their settings alone, with those that can travel. The others are connected where they are to be used. */
const SharedSource = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('webhook'), settings: z.object({ signed: z.boolean() }) }),
  z.object({ kind: z.literal('form-page'), settings: z.object({ page: FormPage }) }),
  z.object({ kind: z.literal('mailbox'), settings: z.object({}) }),
  z.object({ kind: z.literal('sheet'), settings: z.object({ tabId: Place, when: z.enum(['new', 'changed']) }) }),
]);

/** What a workflow names: with all that is needed to make it, or, where it is somebody or a service, with what has to be chosen. */
const Thing = z.discriminatedUnion('kind', [
  thing('tag', {}),
  thing('list', {
    optIn: z.enum(['single', 'double']),
    confirmSubject: z.string().max(500),
    confirmMessage: z.string().max(20_000),
    fields: z.array(z.object({ key: z.string().max(60), label: z.string().max(200) })).max(30),
  }),
  thing('tab', { sheet: Name, columns: z.array(SheetColumn).max(200) }),
  thing('pipeline', {
    /** ISO 4217; that of whoever takes it where nothing is said. */
    currency: z
      .string()
      .regex(/^[A-Z]{3}$/, 'A currency is three capital letters')
      .optional(),
    stages: z.array(z.object({ id: Place, name: Name, ends: z.enum(['won', 'lost']).nullable() })).max(40),
  }),
  thing('segment', { condition: Condition }),
  thing('email-template', { layout: EmailLayout }),
  thing('chat-form', { form: ChatForm }),
  thing('chat-template', { content: ChatTemplateContent }),
  /** `made` is null for one that has to be connected where the file is read. `brings` are the keys of its fields, for whoever connects another. */
  thing('source', { sourceKind: z.string().max(60), card: LeadCard, made: SharedSource.nullable() }),
  /** Somebody: who it is there is not told. The name says what they do in this workflow. */
  thing('colleague', {}),
  /** Something that was gone when the file was written. */
  thing('gone', {}),
]);
export type SharedThing = z.infer<typeof Thing>;

/** Workflows one file holds. */
export const MOST_WORKFLOWS = 100;

/** A file of workflows and all they name, or of things by themselves: docs/share.md. It holds no secrets, no people and no ids of anywhere. */
export const ShareFile = z
  .object({
    pineBell: z.literal('share'),
    version: z.number().int().min(1),
    things: z.array(Thing).max(1000),
    workflows: z
      .array(z.object({ name: Name.max(120), folder: z.string().max(60), sheet: Definition }))
      .max(MOST_WORKFLOWS),
  })
  .refine(({ things, workflows }) => things.length + workflows.length > 0, 'There is nothing in it');
export type ShareFile = z.infer<typeof ShareFile>;

export type ShareReading = { ok: true; file: ShareFile } | { ok: false; problem: string };
const refused = (problem: string): ShareReading => ({ ok: false, problem });
const NO_FILE_OF_OURS = 'This is no file that was shared: choose one that was made with Share.';

/** Reads what somebody handed in, as JSON gives it; text is what was no JSON. */
export function readShare(value: unknown): ShareReading {
  if (typeof value === 'string') return refused(`${NO_FILE_OF_OURS} It is not JSON, or it breaks off.`);
  const head = z.object({ pineBell: z.literal('share'), version: z.number() }).safeParse(value);
  if (!head.success) return refused(NO_FILE_OF_OURS);
  if (head.data.version > SHARE_VERSION)
    return refused('This file was written by a newer Pine Bell. Update this one, then read it again.');
  const read = readAs(ShareFile, value);
  if (!read.success) {
    const [issue] = read.error.issues;
    return refused(
      `Something in the file is not right, at ${issue!.path.join('.') || 'its beginning'}: ${issue!.message}.`,
    );
  }
  const { things } = read.data;
  const ids = things.flatMap((one) => [
    one.id,
    ...(one.kind === 'pipeline' ? one.stages.map((stage) => stage.id) : []),
  ]);
  if (new Set(ids).size < ids.length) return refused('Two things in the file have the same id.');
  return { ok: true, file: read.data };
}
