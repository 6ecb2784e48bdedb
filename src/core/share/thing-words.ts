import { conditionWords } from '../condition/words.ts';
import type { Block } from '../email/layout.ts';
import type { FormField } from '../form/form-page.ts';
import { LEAD_FIELD_LABELS, type LeadCard } from '../source/lead-card.ts';
import { templateWords } from '../template/template.ts';
import { type Catalogue, catalogueNames } from '../workflow/step-kind.ts';
import type { SharedThing } from './share-file.ts';

/** More of one thing is counted, not read out. */
const MOST_LINES = 12;

const question = ({ label, kind, choices, required }: FormField): string =>
  `${label}${choices.length > 0 ? `: ${choices.join(', ')}` : kind === 'tick' ? ' (a tick)' : ''}${required ? '' : ' (may be left empty)'}`;

/** The words of a block of an email; nothing for what has none. */
function blockWords(block: Block): string[] {
  switch (block.kind) {
    case 'heading':
    case 'text':
    case 'footer':
      return block.text
        .split(/\n+/)
        .map((line) => templateWords(line))
        .filter(Boolean);
    case 'button':
      return [`Button: ${templateWords(block.label)}`];
    case 'picture':
      return [`Picture: ${block.alt || 'without words'}`];
    case 'social':
      return [block.links.map(({ name }) => name).join(', ')].filter(Boolean);
    case 'columns':
      return [...block.left, ...block.right].flatMap(blockWords);
    case 'divider':
      return [];
  }
}

function cardWords({ fields, consent }: LeadCard): string[] {
  const which = Object.entries(fields).map(
    ([as, key]) => `${LEAD_FIELD_LABELS[as as keyof typeof LEAD_FIELD_LABELS]} from ${key}`,
  );
  const asked = {
    field: 'Consent by a field of the entry',
    asked_elsewhere: 'Consent asked elsewhere',
    not_asked: 'No consent asked',
  }[consent.kind];
  return [...which, asked];
}

function lines(one: SharedThing, catalogue: Catalogue): string[] {
  switch (one.kind) {
    case 'email-template':
      return one.layout.as === 'html' ? ['Written as HTML'] : one.layout.blocks.flatMap(blockWords);
    case 'chat-form':
      return one.form.screens.flatMap(({ fields }) => fields.map(question));
    case 'chat-template':
      return [templateWords(one.content.text), ...one.content.buttons.map((button) => `Button: ${button}`)].filter(
        Boolean,
      );
    case 'source':
      return [
        ...(one.made?.kind === 'form-page'
          ? one.made.settings.page.screens.flatMap(({ fields }) => fields.map(question))
          : []),
        ...cardWords(one.card),
      ];
    case 'list':
      return one.fields.map(({ label }) => label);
    case 'tab':
      return one.columns.map(({ name }) => name);
    case 'pipeline':
      return one.stages.map(({ name }) => name);
    case 'segment':
      return [conditionWords(one.condition, catalogueNames(catalogue))];
    case 'tag':
    case 'colleague':
    case 'gone':
      return [];
  }
}

/** What is in a thing of a file, line by line, as somebody reads it before taking it. */
export function thingWords(one: SharedThing, catalogue: Catalogue): string[] {
  const all = lines(one, catalogue);
  return all.length <= MOST_LINES ? all : [...all.slice(0, MOST_LINES - 1), `and ${all.length - MOST_LINES + 1} more`];
}
