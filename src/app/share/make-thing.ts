import type { SharedThing } from '../../core/share/share-file.ts';
import { swapIds } from '../../core/share/swap-ids.ts';
import { NurtureList } from '../../db/entities/nurture.ts';
import { SheetTab } from '../../db/entities/sheet.ts';
import { createPipeline } from '../deals/pipelines.ts';
import { createSegment } from '../leads/segments.ts';
import { createTag } from '../leads/tags.ts';
import { createList } from '../lists/lists.ts';
import { createChatForm, saveChatForm } from '../messages/chat-forms.ts';
import { createChatTemplate, saveChatTemplate } from '../messages/chat-templates.ts';
import { createTemplate } from '../messages/email-templates.ts';
import { createSheet, newColumn } from '../sheets/sheets.ts';
import { changeSource } from '../sources/change-source.ts';
import { addSource, saveCard } from '../sources/sources.ts';
import type { Use, Write } from '../use.ts';

/**
 * Makes a thing of a file, whose ids are ours by now but for its own; gives the new ids by those. Null for what is not made here: a source is made by
 * itself (makeSource), somebody is chosen.
 */
export async function makeThing(tx: Write, one: SharedThing): Promise<Map<string, string> | null> {
  const itself = ({ id }: { id: string }) => new Map([[one.id, id]]);
  switch (one.kind) {
    case 'tag':
      return itself(await createTag(tx, one.name));
    case 'list': {
      const made = await createList(tx, one.name);
      const list = await tx.em.findOneOrFail(NurtureList, { id: made.id });
      const { optIn, confirmSubject, confirmMessage, fields } = one;
      Object.assign(list, { optIn, confirmSubject, confirmMessage, fields });
      return itself(made);
    }
    case 'tab': {
      const sheet = await createSheet(tx, { name: one.name, columns: one.columns.map((column) => column.name) });
      const tab = await tx.em.findOneOrFail(SheetTab, { id: sheet.tabs[0]!.id });
      const ids = new Map(one.columns.map((column) => [column.id, newColumn(column.name).id]));
      tab.columns = swapIds(one.columns, (id) => ids.get(id) ?? id);
      return new Map([...itself(tab), ...ids]);
    }
    case 'pipeline': {
      const made = await createPipeline(tx, { name: one.name, stages: one.stages, currency: one.currency });
      return new Map([...itself(made), ...one.stages.map((stage, i) => [stage.id, made.stages[i]!.id] as const)]);
    }
    case 'segment':
      return itself(await createSegment(tx, { name: one.name, condition: one.condition }));
    case 'email-template':
      return itself(await createTemplate(tx, { name: one.name, layout: one.layout }));
    case 'chat-form': {
      const made = await createChatForm(tx, { name: one.name });
      await saveChatForm(tx, made.id, one.form);
      return itself(made);
    }
    case 'chat-template': {
      const made = await createChatTemplate(tx, { name: one.name });
      await saveChatTemplate(tx, made.id, one.content);
      return itself(made);
    }
    case 'source':
    case 'colleague':
    case 'gone':
      return null;
  }
}

/** Makes a source of a file, with its lead card; null for one that has to be connected. Outside a transaction: a sheet it listens to has to stand. */
export async function makeSource(
  use: Use,
  one: Extract<SharedThing, { kind: 'source' }>,
): Promise<Map<string, string> | null> {
  if (!one.made) return null;
  const { kind, settings } = one.made;
  const more = kind === 'sheet' ? { fromRow: null } : { title: one.name };
  const { id } = await addSource(use, { kind, name: one.name, ...more, ...settings });
  await use.write(async (tx) => {
    await changeSource(tx, id, { name: one.name, ...(kind === 'form-page' ? { settings } : {}) });
    if (one.card.fields.email || one.card.fields.phone) await saveCard(tx, id, one.card);
  });
  return new Map([[one.id, id]]);
}
