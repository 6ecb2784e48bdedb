import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { Compartment, EditorState } from '@codemirror/state';
import { EditorView, keymap } from '@codemirror/view';
import { useContext, useEffect, useId, useRef, useState } from 'react';
import { AddPopover } from './AddPopover.tsx';
import { ChipMenu } from './ChipMenu.tsx';
import { chips, type OpenChip } from './chips.ts';
import { FieldMenu } from './FieldMenu.tsx';
import { FieldPickerContext } from './field-picker.ts';

interface Props {
  label: string;
  value: string;
  onChange: (value: string) => void;
  /** One line only: line breaks become spaces. */
  single?: boolean;
  /** The name the "To check" list knows this field by. */
  field: string;
}

/** What is pasted with line breaks becomes one line. */
const ONE_LINE = EditorState.transactionFilter.of((change) => {
  if (change.newDoc.lines <= 1) return change;
  const lines = change.newDoc.toString().split('\n');
  const insert = lines
    .map((line) => line.trim())
    .filter(Boolean)
    .join(' ');
  return [change, { changes: { from: 0, to: change.newDoc.length, insert }, sequential: true }];
});

const look = (single: boolean) =>
  EditorView.theme({
    '&': {
      fontSize: '14px',
      backgroundColor: 'var(--field-ground)',
      border: '1px solid var(--field-line)',
      borderRadius: 'var(--radius-field)',
    },
    '&.cm-focused': { outline: '2px solid var(--color-primary)', outlineOffset: '1px' },
    '.cm-scroller': { fontFamily: 'var(--font-sans)', lineHeight: '1.75' },
    '.cm-content': {
      padding: '5px 0',
      caretColor: 'var(--color-base-content)',
      minHeight: single ? '20px' : '92px',
    },
    '.cm-line': { padding: '0 9px' },
  });

/** A message or line with fields in it as chips. The value is Liquid; nobody has to see it, everybody can. */
export function TokenField({ label, value, onChange, single = false, field }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const shown = useRef(new Compartment());
  const picker = useContext(FieldPickerContext);
  const latest = useRef({ onChange, picker });
  const [asText, setAsText] = useState(false);
  const [chip, setChip] = useState<OpenChip | null>(null);
  const id = useId();
  useEffect(() => {
    latest.current = { onChange, picker };
  });

  // biome-ignore lint/correctness/useExhaustiveDependencies: the editor is made once; what changes is handed over below
  useEffect(() => {
    const insert = (text: string) => {
      const editor = view.current;
      if (!editor) return;
      editor.dispatch(editor.state.replaceSelection(text), { scrollIntoView: true });
      editor.focus();
    };
    const made = new EditorView({
      parent: host.current!,
      state: EditorState.create({
        doc: value,
        extensions: [
          history(),
          keymap.of([...historyKeymap, ...defaultKeymap]),
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({ 'aria-labelledby': `${id}-label`, 'data-field': field }),
          shown.current.of(chips(picker.labels, setChip)),
          ...(single ? [ONE_LINE] : []),
          EditorView.updateListener.of((update) => {
            if (update.focusChanged && update.view.hasFocus) latest.current.picker.setTarget(insert);
            if (update.docChanged) {
              setChip(null);
              latest.current.onChange(update.state.doc.toString());
            }
          }),
          look(single),
        ],
      }),
    });
    view.current = made;
    return () => made.destroy();
  }, []);

  useEffect(() => {
    const editor = view.current;
    if (editor && editor.state.doc.toString() !== value)
      editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: value } });
  }, [value]);
  useEffect(() => {
    view.current?.dispatch({ effects: shown.current.reconfigure(asText ? [] : chips(picker.labels, setChip)) });
  }, [asText, picker.labels]);

  const replaceChip = (source: string) => {
    if (chip) view.current?.dispatch({ changes: { from: chip.from, to: chip.to, insert: source } });
    setChip(null);
    view.current?.focus();
  };
  const addField = (text: string) => {
    view.current?.dispatch(view.current.state.replaceSelection(text));
    view.current?.focus();
  };
  return (
    <div className="mb-3">
      <div className="flex items-end justify-between">
        <span className="field-label" id={`${id}-label`}>
          {label}
        </span>
        <span className="mb-0.5 flex gap-1">
          <AddPopover what="Field" tiny buttonClass="btn btn-ghost btn-xs text-ink-2" panelClass="w-64 p-1">
            {(close) => (
              <FieldMenu
                fields={picker.fields}
                onPick={(text) => {
                  close();
                  addField(text);
                }}
              />
            )}
          </AddPopover>
          <button
            type="button"
            className="btn btn-ghost btn-xs text-ink-2"
            aria-pressed={asText}
            onClick={() => setAsText(!asText)}
          >
            {asText ? 'Show chips' : 'Write as text'}
          </button>
        </span>
      </div>
      <div ref={host} className="relative" />
      {chip && <ChipMenu chip={chip} host={host.current} onPick={replaceChip} onClose={() => setChip(null)} />}
    </div>
  );
}
