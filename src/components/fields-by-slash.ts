import {
  autocompletion,
  type Completion,
  type CompletionContext,
  type CompletionResult,
} from '@codemirror/autocomplete';
import type { Extension } from '@codemirror/state';
import { EditorView } from '@codemirror/view';
import { GROUP_LABELS, writeReference } from '../core/template/field-reference.ts';
import { writeOutput } from '../core/template/filter-call.ts';
import type { PickableField } from './field-picker.ts';
import { foundFields } from './found-fields.ts';

/** Most fields that stand in the list at once; typing on finds the others. */
const MOST = 60;

/**
 * A slash at the beginning of a word opens the fields at hand, each with what the sample has in it; typing on narrows them down, Enter puts one in the
 * slash's place. A slash within a word, as in 10/12, is a slash.
 */
export function fieldsBySlash(fields: () => readonly PickableField[]): Extension {
  const source = (context: CompletionContext): CompletionResult | null => {
    const typed = context.matchBefore(/(?<![^\s(])\/[^\s/]*(?: [^\s/]+){0,3}$/u);
    if (!typed) return null;
    const found = foundFields(fields(), typed.text.slice(1)).slice(0, MOST);
    if (found.length === 0) return null;
    return {
      from: typed.from,
      filter: false,
      options: found.map((field): Completion & { value: string } => ({
        label: field.label,
        detail: GROUP_LABELS[field.group],
        value: field.value,
        apply: writeOutput(writeReference(field), []),
      })),
    };
  };
  return [
    autocompletion({
      override: [source],
      icons: false,
      activateOnTyping: true,
      // The slash asks for it: nobody meets this list by accident.
      activateOnTypingDelay: 0,
      interactionDelay: 0,
      addToOptions: [
        {
          position: 90,
          render: (completion) => {
            const value = document.createElement('span');
            value.className = 'cm-sample';
            value.textContent = (completion as Completion & { value: string }).value;
            return value;
          },
        },
      ],
    }),
    LOOK,
  ];
}

const LOOK = EditorView.theme({
  '.cm-tooltip.cm-tooltip-autocomplete': {
    border: '1px solid var(--color-base-300)',
    borderRadius: 'var(--radius-field)',
    backgroundColor: 'var(--color-base-100)',
    boxShadow: '0 6px 20px rgb(0 0 0 / 0.15)',
  },
  '.cm-tooltip.cm-tooltip-autocomplete > ul': {
    fontFamily: 'var(--font-sans)',
    fontSize: '0.8rem',
    maxHeight: '16rem',
    width: '17rem',
    maxWidth: '90vw',
  },
  '.cm-tooltip.cm-tooltip-autocomplete > ul > li': {
    display: 'flex',
    gap: '0.5rem',
    alignItems: 'baseline',
    padding: '0.25rem 0.5rem',
    color: 'var(--color-base-content)',
  },
  '.cm-tooltip.cm-tooltip-autocomplete > ul > li[aria-selected]': {
    backgroundColor: 'var(--pine-soft)',
    color: 'var(--color-base-content)',
  },
  '.cm-completionLabel': { fontWeight: '600', color: 'var(--color-primary)' },
  '.cm-completionDetail': { fontStyle: 'normal', marginLeft: '0', color: 'var(--ink-2)', fontSize: '0.72rem' },
  '.cm-sample': {
    marginLeft: 'auto',
    maxWidth: '45%',
    overflow: 'hidden',
    textOverflow: 'ellipsis',
    color: 'var(--ink-2)',
  },
});
