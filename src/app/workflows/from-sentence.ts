import { z } from 'zod';
import { labelFromKey } from '../../core/fields/field.ts';
import type { KnownThing } from '../../core/sentence/known.ts';
import { LONGEST_SENTENCE, readSentence, type SentenceRead } from '../../core/sentence/read-sentence.ts';
import { LEAD_FIELD_LABELS } from '../../core/source/lead-card.ts';
import { writeReference } from '../../core/template/field-reference.ts';
import type { Definition } from '../../core/workflow/definition.ts';
import { readAloud } from '../../core/workflow/read-aloud.ts';
import { stepKinds } from '../../steps/registry.ts';
import { demand } from '../actor.ts';
import { answerKeys } from '../leads/lead-rows.ts';
import { Refusal } from '../refusal.ts';
import { type ShownMoment, shownMoments } from '../share/look.ts';
import type { Use } from '../use.ts';
import { catalogueFor } from './sample.ts';
import { createWorkflow, workflowNames } from './workflows.ts';

export const Sentence = z.object({
  text: z
    .string()
    .trim()
    .max(LONGEST_SENTENCE, `That is longer than a sentence can be: ${LONGEST_SENTENCE} letters at most`),
  /** By the id of a question, the id of what was chosen. */
  answers: z.record(z.string().max(200), z.string().max(60)).default({}),
});
export const SentenceTaken = Sentence.extend({ name: z.string().trim().min(1, 'Give the workflow a name').max(120) });

export interface SentenceView extends Omit<SentenceRead, 'sheet'> {
  moments: ShownMoment[];
  /** The draft read back. */
  aloud: string[];
  /** A name it could have. */
  name: string;
  /** It does something. */
  whole: boolean;
}

/** Everything of this business that a sentence can name. */
async function knownThings(use: Use): Promise<KnownThing[]> {
  const [catalogue, keys, sources] = await Promise.all([
    catalogueFor(use),
    answerKeys(use),
    use.db.query<{ id: string; name: string; kind: string }>(
      'select id, name, kind from source where business_id = $1 and removed_at is null order by created_at',
      [use.actor.businessId],
    ),
  ]);
  const named = (kind: KnownThing['kind'], all: readonly { id: string; name: string }[]): KnownThing[] =>
    all.map(({ id, name }) => ({ kind, id, name }));
  const fields = [
    ...Object.entries(LEAD_FIELD_LABELS).map(([key, name]) => ({ id: writeReference({ group: 'lead', key }), name })),
    ...keys.answers.map((key) => ({ id: writeReference({ group: 'answers', key }), name: labelFromKey(key) })),
    ...keys.own.map((key) => ({ id: writeReference({ group: 'own', key }), name: labelFromKey(key) })),
  ];
  return [
    ...sources.rows.map((one): KnownThing => ({ kind: 'source', id: one.id, name: one.name, sourceKind: one.kind })),
    ...named('list', catalogue.lists),
    ...named('tag', catalogue.tags),
    ...named('colleague', catalogue.colleagues),
    ...catalogue.tabs.map((tab): KnownThing => ({ kind: 'tab', id: tab.id, name: tab.name, columns: tab.columns })),
    ...named('stage', catalogue.stages),
    ...named('template', catalogue.emailTemplates),
    ...named('form', catalogue.chatForms),
    ...named('field', fields),
  ];
}

const blank = (kind: string) => stepKinds.get(kind)!.blank() as Record<string, unknown>;
const isEmpty = ({ moments }: Definition) =>
  moments.every(({ first, lanes, cases }) => first.length + cases.length + Object.values(lanes).flat().length === 0);

/** What a sentence would become. Nothing is written. */
export async function lookAtSentence(use: Use, { text, answers }: z.infer<typeof Sentence>): Promise<SentenceView> {
  const things = await knownThings(use);
  const { sheet, ...read } = readSentence(text, things, { blank, answers });
  const catalogue = await catalogueFor(use);
  const source = things.find(({ kind, id }) => kind === 'source' && id === sheet.sources[0]);
  const [rules, ...rest] = readAloud(sheet, stepKinds, catalogue);
  return {
    ...read,
    moments: shownMoments(sheet, catalogue),
    // The rules every sheet begins with are no answer to what was said.
    aloud: [rules!.sentences[0]!, ...rest.flatMap((part) => part.sentences)],
    name: source ? `${source.name.slice(0, 100)}: reply` : '',
    whole: !isEmpty(sheet),
  };
}

/** Makes the draft a sentence says. It never goes live by it: what it sends is to be read first. */
export async function draftFromSentence(
  use: Use,
  { text, answers, name }: z.infer<typeof SentenceTaken>,
): Promise<{ id: string }> {
  demand(use.actor, 'build');
  const { sheet } = readSentence(text, await knownThings(use), { blank, answers });
  if (isEmpty(sheet))
    throw new Refusal(
      422,
      'nothing-said',
      'Nothing in this sentence says what to do. Say it like “text them” or “tell” somebody.',
      { field: 'text' },
    );
  return use.write(async (tx) => {
    const names = await workflowNames(tx);
    let free = name;
    for (let n = 2; names.has(free); n++) free = `${name.slice(0, 112)} (${n})`;
    const { id } = await createWorkflow(tx, { name: free, folder: '', draft: sheet });
    tx.note('workflow.from_sentence', id, { name: free });
    return { id };
  });
}
